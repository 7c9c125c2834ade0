import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { Link as RouterLink, useNavigate, useParams } from "react-router";
import { useMachine } from "../../api/queries";
import { Failed, Loading } from "../../parts/Waiting";
import { Asked, Page } from "./Page";
import { useSymptomsOf } from "./queries";
import { Tiles } from "./Tiles";

/** What brings one to a machine: pressed here, looked for on the next page. */
export default function OfMachine() {
  const { machineId = "" } = useParams();
  const machine = useMachine(machineId);
  const symptoms = useSymptomsOf(machineId);
  const go = useNavigate();
  if (machine.isPending || symptoms.isPending) return <Loading />;
  if (machine.isError) return <Failed problem={machine.error} />;
  if (symptoms.isError) return <Failed problem={symptoms.error} />;
  return (
    <Page>
      <Typography sx={{ mb: 0.5 }}>
        <Link component={RouterLink} to={`/machines/${machineId}`} color="text.secondary">
          {machine.data.name}
        </Link>
      </Typography>
      <Asked />
      <Tiles
        symptoms={symptoms.data}
        pick={(key) => go(`/machines/${machineId}/symptoms/${key}`)}
      />
    </Page>
  );
}
