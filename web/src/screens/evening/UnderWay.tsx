import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, type Machine } from "../../api/queries";
import { OpenCheck } from "../../parts/OpenCheck";
import { VerdictMark } from "../../parts/VerdictMark";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { Left, Steps } from "./Steps";

type State = Schemas["EveningOut"];

function useEveningChange<V>(machine: Machine, call: (v: V) => Promise<State>) {
  const client = useQueryClient();
  return useMutation<State, ApiProblem, V>({
    mutationFn: call,
    onSuccess: (evening) => {
      client.setQueryData(keys.evening(evening.id), evening);
      if (evening.ended) void client.invalidateQueries({ queryKey: keys.machine(machine.id) });
    },
  });
}

/** An evening that was started: what is next, what to lay out, what came of it. */
export function UnderWay({ machine, evening }: { machine: Machine; evening: State }) {
  const { say } = useSettings();
  const path = { evening_id: evening.id };
  const params = { path };
  const pause = useEveningChange(machine, () =>
    told(api.POST("/api/v1/evenings/{evening_id}/pause", { params })),
  );
  const end = useEveningChange(machine, () =>
    told(api.POST("/api/v1/evenings/{evening_id}/end", { params })),
  );
  const seen = useEveningChange(machine, () =>
    told(api.POST("/api/v1/evenings/{evening_id}/seen", { params })),
  );
  const skip = useEveningChange(machine, (body: Schemas["SkipIn"]) =>
    told(api.POST("/api/v1/evenings/{evening_id}/skip", { params, body })),
  );
  const check = (kind: string) => machine.checks.find((c) => c.kind === kind);
  const error = pause.error ?? end.error ?? seen.error ?? skip.error;
  const first = evening.plan.steps[0]?.kind;
  return (
    <Box>
      <Typography role="status" sx={{ fontSize: "1.15rem", mb: 1 }}>
        {evening.running
          ? `${evening.minutes_left} of ${evening.minutes} minutes are left. `
          : "Stopped for now. "}
        {say(evening.plan.sentence)}
      </Typography>
      {error && (
        <Remark tone="error" role="alert">
          {error.message}
        </Remark>
      )}
      {evening.changes.length > 0 && (
        <Remark tone="look">
          <b>The plan has changed.</b>{" "}
          {evening.changes.map((change) => (
            <Box key={change.metric}>{say(change)}</Box>
          ))}
          {evening.can_write && (
            <Button size="small" onClick={() => seen.mutate(undefined)} disabled={seen.isPending}>
              Go on with it
            </Button>
          )}
        </Remark>
      )}
      <Box
        sx={{
          display: "grid",
          columnGap: 5,
          gridTemplateColumns: { md: "minmax(0, 1.4fr) minmax(0, 1fr)" },
        }}
      >
        <Box>
          {evening.done.map((done) => (
            <Box
              key={done.kind}
              sx={{ display: "flex", gap: 1.5, alignItems: "center", minHeight: 44 }}
            >
              <VerdictMark status={done.status} /> {done.title}, read tonight
            </Box>
          ))}
          {evening.running && (
            <Steps
              steps={evening.plan.steps}
              action={(step) =>
                evening.can_write && (
                  <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
                    <OpenCheck
                      main={step.kind === first}
                      machineId={machine.id}
                      kind={step.kind}
                      detour={check(step.kind)?.detour}
                      text={evening.open_checks[step.kind] ? "Go on" : "Measure"}
                      title={step.title}
                    />
                    <Button
                      onClick={() => skip.mutate({ kind: step.kind, skip: true })}
                      aria-label={`Leave out: ${step.title}`}
                    >
                      Leave out
                    </Button>
                  </Box>
                )
              }
            />
          )}
          {evening.can_write && (
            <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 2, alignItems: "start" }}>
              {evening.running ? (
                <Button variant="outlined" onClick={() => pause.mutate(undefined)}>
                  Stop for tonight
                </Button>
              ) : (
                <Resume machine={machine} evening={evening} />
              )}
              <Button onClick={() => end.mutate(undefined)}>It is done with</Button>
            </Box>
          )}
          {evening.running && (
            <Left
              left={evening.plan.left}
              action={(item) =>
                evening.can_write &&
                item.reason.metric.includes("by choice") && (
                  <Button
                    size="small"
                    onClick={() => skip.mutate({ kind: item.kind, skip: false })}
                  >
                    Take in again
                  </Button>
                )
              }
            />
          )}
        </Box>
        {evening.running && evening.plan.steps.length > 0 && (
          <LayOut machine={machine} evening={evening} />
        )}
      </Box>
    </Box>
  );
}

function LayOut({ machine, evening }: { machine: Machine; evening: State }) {
  const tick = useEveningChange(machine, (body: Schemas["TickIn"]) =>
    told(
      api.POST("/api/v1/evenings/{evening_id}/tick", {
        params: { path: { evening_id: evening.id } },
        body,
      }),
    ),
  );
  // the tick shows at once, in the same breath as the press; the record follows
  const [pressed, setPressed] = useState<Record<string, boolean>>({});
  const ticked = (text: string) => pressed[text] ?? evening.ticked.includes(text);
  const press = (text: string, done: boolean) => {
    setPressed((now) => ({ ...now, [text]: done }));
    // a later press of the same waits for its own answer
    const settled = () =>
      setPressed((now) => {
        const { [text]: mine, ...rest } = now;
        return mine === done ? rest : now;
      });
    tick.mutate({ text, done }, { onSettled: settled });
  };
  const list = (lines: string[]) =>
    lines.map((text) => (
      <FormControlLabel
        key={text}
        label={text}
        sx={{
          display: "flex",
          alignItems: "flex-start",
          mr: 0,
          "& .MuiCheckbox-root": { pt: 0.5 },
        }}
        control={
          <Checkbox
            checked={ticked(text)}
            disabled={!evening.can_write}
            onChange={(e) => press(text, e.target.checked)}
          />
        }
      />
    ));
  return (
    <Box sx={{ mt: { xs: 3, md: 0 } }}>
      <Typography variant="h3" component="h2">
        Lay out once
      </Typography>
      {list(evening.plan.kit)}
      <Typography variant="h3" component="h2" sx={{ mt: 2 }}>
        Mind
      </Typography>
      {list(evening.plan.cautions)}
    </Box>
  );
}

function Resume({ machine, evening }: { machine: Machine; evening: State }) {
  const [minutes, setMinutes] = useState("60");
  const resume = useEveningChange(machine, (time: number) =>
    told(
      api.POST("/api/v1/evenings/{evening_id}/resume", {
        params: { path: { evening_id: evening.id } },
        body: { minutes: time },
      }),
    ),
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    resume.mutate(Number(minutes) || 0);
  };
  return (
    <Box component="form" noValidate onSubmit={submit} sx={{ display: "flex", gap: 1 }}>
      <TextField
        id="resume-minutes"
        label="Minutes there are now"
        value={minutes}
        onChange={(e) => setMinutes(e.target.value)}
        error={resume.error !== null}
        helperText={resume.error && "Between 5 and 1440."}
        slotProps={{ htmlInput: { inputMode: "numeric" } }}
        sx={{ maxWidth: 200 }}
      />
      <Button type="submit" variant="contained" disabled={resume.isPending}>
        Go on
      </Button>
    </Box>
  );
}
