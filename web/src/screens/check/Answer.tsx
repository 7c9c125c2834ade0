import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { type KeyboardEvent, useLayoutEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { PhotoButton } from "../../parts/Photos";
import { useSettings } from "../../settings";

type Station = Schemas["Station"];

interface Props {
  station: Station;
  disabled: boolean;
  machineId: string;
  roundId: string;
  keep: (answer: { grade: string; note: string; where: string }) => void;
}

/** What a station takes that is no length: one press answers; a note, a place or a photo first. */
export function Answer({ station, disabled, machineId, roundId, keep }: Props) {
  const [note, setNote] = useState("");
  const [where, setWhere] = useState("");
  const group = useRef<HTMLDivElement>(null);
  const key = station.key;
  // with the words of the station, not after them: whoever answers by heart presses at once
  // biome-ignore lint/correctness/useExhaustiveDependencies: each station begins anew
  useLayoutEffect(() => {
    setNote("");
    setWhere("");
    if (!window.matchMedia?.("(pointer: coarse)").matches)
      group.current?.querySelector("button")?.focus();
  }, [key]);
  const { say } = useSettings();
  const grades = station.grades ?? [];
  const seen = station.reads === "observation";
  const answer = (grade: string) => keep({ grade, note: note.trim(), where: where.trim() });
  const digits = (event: KeyboardEvent) => {
    if (event.target instanceof HTMLInputElement || event.ctrlKey || event.altKey) return;
    const grade = grades[Number(event.key) - 1];
    if (grade) {
      event.preventDefault();
      answer(grade.key);
    }
  };
  return (
    <Box
      ref={group}
      role="group"
      aria-label={`Answer for ${say(station.label)}`}
      onKeyDown={digits}
    >
      <Box sx={{ display: "flex", flexDirection: "column", gap: 1, maxWidth: 420 }}>
        {grades.map((grade, i) => (
          <Button
            key={grade.key}
            variant="outlined"
            color="inherit"
            disabled={disabled}
            onClick={() => answer(grade.key)}
            sx={{ minHeight: 60, justifyContent: "flex-start", fontSize: "1.15rem", gap: 1.5 }}
          >
            <Box component="span" sx={{ color: "text.secondary", fontWeight: 400 }} aria-hidden>
              {i + 1}
            </Box>
            {grade.label}
          </Button>
        ))}
      </Box>
      {seen && (
        <Box
          sx={{
            mt: 2,
            display: "flex",
            gap: 1,
            flexWrap: "wrap",
            alignItems: "start",
            maxWidth: 560,
          }}
        >
          <TextField
            id="seen"
            label="What it is, before you answer"
            size="small"
            value={note}
            disabled={disabled}
            onChange={(e) => setNote(e.target.value)}
            slotProps={{ htmlInput: { maxLength: 500 } }}
            sx={{ flex: 1, minWidth: 220 }}
          />
          <PhotoButton machineId={machineId} roundId={roundId} />
        </Box>
      )}
      {station.where && (
        <TextField
          id="where"
          label={station.where}
          size="small"
          value={where}
          disabled={disabled}
          onChange={(e) => setWhere(e.target.value)}
          sx={{ mt: 2, maxWidth: 560 }}
        />
      )}
    </Box>
  );
}
