import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link as RouterLink, useParams } from "react-router";
import { api, told } from "../../api/client";
import { type Machine as MachineState, useMachine, useMachineChange } from "../../api/queries";
import { GhostFigure } from "../../figures/GhostFigure";
import { LogLines } from "../../parts/LogLines";
import { PhotoButton } from "../../parts/Photos";
import { PlumbLine } from "../../parts/PlumbLine";
import { Failed, Faults, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { Accepted } from "./Accepted";
import { Checks } from "./Checks";
import { Gates } from "./Gates";
import { Happened } from "./Happened";
import { NextStep } from "./NextStep";

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
  const step = machine.checks.find((c) => c.kind === machine.next_step?.kind);
  return (
    <Box sx={{ display: "flex", flexDirection: { xs: "column", md: "row" }, gap: { md: 3 } }}>
      <PlumbLine machineId={machine.id} stages={machine.stages} at={step?.stage} />
      <Box sx={{ flex: 1, minWidth: 0, px: 2, py: 3, maxWidth: 1060 }}>
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mb: 2 }}>
          <Typography variant="h1" sx={{ flex: 1 }}>
            {machine.name}
          </Typography>
          <Button component={RouterLink} to={`/machines/${machine.id}/bed`}>
            Bed & surfacing
          </Button>
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
        {machine.archived && (
          <Remark tone="look">
            It is put away. Under “Describe it” it can be taken out again.
          </Remark>
        )}
        {machine.job_limits && <ForJob machine={machine} limits={machine.job_limits} />}
        <Faults faults={machine.faults} />
        <Box sx={{ display: "grid", gap: 4, gridTemplateColumns: { md: "1.6fr 1fr" } }}>
          <Drawing machine={machine} />
          <Box>
            <NextStep machine={machine} detour={step?.detour} />
            <Button component={RouterLink} to={`/machines/${machine.id}/symptoms`} sx={{ ml: -1 }}>
              Something comes out wrong?
            </Button>
            {machine.as_found.state !== "kept" && machine.can_write && (
              <Remark>{say(machine.as_found.text)}</Remark>
            )}
          </Box>
        </Box>
        {machine.can_write && (
          <Box
            sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1.5, alignItems: "flex-start" }}
          >
            <Happened machine={machine}>
              <PhotoButton machineId={machine.id} text="Photo for the record" />
            </Happened>
          </Box>
        )}
        <Section title="Checks">
          <Checks machine={machine} />
        </Section>
        <Box sx={{ display: "grid", columnGap: 5, gridTemplateColumns: { md: "1fr 1fr" } }}>
          <Box>
            <Section title="Good enough to work with">
              <Accepted machine={machine} />
            </Section>
            <Section title="Before what cannot be undone">
              <Gates machine={machine} />
            </Section>
          </Box>
          <Section title="Lately">
            {machine.as_found.state === "kept" && (
              <Typography sx={{ color: "text.secondary", mb: 1 }}>
                {say(machine.as_found.text)}
              </Typography>
            )}
            {machine.recent.length === 0 && <Typography>Nothing is logged yet.</Typography>}
            <LogLines lines={machine.recent} />
          </Section>
        </Box>
      </Box>
    </Box>
  );
}

/** Whose limits hold for now. */
function ForJob({
  machine,
  limits,
}: {
  machine: MachineState;
  limits: NonNullable<MachineState["job_limits"]>;
}) {
  const { say } = useSettings();
  const back = useMachineChange(async () => {
    await told(
      api.DELETE("/api/v1/machines/{machine_id}/job-limits", {
        params: { path: { machine_id: machine.id } },
      }),
    );
    return told(
      api.GET("/api/v1/machines/{machine_id}", { params: { path: { machine_id: machine.id } } }),
    );
  });
  const title = (kind: string) => machine.checks.find((c) => c.kind === kind)?.title ?? kind;
  return (
    <Remark tone="look">
      Judged by the limits for{" "}
      <Link component={RouterLink} to={`/jobs/${limits.job_id}?machine=${machine.id}`}>
        {limits.name}
      </Link>{" "}
      until they are taken back.
      <Box component="details">
        <Box component="summary" sx={{ cursor: "pointer", minHeight: 40, alignContent: "center" }}>
          Which they are
        </Box>
        {Object.entries(limits.limits).flatMap(([kind, own]) =>
          own.map((x) => (
            <Box key={kind + x.key}>
              {title(kind)}, {x.title.toLowerCase()}: {say(x.words)}
            </Box>
          )),
        )}
      </Box>
      {machine.can_write && (
        <Button size="small" disabled={back.isPending} onClick={() => back.mutate(undefined)}>
          Take them back
        </Button>
      )}
      {back.error && <Box role="alert">{back.error.message}</Box>}
    </Remark>
  );
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <Box component="section" sx={{ mt: 3, minWidth: 0 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        {title}
      </Typography>
      {children}
    </Box>
  );
}

function Drawing({ machine }: { machine: MachineState }) {
  const [factor, setFactor] = useState(machine.ghost.factor);
  const factors = machine.ghost.factors;
  const measured = machine.ghost.worst_mm_per_m > 0;
  const stale = machine.ghost.parts.some((part) => part.stale);
  return (
    <Box>
      <Box sx={{ height: { xs: 220, md: 236 } }}>
        <GhostFigure
          ghost={machine.ghost}
          factor={factor}
          name={machine.name}
          views={["front", "side", "plan"]}
        />
      </Box>
      {machine.letters && <Box sx={{ color: "text.secondary" }}>{machine.letters}</Box>}
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, minHeight: 48, maxWidth: 460 }}>
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
            <Box sx={{ whiteSpace: "nowrap" }}>
              errors ×{factor}
              {stale && ", stale in dashes"}
            </Box>
          </>
        ) : (
          <Box sx={{ color: "text.secondary" }}>
            Dotted parts have not been measured; thin lines are as described.
          </Box>
        )}
      </Box>
    </Box>
  );
}
