import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { v4 as uuid } from "uuid";
import {
  type ApiProblem,
  api,
  inFull,
  type ReadingUnit,
  type RoundState,
  type Schemas,
  told,
} from "../../api/client";
import { keys } from "../../api/queries";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";

type Pasted = Schemas["Pasted"];
type Batch = Schemas["BatchOut"];
const MOST_BYTES = 200_000;

/** Readings from a spreadsheet, a CSV file or a log: what was understood is shown before any is kept. */
export function Paste({
  checkId,
  round,
  unit,
  done,
}: {
  checkId: string;
  round: RoundState;
  unit: ReadingUnit;
  done: () => void;
}) {
  const { say } = useSettings();
  const [text, setText] = useState("");
  const [tooLarge, setTooLarge] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const look = useMutation<Pasted, ApiProblem, string>({
    mutationFn: (pasted) =>
      told(
        api.POST("/api/v1/rounds/{round_id}/paste", {
          params: { path: { round_id: round.id } },
          body: { text: pasted, unit },
        }),
      ),
  });
  const client = useQueryClient();
  const keep = useMutation<Batch, ApiProblem, Pasted["lines"]>({
    mutationFn: (lines) =>
      told(
        api.POST("/api/v1/rounds/{round_id}/batch", {
          params: { path: { round_id: round.id } },
          body: {
            readings: lines.map((line, i) => ({
              id: uuid(),
              reading: {
                station: line.station ?? "",
                text: line.text,
                unit: line.unit,
                grade: "",
                note: "",
                accepted: true,
                withdrawn: false,
                x: "",
                y: "",
                // a millisecond apart, so that they keep their order
                read_at: new Date(Date.now() + i).toISOString(),
              },
            })),
          },
        }),
      ),
    onSuccess: async (batch) => {
      await client.invalidateQueries({ queryKey: keys.check(checkId) });
      // what was refused stays on the page, with why
      if (batch.answers.every((a) => a.kept)) done();
    },
  });
  const take = (value: string) => {
    setText(value);
    keep.reset();
    if (value.trim()) look.mutate(value);
    else look.reset();
  };
  const open = async (chosen: File | undefined) => {
    if (!chosen) return;
    setTooLarge(chosen.size > MOST_BYTES);
    if (chosen.size <= MOST_BYTES) take(await chosen.text());
  };
  const usable = (look.data?.lines ?? []).filter((line) => line.station);
  const problem = look.error ?? keep.error;
  const cell = { py: 0.25, pr: 2, textAlign: "left", verticalAlign: "top" } as const;
  return (
    <Box component="section" aria-label="Paste readings" sx={{ maxWidth: 760 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        Paste readings
      </Typography>
      <Typography sx={{ color: "text.secondary", mb: 1 }}>
        A column, a CSV file, lines of a log, or a row for each turn or pass. A line may name its
        station; the others follow the plan. A bare number is in {unit}. Nothing is kept until you
        say so.
      </Typography>
      <TextField
        id="pasted"
        label="Readings"
        multiline
        minRows={4}
        maxRows={12}
        value={text}
        onChange={(e) => take(e.target.value)}
        slotProps={{ htmlInput: { spellCheck: false, style: { fontFamily: mono } } }}
      />
      <Box sx={{ display: "flex", gap: 1, mt: 1, flexWrap: "wrap" }}>
        <Button variant="outlined" onClick={() => file.current?.click()}>
          Open a file
        </Button>
        <input
          ref={file}
          type="file"
          accept=".csv,.txt,.tsv,.log,text/*"
          hidden
          onChange={(e) => void open(e.target.files?.[0])}
        />
        <Button
          variant="contained"
          disabled={usable.length === 0 || keep.isPending}
          onClick={() => keep.mutate(usable)}
        >
          Keep {usable.length} reading{usable.length === 1 ? "" : "s"}
        </Button>
        <Button onClick={done}>Not now</Button>
      </Box>
      {tooLarge && (
        <Remark tone="error" role="alert">
          The file is larger than 200 kB, which no round is. Cut the part out that belongs here.
        </Remark>
      )}
      {problem && (
        <Remark tone="error" role="alert">
          {problem.whole}
        </Remark>
      )}
      {keep.data?.answers.some((a) => !a.kept) && (
        <Remark tone="error" role="alert">
          {keep.data.answers.filter((a) => a.kept).length} were kept. Not taken:
          {keep.data.answers.map((a, i) =>
            a.kept ? null : (
              <div key={a.id}>
                {usable[i]?.raw}: {inFull(a)}
              </div>
            ),
          )}
        </Remark>
      )}
      {look.data && (
        <>
          {look.data.assumed.map((line) => (
            <Remark key={line}>{line}</Remark>
          ))}
          <Box component="table" sx={{ borderCollapse: "collapse", mt: 1, width: "100%" }}>
            <thead>
              <tr>
                {["line", "as pasted", "station", "read as"].map((head) => (
                  <Box
                    component="th"
                    key={head}
                    sx={{ ...cell, color: "text.secondary", fontWeight: 400 }}
                  >
                    {head}
                  </Box>
                ))}
              </tr>
            </thead>
            <tbody>
              {look.data.lines.map((line) => (
                <Box
                  component="tr"
                  key={line.line}
                  sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}` })}
                >
                  <Box component="td" sx={cell}>
                    {line.line}
                  </Box>
                  <Box
                    component="td"
                    sx={{ ...cell, fontFamily: mono, overflowWrap: "anywhere", maxWidth: 260 }}
                  >
                    {line.raw}
                  </Box>
                  <Box component="td" sx={cell}>
                    {say(line.label)}
                  </Box>
                  <Box
                    component="td"
                    sx={{
                      ...cell,
                      fontFamily: line.problem ? undefined : mono,
                      color: line.problem ? "error.main" : undefined,
                    }}
                  >
                    {line.problem || (line.skipped ? "skipped" : say(line.words))}
                  </Box>
                </Box>
              ))}
            </tbody>
          </Box>
          {look.data.missing.length > 0 && (
            <Remark tone="look">
              No line for{" "}
              {look.data.missing
                .slice(0, 8)
                .map((m) => say(m))
                .join(", ")}
              {look.data.missing.length > 8 ? ` and ${look.data.missing.length - 8} more` : ""}.
              They stay to be read.
            </Remark>
          )}
        </>
      )}
    </Box>
  );
}
