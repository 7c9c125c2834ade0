import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import type { FormEvent } from "react";
import type { CheckState, RoundState, Schemas } from "../../api/client";
import { useCheckChange } from "../../api/queries";
import { PhotoButton, PhotoRow } from "../../parts/Photos";
import { TakeBack } from "../../parts/TakeBack";
import { useWhen } from "../../parts/useWhen";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { keepNote, useNote, writeNote } from "./noteDraft";

/** What was done after a round. */
export function Made({ round, write }: { round: RoundState; write: boolean }) {
  const { say } = useSettings();
  const when = useWhen();
  const move = round.move;
  if (!move) return null;
  return (
    <Remark>
      <b>{move.taken_back ? "Taken back" : "Done after this round"}:</b>{" "}
      <span style={{ textDecoration: move.taken_back ? "line-through" : "none" }}>
        {say(move.said)}
      </span>
      {move.needle.length > 0 &&
        ` · read ${move.needle.map((n) => `${n.state} ${n.text}`).join(", ")}`}
      {move.note && ` · ${move.note}`}
      <Box sx={{ color: "text.secondary" }}>
        {when(move.made_at)}, {move.by}
        {write && (
          <TakeBack type="moves" id={move.id} taken={move.taken_back} what={say(move.said)} />
        )}
      </Box>
    </Remark>
  );
}

/** Remarks and photos beside a round. */
export function Notes({ check, round }: { check: CheckState; round: RoundState }) {
  const when = useWhen();
  const text = useNote(round.id);
  const add = useCheckChange(async () => (await keepNote(round.id)) ?? check);
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    add.mutate(undefined);
  };
  return (
    <Box sx={{ mt: 3 }}>
      {round.notes.map((note: Schemas["NoteOut"]) => (
        <Remark key={note.id}>
          <span style={{ textDecoration: note.taken_back ? "line-through" : "none" }}>
            {note.text}
          </span>
          <Box sx={{ color: "text.secondary" }}>
            {note.by}, {when(note.written_at)}
          </Box>
        </Remark>
      ))}
      <PhotoRow photos={round.photos} write={check.can_write} />
      {check.can_write && (
        <Box
          component="form"
          onSubmit={submit}
          sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "flex-start" }}
        >
          <TextField
            name="note"
            id={`note-${round.id}`}
            label="Note for the logbook"
            size="small"
            value={text}
            onChange={(e) => writeNote(round.id, e.target.value)}
            slotProps={{ htmlInput: { maxLength: 2000 } }}
            error={add.error !== null}
            helperText={add.error?.errors[0]?.message ?? add.error?.message}
          />
          <Button type="submit" disabled={add.isPending || text.trim() === ""}>
            Add
          </Button>
          <PhotoButton machineId={check.machine_id} roundId={round.id} />
        </Box>
      )}
    </Box>
  );
}
