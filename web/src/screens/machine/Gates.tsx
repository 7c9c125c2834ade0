import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { type FormEvent, useState } from "react";
import { v4 as uuid } from "uuid";
import { api, inFull, type Schemas, told } from "../../api/client";
import { type Machine, useMachineChange } from "../../api/queries";
import { PhotoButton } from "../../parts/Photos";
import { Square, STATUS_WORDS } from "../../parts/VerdictMark";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";

type Gate = Schemas["Gate"];

/** Steps that freeze what was measured: what must be fresh first, and what to keep a record of. */
export function Gates({ machine }: { machine: Machine }) {
  if (machine.gates.length === 0)
    return <Typography>Nothing of the kind is known for this machine.</Typography>;
  // near: nothing is missing, or what is done next is what is missing
  const next = machine.next_step?.kind;
  const near = machine.gates.filter(
    (g) => g.open.length === 0 || g.open.some((item) => item.kind === next),
  );
  const far = machine.gates.filter((g) => !near.includes(g));
  return (
    <Box>
      <Steps machine={machine} gates={near} />
      {far.length > 0 && (
        <Box component="details">
          <Box
            component="summary"
            sx={{
              cursor: "pointer",
              minHeight: 40,
              color: "text.secondary",
              alignContent: "center",
            }}
          >
            {far.length} more, not near yet
          </Box>
          <Steps machine={machine} gates={far} />
        </Box>
      )}
    </Box>
  );
}

function Steps({ machine, gates }: { machine: Machine; gates: Gate[] }) {
  return (
    <Box>
      {gates.map((gate) => (
        <Box
          key={gate.key}
          component="details"
          sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}` })}
        >
          <Box
            component="summary"
            sx={{ cursor: "pointer", minHeight: 48, display: "flex", alignItems: "center", gap: 1 }}
          >
            <Box component="span" sx={{ flex: 1 }}>
              {gate.title}
            </Box>
            <Box component="span" sx={{ color: "text.secondary" }}>
              {gate.open.length ? "not ready" : "ready"}
            </Box>
          </Box>
          <Before machine={machine} gate={gate} />
        </Box>
      ))}
    </Box>
  );
}

function Before({ machine, gate }: { machine: Machine; gate: Gate }) {
  const { say } = useSettings();
  const [photo, setPhoto] = useState<string | null>(null);
  const pass = useMachineChange((said: string) =>
    told(
      api.POST("/api/v1/machines/{machine_id}/gates", {
        params: { path: { machine_id: machine.id } },
        body: { id: uuid(), gate: gate.key, said, photo_id: photo, at: new Date().toISOString() },
      }),
    ),
  );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    pass.mutate(String(new FormData(form).get("said") ?? ""), {
      onSuccess: () => {
        form.reset();
        setPhoto(null);
      },
    });
  };
  const problem = pass.error?.errors[0];
  return (
    <Box component="form" noValidate onSubmit={submit} sx={{ pb: 2 }}>
      <Remark>{gate.caution}</Remark>
      {gate.fresh.map((title) => (
        <Box key={title} sx={{ display: "flex", gap: 1, alignItems: "center", my: 0.5 }}>
          <Square status="true" size={20} />
          {title}: fresh and true.
        </Box>
      ))}
      {gate.open.map((item) => (
        <Box key={item.kind} sx={{ display: "flex", gap: 1, alignItems: "center", my: 0.5 }}>
          <Square status={item.status} size={20} />
          <span>
            {item.title}: {STATUS_WORDS[item.status].toLowerCase()}.{" "}
            {item.status !== "unmeasured" && say(item.text)}
          </span>
        </Box>
      ))}
      {machine.can_write && (
        <>
          <Typography sx={{ mt: 1 }}>To keep first: {gate.keep}</Typography>
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, my: 1, alignItems: "flex-start" }}>
            <PhotoButton
              machineId={machine.id}
              text={photo ? "Another photo" : "Photo"}
              kept={(kept) => setPhoto(kept.id)}
            />
            <TextField
              name="said"
              id={`gate-${gate.key}`}
              label="Or a note"
              size="small"
              error={problem !== undefined}
              helperText={problem && inFull(problem)}
              sx={{ flex: 1, minWidth: 180 }}
            />
          </Box>
          <Button type="submit" variant="outlined" disabled={pass.isPending}>
            {gate.open.length ? "It is done, all the same" : "It is done"}
          </Button>
        </>
      )}
    </Box>
  );
}
