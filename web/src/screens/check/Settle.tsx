import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { type FormEvent, useEffect, useState } from "react";
import { v4 as uuid } from "uuid";
import { api, type CheckState, type RoundState, type Schemas, told } from "../../api/client";
import { useCheckChange } from "../../api/queries";
import { Figure } from "../../figures/Figure";
import { visuallyHidden } from "../../parts/hidden";
import { PhotoButton, PhotoRow } from "../../parts/Photos";
import { TakeBack } from "../../parts/TakeBack";
import { useSpeech } from "../../parts/useSpeech";
import { useWhen } from "../../parts/useWhen";
import { Square, STATUS_WORDS } from "../../parts/VerdictMark";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";
import { MoveCard } from "./MoveCard";

interface Props {
  check: CheckState;
  round: RoundState;
  readMore: (passes: number) => void;
}

/** The finding as a sentence, the verdict, and what to do about it. */
export function Settle({ check, round, readMore }: Props) {
  const { say } = useSettings();
  const speak = useSpeech();
  const { finding, judgement, advice, trends = [], problem, complete } = round.outcome;
  const settle = useCheckChange(() =>
    told(
      api.POST("/api/v1/rounds/{round_id}/settle", { params: { path: { round_id: round.id } } }),
    ),
  );
  const again = useCheckChange(() =>
    told(
      api.POST("/api/v1/checks/{check_id}/rounds", {
        params: { path: { check_id: check.id } },
        body: { id: uuid() },
      }),
    ),
  );
  const sentence = judgement ? say(judgement.sentence) : "";
  useEffect(() => {
    if (sentence) speak(sentence);
  }, [sentence, speak]);
  if (!finding || !judgement)
    return <Typography>{problem ?? "Nothing has been read yet."}</Typography>;
  const open = round.settled_at === null && check.can_write;
  const last = check.rounds.at(-1)?.id === round.id;
  const isTrue = judgement.verdict === "true";
  const wayOut = judgement.judged.find((j) => j.way_out)?.way_out;
  return (
    <Box>
      <Box
        role="status"
        aria-label="Finding"
        sx={{ display: "flex", gap: 2, alignItems: "flex-start", mb: 2 }}
      >
        <Square status={judgement.verdict} size={64} />
        <Box>
          <Typography sx={{ fontSize: "1.5rem", fontWeight: 700, lineHeight: 1.2 }}>
            {STATUS_WORDS[judgement.verdict]}
          </Typography>
          <Typography sx={{ fontSize: "1.15rem", maxWidth: 760 }}>{sentence}</Typography>
        </Box>
      </Box>
      <Box
        sx={{
          display: "grid",
          gap: 4,
          gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "minmax(0, 1fr) minmax(0, 1.25fr)" },
          gridTemplateRows: { md: "auto 1fr" },
        }}
      >
        <Box>
          <Figures round={round} />
          {wayOut && (
            <Remark tone="look">
              {say(wayOut.text)}
              {wayOut.passes && open && (
                <Box>
                  <Button variant="contained" onClick={() => readMore(wayOut.passes ?? 2)}>
                    Take {wayOut.passes} passes in all
                  </Button>
                </Box>
              )}
            </Remark>
          )}
          {finding.lines?.map((line) => (
            <Typography key={line.metric} sx={{ mt: 1 }}>
              {say(line)}
            </Typography>
          ))}
          {finding.notes.map((note) => (
            <Remark key={note.text.metric} tone={note.tone === "look" ? "look" : "info"}>
              {say(note.text)}
            </Remark>
          ))}
          {trends.map((t) => (
            <Remark
              key={t.quantity}
              tone={
                t.surprise || t.sense === "wrong_way" || t.sense === "overshoot" ? "look" : "info"
              }
            >
              {say(t.text)}
            </Remark>
          ))}
          {!complete && open && (
            <Remark>
              The planned passes are not all in.{" "}
              <Button size="small" onClick={() => readMore(round.passes)}>
                Go on reading
              </Button>
            </Remark>
          )}
          {finding.figures?.map((figure) => (
            <Figure key={figure.title.metric} figure={figure} />
          ))}
          {round.drawing && <Template roundId={round.id} />}
        </Box>
        <Box sx={{ gridColumn: { md: 2 }, gridRow: { md: "1 / span 2" } }}>
          {round.move && <Made round={round} write={check.can_write} />}
          {open && !isTrue && check.first_move && (
            <Remark>
              Nothing has been moved on {check.machine_name} yet: this round is kept as found.
              Photograph shims and settings before the first of them goes.
            </Remark>
          )}
          {open && advice?.remarks?.map((r) => <Remark key={r.metric}>{say(r)}</Remark>)}
          {open && advice && (
            <Moves
              machineId={check.machine_id}
              round={round}
              moves={advice.moves}
              isTrue={isTrue}
              main={!wayOut?.passes}
            />
          )}
          {open && advice?.leave && <Remark>{say(advice.leave.text)}</Remark>}
          {open && (
            <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 2 }}>
              <Button
                variant={isTrue ? "contained" : "outlined"}
                disabled={settle.isPending}
                onClick={() => settle.mutate(undefined)}
              >
                {isTrue ? "Enter it in the logbook" : "Leave it as it is"}
              </Button>
            </Box>
          )}
          {!open && last && check.can_write && (
            <>
              <Remark>This round is in the logbook, as judged by core {round.core_version}.</Remark>
              <Button
                variant="outlined"
                disabled={again.isPending}
                onClick={() => again.mutate(undefined)}
              >
                Measure another round
              </Button>
            </>
          )}
          {(settle.error ?? again.error) && (
            <Remark tone="error" role="alert">
              {(settle.error ?? again.error)?.message}
            </Remark>
          )}
        </Box>
        <Box>
          <Notes check={check} round={round} />
        </Box>
      </Box>
    </Box>
  );
}

