import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { type FormEvent, useState } from "react";
import type { CheckState, RoundState } from "../../api/client";
import {
  asTyped,
  correct,
  leansOn,
  type Outgoing,
  putAside,
  sendAgain,
  useOutbox,
} from "../../api/outbox";
import { count } from "../../parts/KeptHere";
import { Remark } from "../../parts/Waiting";

/** Readings that the record would not take: kept here until the person says what to do with them. */
export function Strays({ check, last }: { check: CheckState; last: RoundState }) {
  const here = useOutbox().filter((item) => item.checkId === check.id);
  return (
    <>
      {here
        .filter((item) => item.refused && !item.aside)
        .map((item) => (
          <Stray
            key={item.id}
            item={item}
            last={last}
            held={here.filter((w) => leansOn(w, item.id)).length}
          />
        ))}
    </>
  );
}

function Stray({ item, last, held }: { item: Outgoing; last: RoundState; held: number }) {
  const [correcting, setCorrecting] = useState(false);
  const elsewhere = item.roundId !== last.id;
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const text = String(new FormData(event.currentTarget).get("text") ?? "").trim();
    if (text) void correct(item.id, text);
  };
  return (
    <Remark tone="error" role="alert">
      <b>
        {asTyped(item)} at {item.at.station || item.body.station}
      </b>{" "}
      was not taken: {item.refused?.message}
      {held > 0 && ` ${count(held)} after it ${held === 1 ? "waits" : "wait"} for this one.`}
      {correcting ? (
        <Box
          component="form"
          onSubmit={submit}
          sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}
        >
          <TextField
            name="text"
            size="small"
            label={`Reading, in ${item.body.unit}`}
            defaultValue={item.body.text}
            autoFocus
            sx={{ width: 240 }}
            slotProps={{ htmlInput: { autoComplete: "off", maxLength: 64 } }}
          />
          <Button type="submit" variant="contained">
            Send it so
          </Button>
          <Button onClick={() => setCorrecting(false)}>Not now</Button>
        </Box>
      ) : (
        <Box>
          {elsewhere && !last.settled_at && (
            <Button size="small" onClick={() => void sendAgain(item.id, last)}>
              Put it into round {last.number}
            </Button>
          )}
          {!elsewhere && !item.body.grade && (
            <Button size="small" onClick={() => setCorrecting(true)}>
              Correct it
            </Button>
          )}
          {!elsewhere && (
            <Button size="small" onClick={() => void sendAgain(item.id)}>
              Send it again
            </Button>
          )}
          <Button size="small" onClick={() => void putAside(item.id)}>
            Put it aside
          </Button>
        </Box>
      )}
    </Remark>
  );
}
