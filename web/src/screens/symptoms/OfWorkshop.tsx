import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useEffect, useRef } from "react";
import { Link as RouterLink, useNavigate, useParams, useSearchParams } from "react-router";
import { useWorkshop } from "../../api/queries";
import { Failed, Loading } from "../../parts/Waiting";
import { Asked, Page } from "./Page";
import { useSymptoms } from "./queries";
import { Tiles } from "./Tiles";

/** What brings one here, where it has yet to be said on which machine. */
export default function OfWorkshop() {
  const { workshopId = "" } = useParams();
  const workshop = useWorkshop(workshopId);
  const symptoms = useSymptoms();
  const go = useNavigate();
  const [search, setSearch] = useSearchParams();
  const picked = search.get("symptom");
  const which = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    if (picked) which.current?.focus();
  }, [picked]);
  if (workshop.isPending || symptoms.isPending) return <Loading />;
  if (workshop.isError) return <Failed problem={workshop.error} />;
  if (symptoms.isError) return <Failed problem={symptoms.error} />;
  const machines = workshop.data.machines;
  const only = machines.length === 1 ? machines[0] : undefined;
  const to = (machine: string, key: string) => `/machines/${machine}/symptoms/${key}`;
  return (
    <Page>
      <Asked />
      <Tiles
        symptoms={symptoms.data}
        picked={only ? undefined : picked}
        pick={(key) => (only ? go(to(only.id, key)) : setSearch({ symptom: key }))}
      />
      {picked && !only && (
        <Box component="section" sx={{ mt: 3 }}>
          <Typography variant="h2" ref={which} tabIndex={-1} sx={{ mb: 1, outline: "none" }}>
            On which machine?
          </Typography>
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
            {machines.map((machine) => (
              <Button
                key={machine.id}
                variant="outlined"
                component={RouterLink}
                to={to(machine.id, picked)}
              >
                {machine.name}
              </Button>
            ))}
          </Box>
          {machines.length === 0 && (
            <Typography>
              None stands here yet.{" "}
              <Link component={RouterLink} to={`/w/${workshopId}`}>
                Begin with its form
              </Link>
              .
            </Typography>
          )}
        </Box>
      )}
    </Page>
  );
}
