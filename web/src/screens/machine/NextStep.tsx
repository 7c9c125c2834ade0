import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link as RouterLink } from "react-router";
import type { Words } from "../../api/client";
import type { Machine } from "../../api/queries";
import { OpenCheck } from "../../parts/OpenCheck";
import { useSettings } from "../../settings";

/** What to do now, why, how long it takes and what to have at hand; and the evening's plan. */
export function NextStep({ machine, detour }: { machine: Machine; detour?: Words | null }) {
  const { say } = useSettings();
  const step = machine.next_step;
  const evening = (
    <Button component={RouterLink} to={`/machines/${machine.id}/evening`} variant="outlined">
      {machine.evening ? "Go on with the evening" : "Plan an evening"}
    </Button>
  );
  if (!step)
    return (
      <>
        <Typography variant="h2" sx={{ mb: 1 }}>
          {machine.checks.length ? "Nothing is open" : "Nothing to measure yet"}
        </Typography>
        <Typography sx={{ mb: 2 }}>
          {say(machine.told)}
          {machine.checks.length > 0 &&
            " Say so when it is moved, when it crashes, when a part is replaced: what that undoes will be told."}
        </Typography>
        {machine.evening && evening}
      </>
    );
  const title = step.title.toLowerCase();
  return (
    <>
      <Typography variant="h2" sx={{ mb: 1 }}>
        Next step, and why
      </Typography>
      <Typography sx={{ mb: 1 }}>{say(step.reason)}</Typography>
      <Typography sx={{ mb: 2, color: "text.secondary" }}>
        At hand: {step.kit.join("; ")}.
      </Typography>
      {machine.can_write && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
          <OpenCheck
            main
            machineId={machine.id}
            kind={step.kind}
            detour={detour}
            text={`${step.open_check ? "Go on:" : "Begin:"} ${title} · ${step.minutes} min`}
          />
          {evening}
        </Box>
      )}
    </>
  );
}