/** The move in hand in full; what comes after it, or could be done instead, a line each. */
function Moves({
  machineId,
  round,
  moves,
  isTrue,
  main,
}: {
  machineId: string;
  round: RoundState;
  moves: Schemas["Move"][];
  isTrue: boolean;
  main: boolean;
}) {
  const { say } = useSettings();
  const [picked, setPicked] = useState<string | null>(null);
  const first = moves.find((m) => m.key === picked) ?? moves[0];
  if (!first) return null;
  if (isTrue) return <Typography>{say(first.title)}</Typography>;
  return (
    <>
      <MoveCard key={first.key} machineId={machineId} round={round} move={first} main={main} />
      {moves
        .filter((m) => m !== first)
        .map((m) => (
          <Box key={m.key} sx={{ mt: 1 }}>
            <b>{m.instead || first.instead ? "Or instead:" : "After that:"}</b> {say(m.title)}
            {(m.instead || first.instead) && (
              <Button size="small" onClick={() => setPicked(m.key)}>
                Look at it
              </Button>
            )}
          </Box>
        ))}
    </>
  );
}

/** Something to be cut out, to print at full size. */
function Template({ roundId }: { roundId: string }) {
  const file = (format: string) => `/api/v1/rounds/${roundId}/drawing/${format}`;
  return (
    <Box sx={{ my: 2 }}>
      <Typography variant="h3">Cutting template, 1:1</Typography>
      <Box
        component="img"
        src={file("svg")}
        alt="The template: outline, tabs, relief for the screw, oil holes, and a bar to check the printer"
        sx={{ width: "100%", maxWidth: 560, bgcolor: "#fff", border: 1, borderColor: "divider" }}
      />
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        {["pdf", "svg", "dxf"].map((format) => (
          <Button key={format} variant="outlined" href={file(format)} download>
            {format.toUpperCase()}
          </Button>
        ))}
      </Box>
      <Typography sx={{ color: "text.secondary" }}>
        Its measures are under More in Set up. Print at 100 % and measure the bar before you cut.
      </Typography>
    </Box>
  );
}

function Figures({ round }: { round: RoundState }) {
  const { say } = useSettings();
  const { finding, judgement } = round.outcome;
  const expected = new Map(round.predicted.map((p) => [p.quantity, p.words]));
  if (!finding?.quantities.length) return null;
  const cell = { py: 0.75, pr: 2, textAlign: "left", verticalAlign: "top" } as const;
  return (
    <Box component="table" sx={{ borderCollapse: "collapse", width: "100%" }}>
      <thead>
        <tr>
          {["", "measured", "limit", ""].map((head, i) => (
            <Box
              // biome-ignore lint/suspicious/noArrayIndexKey: fixed columns
              key={i}
              component={head ? "th" : "td"}
              scope={head ? "col" : undefined}
              sx={{ ...cell, fontWeight: 400, color: "text.secondary" }}
            >
              {head}
            </Box>
          ))}
        </tr>
      </thead>
      <tbody>
        {finding?.quantities.map((q) => {
          const judged = judgement?.judged.find((j) => j.quantity === q.key);
          return (
            <Box
              component="tr"
              key={q.key}
              sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}` })}
            >
              <Box component="th" scope="row" sx={{ ...cell, fontWeight: 600 }}>
                {q.label}
              </Box>
              <Box component="td" sx={{ ...cell, fontFamily: mono }}>
                {say(q.words)}
                {expected.has(q.key) && (
                  <Box sx={{ fontSize: ".8rem", color: "text.secondary" }}>
                    predicted: {say(expected.get(q.key))}
                  </Box>
                )}
              </Box>
              <Box component="td" sx={{ ...cell, fontFamily: mono }}>
                {say(judged?.tolerance_words)}
              </Box>
              <Box component="td" sx={{ ...cell, pr: 0 }}>
                {judged && <Square status={judged.verdict} size={24} />}
                <Box component="span" sx={visuallyHidden}>
                  {judged && STATUS_WORDS[judged.verdict]}
                </Box>
              </Box>
            </Box>
          );
        })}
      </tbody>
    </Box>
  );
}

function Made({ round, write }: { round: RoundState; write: boolean }) {
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
      {move.nipped && ` · needle nipped ${move.nipped}, tight ${move.tight}`}
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

function Notes({ check, round }: { check: CheckState; round: RoundState }) {
  const when = useWhen();
  const add = useCheckChange((text: string) =>
    told(
      api.POST("/api/v1/rounds/{round_id}/notes", {
        params: { path: { round_id: round.id } },
        body: { id: uuid(), text, written_at: new Date().toISOString() },
      }),
    ),
  );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const text = String(new FormData(form).get("note") ?? "");
    add.mutate(text, { onSuccess: () => form.reset() });
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
            error={add.error !== null}
            helperText={add.error?.message}
          />
          <Button type="submit" disabled={add.isPending}>
            Add
          </Button>
          <PhotoButton machineId={check.machine_id} roundId={round.id} />
        </Box>
      )}
    </Box>
  );
}
