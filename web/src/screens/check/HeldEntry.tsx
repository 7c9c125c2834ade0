import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import type { FormEvent } from "react";
import { count } from "../../parts/KeptHere";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { type Change, meant, type ReadingInHand } from "./inHand";
import type { Preview } from "./usePreview";

function Key({ children }: { children: string }) {
  return (
    <Box
      component="span"
      aria-hidden
      sx={{ ml: 1, opacity: 0.75, display: { xs: "none", md: "inline" } }}
    >
      {children}
    </Box>
  );
}

/** What a doubtful text can mean: as it stands, or each other way that the same needle can be. */
export function Meanings({
  doubt,
  keep,
  keys = false,
}: {
  doubt: Pick<Preview, "words" | "shown_mm" | "question">;
  keep: (change: Change) => void;
  /** Whether keys of the field answer it, too. */
  keys?: boolean;
}) {
  const { say } = useSettings();
  const { question } = doubt;
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 0.5 }}>
      <Button variant="contained" onClick={() => keep({ accepted: true })}>
        Keep {say(doubt.words)}
        {keys && question?.about !== "range" && <Key>Enter</Key>}
      </Button>
      {(question?.choices ?? []).map((mm, i) => (
        <Button key={mm} variant="outlined" onClick={() => keep(meant(mm))}>
          {say(question?.choice_words?.[i])}
          {keys && <Key>{mm > doubt.shown_mm ? "↑" : "↓"}</Key>}
        </Button>
      ))}
    </Box>
  );
}

/** Readings that were kept while nobody could be asked what they mean: nothing is judged by them
 *  before that is answered. */
export function Unanswered({ hand, locked }: { hand: ReadingInHand; locked: boolean }) {
  const { say } = useSettings();
  return hand.unanswered.map((reading) => (
    <Remark key={reading.id} tone="look" role="alert">
      <b>
        {reading.text} {reading.text.endsWith(reading.unit) ? "" : reading.unit} at{" "}
        {say(hand.labelOf(reading.station))}
      </b>{" "}
      is kept, and not judged yet: {say(reading.question?.text)}
      {!locked && (
        <Meanings
          doubt={{ ...reading, shown_mm: reading.shown_mm ?? 0 }}
          keep={(change) => hand.answer(reading, change)}
        />
      )}
    </Remark>
  ));
}

/** An entry that turned out doubtful after the person had begun the next one. */
export function HeldEntry({ hand }: { hand: ReadingInHand }) {
  const { say } = useSettings();
  const { held, behind, settleHeld } = hand;
  if (!held) return null;
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const text = String(new FormData(event.currentTarget).get("anew") ?? "").trim();
    if (text) settleHeld({ text });
  };
  return (
    <Remark tone="look" role="alert">
      <b>
        {held.entry.text || "The needle"} at {say(held.entry.at.label)}
      </b>{" "}
      is not kept yet: {held.problem ?? say(held.doubt?.question?.text)}
      {behind > 0 && ` ${count(behind)} after it ${behind === 1 ? "waits" : "wait"}.`}
      {held.doubt && <Meanings doubt={held.doubt} keep={settleHeld} />}
      <Box
        component="form"
        onSubmit={submit}
        sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1, alignItems: "center" }}
      >
        <TextField
          key={held.entry.id}
          name="anew"
          size="small"
          label={`Type it anew, in ${held.entry.unit}`}
          slotProps={{ htmlInput: { autoComplete: "off", maxLength: 64 } }}
        />
        <Button type="submit">Enter it so</Button>
        <Button onClick={() => settleHeld(null)}>Drop it</Button>
      </Box>
    </Remark>
  );
}
