import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { Link as RouterLink, useParams } from "react-router";
import { type Machine, useEvening, useMachine } from "../../api/queries";
import { PlumbLine } from "../../parts/PlumbLine";
import { Failed, Loading } from "../../parts/Waiting";
import { Making } from "./Making";
import { UnderWay } from "./UnderWay";

/** The plan for tonight: made here, then ticked through; another day it goes on where it stopped. */
export default function Evening() {
  const { machineId = "" } = useParams();
  const machine = useMachine(machineId);
  if (machine.isPending) return <Loading />;
  if (machine.isError) return <Failed problem={machine.error} />;
  return <For machine={machine.data} />;
}

function For({ machine }: { machine: Machine }) {
  const evening = useEvening(machine.evening);
  const at = evening.data?.plan.steps[0]?.kind ?? machine.next_step?.kind;
  return (
    <Box sx={{ display: "flex", flexDirection: { xs: "column", md: "row" }, gap: { md: 3 } }}>
      <PlumbLine
        machineId={machine.id}
        stages={machine.stages}
        at={machine.checks.find((c) => c.kind === at)?.stage}
      />
      <Box sx={{ flex: 1, minWidth: 0, px: 2, py: 3, maxWidth: 1060 }}>
        <Typography variant="h1">{machine.evening ? "The evening" : "Plan an evening"}</Typography>
        <Typography sx={{ mb: 2 }}>
          <Link component={RouterLink} to={`/machines/${machine.id}`} color="text.secondary">
            {machine.name}
          </Link>
        </Typography>
        {machine.evening === null && <Making machine={machine} />}
        {machine.evening !== null && evening.isPending && <Loading />}
        {evening.isError && <Failed problem={evening.error} />}
        {machine.evening !== null && evening.data && (
          <UnderWay machine={machine} evening={evening.data} />
        )}
      </Box>
    </Box>
  );
}
