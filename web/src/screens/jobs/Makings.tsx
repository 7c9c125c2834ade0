import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { type FormEvent, useState } from "react";
import { v4 as uuid } from "uuid";
import { api, inFull, type Schemas, told } from "../../api/client";
import { AnswerMark } from "../../parts/AnswerMark";
import { LengthField } from "../../parts/LengthField";
import { withUnit } from "../../parts/schema";
import { useDay } from "../../parts/useWhen";
import { Square } from "../../parts/VerdictMark";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { type Job, type Making, useJobChange } from "./queries";

/** When it was made, what was foretold then, and what came out. */
export function Makings({ job, machineId }: { job: Job; machineId?: string }) {
  const start = useJobChange<void, Making>(() =>
    told(
      api.POST("/api/v1/jobs/{job_id}/makings", {
        params: { path: { job_id: job.id } },
        body: { id: uuid(), machine_id: machineId ?? "" },
      }),
    ),
  );
  const may = job.can_write && machineId && job.features > 0;
  if (!may && job.makings.length === 0) return null;
  return (
    <Box component="section" aria-labelledby="made">
      <Typography id="made" variant="h2" sx={{ mb: 1 }}>
        Made
      </Typography>
      {job.makings.length === 0 && (
        <Typography sx={{ maxWidth: 720, mb: 1 }}>
          When you make it, what is foretold today is kept. Measure the part afterwards: one that is
          worse than foretold points at what nobody measured.
        </Typography>
      )}
      {may && (
        <Button variant="outlined" disabled={start.isPending} onClick={() => start.mutate()}>
          It is being made now
        </Button>
      )}
      {start.error && (
        <Remark tone="error" role="alert">
          {start.error.message}
        </Remark>
      )}
      {job.makings.map((m) => (
        <One key={m.id} making={m} write={job.can_write} />
      ))}
    </Box>
  );
}

function One({ making, write }: { making: Making; write: boolean }) {
  const { say } = useSettings();
  const day = useDay();
  const [asking, setAsking] = useState(false);
  const back = useJobChange<boolean, Making>((taken_back) =>
    told(
      api.POST("/api/v1/makings/{making_id}/taken-back", {
        params: { path: { making_id: making.id } },
        body: { taken_back },
      }),
    ),
  );
  return (
    <Box
      sx={(t) => ({
        borderTop: `1px solid ${t.palette.rule}`,
        mt: 1.5,
        pt: 1,
        opacity: making.taken_back ? 0.6 : 1,
      })}
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2, alignItems: "center" }}>
        <span>
          {day(making.at)} on {making.machine}, by {making.by}
          {making.taken_back && ", taken back"}
        </span>
        <Box component="span" sx={{ color: "text.secondary" }}>
          foretold:
        </Box>
        <AnswerMark answer={making.answer} />
      </Box>
      {making.compared.map((c) => (
        <Box key={`${c.feature}${c.key}`} sx={{ display: "flex", gap: 1, my: 0.75 }}>
          <Square status={!c.within ? "out" : c.compares === "worse" ? "too_close" : "true"} />
          <span>
            <b>{c.title}</b>: off by {say(c.off)}, foretold up to {say(c.foretold)}. {say(c.text)}
          </span>
        </Box>
      ))}
      {making.note && <Typography>{making.note}</Typography>}
      {write && !asking && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
          {!making.taken_back && (
            <Button onClick={() => setAsking(true)}>
              {making.compared.length ? "Measured again" : "Enter what came out"}
            </Button>
          )}
          <Button disabled={back.isPending} onClick={() => back.mutate(!making.taken_back)}>
            {making.taken_back ? "Put it back" : "Take back"}
          </Button>
        </Box>
      )}
      {asking && <CameOut making={making} done={() => setAsking(false)} />}
    </Box>
  );
}

function CameOut({ making, done }: { making: Making; done: () => void }) {
  const { say, system } = useSettings();
  const [was] = useState(making.mark);
  const keep = useJobChange<Schemas["CameOutIn"], Making>((body) =>
    told(
      api.PUT("/api/v1/makings/{making_id}", {
        params: { path: { making_id: making.id } },
        body,
      }),
    ),
  );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const typed = new FormData(event.currentTarget);
    const measured = making.demands.map((d, i) => {
      const text = String(typed.get(`m${i}`) ?? "");
      const { feature, key } = d;
      return { feature, key, text: d.load ? text : withUnit(text, system) };
    });
    const note = String(typed.get("note") ?? "");
    keep.mutate({ measured, note, was }, { onSuccess: done });
  };
  const error = (i: number) => keep.error?.errors.find((e) => e.field === `measured.${i}`);
  return (
    <Box component="form" noValidate onSubmit={submit} sx={{ mt: 1 }}>
      <Typography sx={{ mb: 1 }}>
        How far off it came out. Leave empty what you did not measure.
      </Typography>
      <Box
        sx={{
          display: "grid",
          gap: 2,
          gridTemplateColumns: "repeat(auto-fill, minmax(240px, 1fr))",
        }}
      >
        {making.demands.map((d, i) => {
          const wrong = error(i);
          const shared = {
            name: `m${i}`,
            error: wrong !== undefined,
            helperText: wrong
              ? inFull(wrong)
              : `Foretold up to ${say(d.most)} of ${say(d.tolerance)}.`,
          };
          const key = `${d.feature}${d.key}`;
          return d.load ? (
            <TextField
              key={key}
              {...shared}
              label={`${d.title} (%)`}
              slotProps={{ htmlInput: { inputMode: "decimal" } }}
            />
          ) : (
            <LengthField key={key} {...shared} label={d.title} />
          );
        })}
        <TextField name="note" label="Note" defaultValue={making.note} />
      </Box>
      {keep.error && keep.error.errors.length === 0 && (
        <Remark tone="error" role="alert">
          {keep.error.message}
        </Remark>
      )}
      <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
        <Button type="submit" variant="contained" disabled={keep.isPending}>
          Compare
        </Button>
        <Button onClick={done}>Not now</Button>
      </Box>
    </Box>
  );
}
