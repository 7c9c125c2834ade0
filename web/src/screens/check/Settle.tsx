import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useEffect, useRef, useState } from "react";
import { v4 as uuid } from "uuid";
import { api, type CheckState, type RoundState, type Schemas, told } from "../../api/client";
import { useCheckChange, useFinding } from "../../api/queries";
import { Figure } from "../../figures/Figure";
import { AsDescribed } from "../../parts/AsDescribed";
import { LeaveIt } from "../../parts/LeaveIt";
import { OnJobs } from "../../parts/OnJobs";
import { OpenCheck } from "../../parts/OpenCheck";
import { ToBuy } from "../../parts/ToBuy";
import { useSpeech } from "../../parts/useSpeech";
import { Square, STATUS_WORDS } from "../../parts/VerdictMark";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { FindingTable } from "./FindingTable";
import { LeftOut } from "./LeftOut";
import { Made, Notes } from "./Made";
import { MoveCard, OwnMove } from "./MoveCard";
import { keepNote } from "./noteDraft";
import { Template } from "./Template";
import { useSending } from "./useSending";

interface Props {
  check: CheckState;
  round: RoundState;
  /** What the check is called. */
  title: string;
  readMore: (passes: number) => void;
  /** The last reading led here: the finding is what comes next, also for who cannot see it. */
  arrived: boolean;
}

