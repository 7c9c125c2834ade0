import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearchParams } from "react-router";
import { type ApiProblem, api, told } from "../../api/client";
import { keys, type Me, useMachineForms, useMe } from "../../api/queries";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { Usual } from "../kit/Usual";
import { Forms } from "../machine/Forms";
import { useSymptoms } from "../symptoms/queries";
import { Tiles } from "../symptoms/Tiles";

/** A workshop in which nothing stands yet: what it begins with, and nothing else. */
export function Beginning({ workshopId }: { workshopId: string }) {
  const forms = useMachineForms();
  const symptoms = useSymptoms();
  const [search, setSearch] = useSearchParams();
  const symptom = search.get("symptom");
  const go = useNavigate();
  if (forms.isPending) return <Loading />;
  if (forms.isError) return <Failed problem={forms.error} />;
  return (
    <>
      <Typography variant="h1" sx={{ mb: 1 }}>
        Which machine stands in your shed?
      </Typography>
      <Typography sx={{ mb: 2, maxWidth: 720 }}>
        Press the form that is nearest. Its figures are there to be corrected, and more can be said
        of it when a check asks for it.
      </Typography>
      <Forms
        starts={forms.data.starts}
        pick={(form) =>
          go(
            `/w/${workshopId}/new-machine?form=${form.form}${symptom ? `&symptom=${symptom}` : ""}`,
          )
        }
      />
      <Box component="section" aria-labelledby="symptom" sx={{ mt: 4 }}>
        <Typography id="symptom" variant="h2">
          What brings you here?
        </Typography>
        <Typography sx={{ mb: 1.5, color: "text.secondary", maxWidth: 720 }}>
          If something comes out wrong, press what you see, then the form of the machine above: what
          can be behind it follows.
        </Typography>
        <Tiles
          small
          symptoms={symptoms.data ?? []}
          picked={symptom}
          pick={(key) =>
            setSearch(key === symptom ? {} : { symptom: key }, {
              replace: true,
              preventScrollReset: true,
            })
          }
        />
      </Box>
      <Box component="section" aria-labelledby="bench" sx={{ mt: 4 }}>
        <Typography id="bench" variant="h2">
          What do you have to measure with?
        </Typography>
        <Typography sx={{ mb: 1.5, color: "text.secondary", maxWidth: 720 }}>
          Press what lies on the bench. Each comes with the figures such things usually have;
          correct them later under Kit.
        </Typography>
        <Usual workshopId={workshopId} />
      </Box>
      <Demo />
    </>
  );
}

/** The demo, in place of this account for the time being. */
function Demo() {
  const me = useMe();
  const client = useQueryClient();
  const demo = useMutation<Me, ApiProblem>({
    mutationFn: () => told(api.POST("/api/v1/demo/open")),
    onSuccess: (visitor) => client.setQueryData(keys.me, visitor),
  });
  if (!me.data?.demo_offered) return null;
  return (
    <Box component="section" sx={{ mt: 4 }}>
      <Typography variant="h2">Or look round first</Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", columnGap: 1 }}>
        <Button disabled={demo.isPending} onClick={() => demo.mutate()} sx={{ ml: -1 }}>
          Open the demo workshop
        </Button>
        <Box sx={{ color: "text.secondary" }}>
          You are its visitor then; sign out and in again to come back here.
        </Box>
      </Box>
      {demo.error && (
        <Remark tone="error" role="alert">
          {demo.error.message}
        </Remark>
      )}
    </Box>
  );
}
