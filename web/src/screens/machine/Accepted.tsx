import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { type FormEvent, useState } from "react";
import { v4 as uuid } from "uuid";
import { api, type Schemas, told } from "../../api/client";
import { type Machine, useMachineChange } from "../../api/queries";
import { ANSWERED, GoodFor } from "../../parts/GoodFor";
import { TakeBack } from "../../parts/TakeBack";
import { useDay } from "../../parts/useWhen";
import { Square } from "../../parts/VerdictMark";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";

/** The machine accepted for work, with what is open named; provisional until nothing is. */
export function Accepted({ machine }: { machine: Machine }) {
  const [asking, setAsking] = useState(false);
  const { say } = useSettings();
  const acceptance = machine.acceptance;
  const open = machine.checks.filter((c) => c.status !== "true");
  const stands = acceptance?.still === true;
  return (
    <Box>
      {acceptance ? (
        <Stands machine={machine} acceptance={acceptance} />
      ) : (
        <Typography sx={{ mb: 1 }}>
          Not accepted yet. A machine can be taken into use with open items, as long as they are
          named.
        </Typography>
      )}
      {machine.proof && (
        <Box sx={{ display: "flex", gap: 1, alignItems: "center", my: 1 }}>
          <Square status={machine.proof.status} size={20} />
          <span>{say(machine.proof.text)}</span>
        </Box>
      )}
      <GoodFor machineId={machine.id} jobs={machine.jobs} />
      {machine.jobs.some((j) => j.answer !== "fits") &&
        machine.jobs.some((j) => j.answer === "fits") && (
          <Typography sx={{ color: "text.secondary" }}>
            For what it is not known to be good for, it is taken into use provisionally.
          </Typography>
        )}
      {machine.can_write && !stands && !asking && machine.checks.length > 0 && (
        <Button variant="outlined" onClick={() => setAsking(true)}>
          {open.length ? "Accept it with open items" : "Accept it"}
        </Button>
      )}
      {asking && <Ask machine={machine} open={open} done={() => setAsking(false)} />}
    </Box>
  );
}

/** Open items that are shown without being asked for. */
const FEW = 2;

function Stands({
  machine,
  acceptance,
}: {
  machine: Machine;
  acceptance: Schemas["AcceptanceOut"];
}) {
  const { say } = useSettings();
  const day = useDay();
  const items = acceptance.open_items;
  return (
    <>
      <Typography>
        <b>
          {acceptance.still
            ? items.length
              ? "Accepted, provisionally"
              : "Accepted"
            : "Was accepted"}
        </b>{" "}
        on {day(acceptance.at)} by {acceptance.by}.{acceptance.note && ` ${acceptance.note}`}
        {!acceptance.still && " Something was touched since, so it wants accepting anew."}
      </Typography>
      {acceptance.jobs.length > 0 && (
        <Typography sx={{ color: "text.secondary" }}>
          At the time:{" "}
          {ANSWERED.flatMap(([says, answers]) => {
            const here = acceptance.jobs.filter((j) => answers.includes(j.answer));
            return here.length ? [`${says} ${here.map((j) => j.name).join(", ")}`] : [];
          }).join("; ")}
          .
        </Typography>
      )}
      {items.length > 0 && (
        <Box component="details" open={items.length <= FEW}>
          <Box
            component="summary"
            sx={{ cursor: "pointer", minHeight: 40, alignContent: "center" }}
          >
            {items.length} open then: {items.map((item) => item.title.toLowerCase()).join(", ")}
          </Box>
          {items.map((item) => (
            <Box key={item.kind} sx={{ display: "flex", gap: 1, alignItems: "center", my: 0.5 }}>
              <Square status={item.status} size={20} />
              <span>
                {item.title}: {say(item.text)}
              </span>
            </Box>
          ))}
        </Box>
      )}
      {machine.can_write && acceptance.still && (
        <TakeBack type="acceptances" id={acceptance.id} taken={false} what="the acceptance" />
      )}
    </>
  );
}

function Ask({
  machine,
  open,
  done,
}: {
  machine: Machine;
  open: Schemas["CheckStatus"][];
  done: () => void;
}) {
  const accept = useMachineChange((note: string) =>
    told(
      api.POST("/api/v1/machines/{machine_id}/acceptances", {
        params: { path: { machine_id: machine.id } },
        body: { id: uuid(), note, at: new Date().toISOString() },
      }),
    ),
  );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const note = String(new FormData(event.currentTarget).get("note") ?? "");
    accept.mutate(note, { onSuccess: done });
  };
  return (
    <Box component="form" onSubmit={submit}>
      {open.length > 0 && (
        <>
          <Typography>These stay on record as open:</Typography>
          {open.map((check) => (
            <Box key={check.kind} sx={{ display: "flex", gap: 1, alignItems: "center", my: 0.5 }}>
              <Square status={check.status} size={20} />
              {check.title}
            </Box>
          ))}
        </>
      )}
      <TextField name="note" id="accept-note" label="For what work (optional)" sx={{ mt: 1 }} />
      {accept.error && (
        <Remark tone="error" role="alert">
          {accept.error.message}
        </Remark>
      )}
      <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
        <Button type="submit" variant="contained" disabled={accept.isPending}>
          Accept it
        </Button>
        <Button onClick={done}>Not yet</Button>
      </Box>
    </Box>
  );
}