/** The finding as a sentence, the verdict, and what to do about it. */
export function Settle({ check, round, title, readMore, arrived }: Props) {
  const { say } = useSettings();
  const speak = useSpeech();
  const looked = useFinding(round.id);
  const settle = useCheckChange(async () => {
    await keepNote(round.id);
    return told(
      api.POST("/api/v1/rounds/{round_id}/settle", { params: { path: { round_id: round.id } } }),
    );
  });
  const again = useCheckChange(() =>
    told(
      api.POST("/api/v1/checks/{check_id}/rounds", {
        params: { path: { check_id: check.id } },
        body: { id: uuid() },
      }),
    ),
  );
  // a part of a plan judges nothing, whatever its figures are
  const ready = looked.data?.ready === true;
  const judged = looked.data?.judgement;
  const sentence = judged && ready ? say(judged.sentence) : "";
  useEffect(() => {
    if (sentence) speak(sentence);
  }, [sentence, speak]);
  const { instead } = useSending(check, round, title);
  const [leaving, setLeaving] = useState(false);
  const verdict = useRef<HTMLDivElement>(null);
  const there = judged !== undefined && judged !== null;
  useEffect(() => {
    if (arrived && there) verdict.current?.focus({ preventScroll: true });
  }, [arrived, there]);
  if (looked.isPending) return <Loading />;
  if (looked.isError) return <Failed problem={looked.error} again={() => void looked.refetch()} />;
  const { finding, judgement, figures, advice, advice_id, trends, problem, complete, drawing } =
    looked.data;
  if (!finding || !judgement)
    return <Typography>{problem ?? "Nothing has been read yet."}</Typography>;
  const open = round.settled_at === null && check.can_write;
  const last = check.rounds.at(-1)?.id === round.id;
  const isTrue = ready && judgement.verdict === "true";
  // what is still to be read is no remark on what was
  const rest = new Set(ready ? [] : unread(round).map((s) => s.key));
  // while a reading is pointed out the sentence says so, and all else waits for it; what earlier
  // versions judged stands as it did, the remark beside it
  const said =
    ready && finding.notes.find((n) => n.wild && n.text.metric === judgement.sentence.metric);
  const doubted = Boolean(said);
  const odd = said ? round.readings.filter((r) => r.live && said.readings?.includes(r.id)) : [];
  const notes = finding.notes.filter((n) => n !== said && !(n.station && rest.has(n.station)));
  const wayOut = ready && !doubted ? judgement.judged.find((j) => j.way_out)?.way_out : null;
  return (
    <Box>
      <Box
        ref={verdict}
        tabIndex={-1}
        role="status"
        aria-label="Finding"
        sx={{ display: "flex", gap: 2, alignItems: "flex-start", mb: 2, outline: "none" }}
      >
        <Square status={ready ? judgement.verdict : "unmeasured"} size={64} />
        <Box>
          <Typography sx={{ fontSize: "1.5rem", fontWeight: 700, lineHeight: 1.2 }}>
            {ready
              ? STATUS_WORDS[judgement.verdict]
              : `Not all of it ${open ? "is read yet" : "was read"}`}
          </Typography>
          <Typography sx={{ fontSize: "1.15rem", maxWidth: 760 }}>
            {ready ? sentence : named(unread(round), open, say)}
          </Typography>
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
          <FindingTable found={looked.data} predicted={round.predicted} judged={ready} />
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
              {!wayOut.passes && open && (
                <ToBuy
                  workshopId={check.workshop_id}
                  machineId={check.machine_id}
                  what="A finer instrument"
                  why={say(wayOut.text)}
                  sort="instrument"
                />
              )}
            </Remark>
          )}
          {finding.lines?.map((line) => (
            <Typography key={line.metric} sx={{ mt: 1 }}>
              {say(line)}
            </Typography>
          ))}
          {notes.map((note) => (
            <Remark key={note.text.metric} tone={note.tone === "look" ? "look" : "info"}>
              {say(note.text)}
            </Remark>
          ))}
          <LeftOut check={check} round={round} title={title} />
          {(ready ? trends : []).map((t) => (
            <Remark
              key={t.quantity}
              tone={
                t.surprise || t.sense === "wrong_way" || t.sense === "overshoot" ? "look" : "info"
              }
            >
              {say(t.text)}
            </Remark>
          ))}
          {ready && !complete && open && (
            <Remark>
              The planned passes are not all in.{" "}
              <Button size="small" onClick={() => readMore(round.passes)}>
                Go on reading
              </Button>
            </Remark>
          )}
          {figures.map((figure) => (
            <Figure key={figure.title.metric} figure={figure} />
          ))}
          {open &&
            advice?.figures?.map((figure) => <Figure key={figure.title.metric} figure={figure} />)}
          {drawing && <Template roundId={round.id} drawing={drawing} />}
        </Box>
        <Box sx={{ gridColumn: { md: 2 }, gridRow: { md: "1 / span 2" } }}>
          {open && !ready && (
            <Button variant="contained" onClick={() => readMore(round.passes)}>
              Go on reading
            </Button>
          )}
          {round.move && <Made round={round} write={check.can_write} />}
          {open && !isTrue && check.first_move && (
            <Remark>
              Nothing has been moved on {check.machine_name} yet: this round is kept as found.
              Photograph shims and settings before the first of them goes.
            </Remark>
          )}
          {open && doubted && (
            <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
              <Button variant="contained" onClick={() => readMore(round.passes)}>
                Look at the readings
              </Button>
              {odd.length > 0 && (
                <Button
                  onClick={() => {
                    for (const r of odd) instead(r, { withdrawn: true });
                  }}
                >
                  Leave {odd.length > 1 ? "them" : "it"} out
                </Button>
              )}
            </Box>
          )}
          {open &&
            !doubted &&
            advice?.remarks?.map((r) => <Remark key={r.metric}>{say(r)}</Remark>)}
          {open && advice && (
            <Moves
              workshopId={check.workshop_id}
              machineId={check.machine_id}
              round={round}
              advice={advice_id}
              moves={advice.moves}
              isTrue={isTrue}
              main={!wayOut?.passes}
            />
          )}
          {open && advice && !isTrue && !doubted && <AsDescribed check={check} />}
          {open && advice && !isTrue && !doubted && !advice.moves.length && check.can_write && (
            <OwnMove round={round} advice={advice_id} />
          )}
          {open &&
            advice?.asks?.map((a) => (
              <Remark key={a.kind} tone="look">
                {say(a.why)}
                <Box sx={{ mt: 1 }}>
                  <OpenCheck
                    machineId={check.machine_id}
                    kind={a.kind}
                    text={`Read “${a.title}”`}
                  />
                </Box>
              </Remark>
            ))}
          <OnJobs
            jobs={looked.data.jobs}
            says={isTrue ? "On what you make" : "Left as it is, on what you make"}
          />
          {open && advice?.leave && looked.data.jobs.length === 0 && (
            <Remark>{say(advice.leave.text)}</Remark>
          )}
          {open && advice?.leave && looked.data.jobs.length > 0 && (
            <Box component="details">
              <Box component="summary" sx={{ cursor: "pointer", minHeight: 40 }}>
                What leaving it costs in general
              </Box>
              <Typography>{say(advice.leave.text)}</Typography>
            </Box>
          )}
          {open && (
            <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 2 }}>
              <Button
                variant={isTrue ? "contained" : "outlined"}
                disabled={settle.isPending}
                onClick={() => settle.mutate(undefined)}
              >
                Enter it in the logbook
              </Button>
              {!isTrue && !leaving && (
                <Button disabled={settle.isPending} onClick={() => setLeaving(true)}>
                  Leave it as it is
                </Button>
              )}
            </Box>
          )}
          {open && leaving && (
            <LeaveIt
              machineId={check.machine_id}
              kind={check.kind}
              jobsShown
              left={() => settle.mutate(undefined)}
              done={() => setLeaving(false)}
            />
          )}
          {!open && last && check.can_write && (
            <>
              <Remark>
                This round is in the logbook as it was judged, by the rules of version{" "}
                {round.core_version}.
              </Remark>
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

/** Stations that have no reading yet. */
function unread(round: RoundState): Schemas["Station"][] {
  const read = new Set(round.readings.filter((r) => r.live).map((r) => r.station));
  return round.stations.filter((s) => !read.has(s.key));
}

const NAMED = 6;

function named(
  rest: Schemas["Station"][],
  open: boolean,
  say: (words: Schemas["Words"]) => string,
): string {
  const more = rest.length - NAMED;
  const names = rest.slice(0, NAMED).map((s) => say(s.label));
  const told = names.join(", ") + (more > 0 ? ` and ${more} more` : "");
  const which = told && `${open ? "Still to be read" : "Not read"}: ${told}. `;
  return which + (open ? "It is judged once all of it is read." : "It judges nothing.");
}

/** The move in hand in full; what comes after it, or could be done instead, a line each. */
function Moves({
  workshopId,
  machineId,
  round,
  advice,
  moves,
  isTrue,
  main,
}: {
  workshopId: string;
  machineId: string;
  round: RoundState;
  advice: string;
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
      <MoveCard
        key={first.key}
        workshopId={workshopId}
        machineId={machineId}
        round={round}
        advice={advice}
        move={first}
        main={main}
      />
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
