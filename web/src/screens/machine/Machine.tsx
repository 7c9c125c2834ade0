import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link as RouterLink, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { type Machine as MachineState, useMachine } from "../../api/queries";
import { GhostFigure } from "../../figures/GhostFigure";
import { PlumbLine } from "../../parts/PlumbLine";
import { useOpenCheck } from "../../parts/useOpenCheck";
import { useWhen } from "../../parts/useWhen";
import { STATUS_WORDS, VerdictMark } from "../../parts/VerdictMark";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";

export default function Machine() {
  const { machineId = "" } = useParams();
  const machine = useMachine(machineId);
  if (machine.isPending) return <Loading />;
  if (machine.isError)
    return <Failed problem={machine.error} again={() => void machine.refetch()} />;
  return <Whole key={machineId} machine={machine.data} />;
}

function Whole({ machine }: { machine: MachineState }) {
  const { say } = useSettings();
  const [factor, setFactor] = useState(machine.ghost.factor);
  const factors = machine.ghost.factors;
  const step = machine.next_step;
  const measured = machine.ghost.worst_mm_per_m > 0;
  return (
    <Box sx={{ display: "flex", flexDirection: { xs: "column", md: "row" }, gap: { md: 3 } }}>
      <PlumbLine stages={machine.stages} at={step?.stage} />
      <Box sx={{ flex: 1, minWidth: 0, px: 2, py: 3, maxWidth: 1060 }}>
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mb: 2 }}>
          <Typography variant="h1" sx={{ flex: 1 }}>
            {machine.name}
          </Typography>
          <Button
            component={RouterLink}
            to={`/w/${machine.workshop_id}/logbook?machine=${machine.id}`}
          >
            Its logbook
          </Button>
          {machine.can_write && (
            <Button component={RouterLink} to={`/machines/${machine.id}/edit`}>
              Describe it
            </Button>
          )}
        </Box>
        <Box sx={{ display: "grid", gap: 4, gridTemplateColumns: { md: "1.7fr 1fr" } }}>
          <Box>
            <Box sx={{ height: { xs: 220, md: 340 } }}>
              <GhostFigure
                ghost={machine.ghost}
                factor={factor}
                name={machine.name}
                views={["front", "side", "plan"]}
              />
            </Box>
            <Box
              sx={{ display: "flex", alignItems: "center", gap: 2, minHeight: 48, maxWidth: 420 }}
            >
              {measured ? (
                <>
                  <Slider
                    aria-label="Magnification"
                    value={factors.indexOf(factor)}
                    min={0}
                    max={factors.length - 1}
                    onChange={(_, i) => setFactor(factors[i as number] ?? factor)}
                    getAriaValueText={(i) => `${factors[i]} times`}
                  />
                  <Box sx={{ whiteSpace: "nowrap" }}>errors ×{factor}</Box>
                </>
              ) : (
                <Box sx={{ color: "text.secondary" }}>Nothing measured yet: all dotted.</Box>
              )}
            </Box>
          </Box>
          <Box>
            <Typography variant="h2" sx={{ mb: 1 }}>
              {step ? "Next step, and why" : "Nothing is out"}
            </Typography>
            {step ? (
              <NextStep machine={machine} step={step} />
            ) : (
              <Typography>
                Everything that can be measured here is true. Measure again after a move, a crash or
                a change of season.
              </Typography>
            )}
          </Box>
        </Box>
        <Typography variant="h2" sx={{ mt: 4, mb: 1 }}>
          Checks
        </Typography>
        {machine.checks.map((check) => (
          <CheckLine key={check.kind} machine={machine} check={check} />
        ))}
        {machine.checks.length > 0 && step === null && (
          <Typography sx={{ color: "text.secondary" }}>{say(machine.next_reason)}</Typography>
        )}
      </Box>
    </Box>
  );
}

type CheckStatus = Schemas["CheckStatus"];

function NextStep({ machine, step }: { machine: MachineState; step: CheckStatus }) {
  const { say } = useSettings();
  const open = useOpenCheck(machine.id);
  return (
    <>
      <Typography sx={{ mb: 2 }}>{say(machine.next_reason)}</Typography>
      {machine.can_write && (
        <Button
          variant="contained"
          disabled={open.isPending}
          onClick={() => open.mutate(step.kind)}
        >
          {step.open_check ? "Go on with the" : "Measure the"} {step.title.toLowerCase()} ·{" "}
          {step.minutes} min
        </Button>
      )}
      {open.error && (
        <Remark tone="error" role="alert">
          {open.error.message}
        </Remark>
      )}
    </>
  );
}

function CheckLine({ machine, check }: { machine: MachineState; check: CheckStatus }) {
  const { say } = useSettings();
  const when = useWhen();
  const open = useOpenCheck(machine.id);
  const limits = machine.limits_shown[check.kind] ?? {};
  const limit = Object.values(limits)[0];
  return (
    <Box
      sx={(t) => ({
        borderTop: `1px solid ${t.palette.rule}`,
        py: 1.5,
        display: "grid",
        gap: 1.5,
        alignItems: "start",
        gridTemplateColumns: { md: "190px 1fr auto" },
      })}
    >
      <VerdictMark status={check.status} />
      <Box>
        <Typography variant="h3">{check.question}</Typography>
        {check.values.map((value) => (
          <Box key={value.label} sx={{ display: "flex", gap: 1.5, flexWrap: "wrap" }}>
            <Box sx={{ minWidth: 130 }}>{value.label}</Box>
            <Box sx={{ fontFamily: mono }}>{say(value.words)}</Box>
            <Box sx={{ color: "text.secondary" }}>{STATUS_WORDS[value.status]}</Box>
          </Box>
        ))}
        <Typography sx={{ color: "text.secondary" }}>
          Limit {say(limit)}
          {check.measured_at && ` · last read ${when(check.measured_at)}`}
        </Typography>
      </Box>
      {machine.can_write && (
        <Button
          variant="outlined"
          onClick={() => open.mutate(check.kind)}
          disabled={open.isPending}
        >
          {check.open_check ? "Go on" : "Measure"}
        </Button>
      )}
    </Box>
  );
}
