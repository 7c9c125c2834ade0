import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { memo, useEffect, useMemo, useState } from "react";
import type { CheckState, Reading as KeptReading, RoundState } from "../../api/client";
import type { Kind } from "../../api/queries";
import { useLetter } from "../../parts/Keys";
import { StationList } from "../../parts/StationList";
import { StationPlan, type StationValue } from "../../parts/StationPlan";
import { useSpeech } from "../../parts/useSpeech";
import { useSteady } from "../../parts/useSteady";
import { VerdictMark } from "../../parts/VerdictMark";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { Answer } from "./Answer";
import { Beside } from "./Beside";
import { CutFirst } from "./CutFirst";
import { type Corrected, lengthOf, ofRecord } from "./correcting";
import { Entry } from "./Entry";
import { HeldEntry, Meanings, Unanswered } from "./HeldEntry";
import type { ReadingInHand } from "./inHand";
import { Keypad } from "./Keypad";
import { LeftOut } from "./LeftOut";
import { LogFile } from "./LogFile";
import { Paste } from "./Paste";
import { useFinished } from "./useFinished";
import { useIsolated } from "./useIsolated";
import { useLabels } from "./useLabels";
import { useReading } from "./useReading";

interface Props {
  check: CheckState;
  kind: Kind;
  round: RoundState;
  passes: number;
  done: () => void;
}

/** The station in hand, the needle, and Enter, once it is safe to have hands there. */
export function Read(props: Props) {
  return (
    <>
      {props.kind.cuts && props.round.settled_at === null && (
        <CutFirst checkId={props.check.id} round={props.round} />
      )}
      <AtTheMachine {...props} />
    </>
  );
}

function AtTheMachine(props: Props) {
  const [isolated, setIsolated] = useIsolated(props.check.machine_id, props.check.powered);
  if (!isolated && props.check.can_write && props.round.settled_at === null)
    return (
      <Remark tone="look">
        {props.check.powered
          ? "It has to move by itself for this: spindle off and cutter out, guards closed, hands " +
            "clear of what moves, one on the stop."
          : "Before hands go near the cutter or spindle: isolate the machine, take the cutter out, " +
            "and turn the spindle by hand only."}
        <Box sx={{ mt: 1 }}>
          <Button variant="contained" onClick={() => setIsolated(true)}>
            {props.check.powered ? "That is seen to" : "It is isolated"}
          </Button>
        </Box>
      </Remark>
    );
  return <Reading {...props} />;
}

function Reading({ check, kind, round, passes, done }: Props) {
  const { say } = useSettings();
  const locked = !check.can_write || round.settled_at !== null;
  const hand = useReading(check, round, passes, locked, kind.title);
  const labelOf = useLabels(round);
  const [pasting, setPasting] = useState(false);
  const { station, correcting } = hand;
  const latest = hand.entered.at(-1);
  const asksLength = (station?.reads ?? "length") === "length";
  const asksAnswer = station?.reads === "grade" || station?.reads === "observation";
  const speak = useSpeech();
  const key = station?.key;
  const already = key && !correcting ? (hand.values[key]?.texts.length ?? 0) : 0;
  // a plan of one pass comes back to where it began
  const back = round.passes === 1 && already > 0 && round.turn.filter((k) => k === key).length > 1;
  const prompt = station ? (back ? "Back to the start. " : "") + say(station.prompt) : "";
  const longest = useMemo(
    () =>
      round.stations.map((s) => say(s.prompt)).reduce((a, b) => (b.length > a.length ? b : a), ""),
    [round.stations, say],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: said once at each station
  useEffect(() => {
    if (prompt) speak(prompt);
  }, [key, prompt]);
  // what is typed draws the field anew, and not all that stands round it
  const type = useSteady((change: (text: string) => string) => hand.type(change(hand.text)));
  const enter = useSteady(() => void hand.enter());
  const pick = useSteady(hand.pick);
  const correct = useSteady(hand.correct);
  useFinished(hand.finished, hand.waiting.length, done);
  useLetter("z", hand.zeroHere, !locked);

  if (pasting)
    return (
      <Paste
        checkId={check.id}
        round={round}
        unit={round.instrument?.unit ?? hand.unit}
        done={() => setPasting(false)}
      />
    );
  return (
    <Box
      sx={{
        display: "grid",
        gap: { xs: 1.5, md: 4 },
        gridTemplateColumns: {
          xs: "minmax(0, 1fr)",
          md: "minmax(260px, 340px) minmax(0, 1fr) 260px",
        },
        alignItems: "start",
      }}
    >
      <Box sx={{ display: { xs: "none", md: "block" } }}>
        <Stations
          layout={kind.layout}
          stations={round.stations}
          values={hand.values}
          unit={round.instrument?.unit}
          at={station?.key ?? null}
          disabled={locked}
          pick={pick}
        />
        <Kept round={round} live={hand.live} locked={locked} correct={correct} />
        <LeftOut check={check} round={round} title={kind.title} />
      </Box>
      <Box>
        <Typography
          aria-live="polite"
          data-longest={longest}
          sx={{
            display: "grid",
            // what takes four lines on a phone takes three of these, and leaves Enter on the screen
            fontSize: { xs: longest.length > 60 ? "1.05rem" : "1.25rem", md: "1.3rem" },
            fontWeight: 600,
            mb: 1,
            // as high as the longest of the round: field and keys stay where they are
            "& > span, &::after": { gridArea: "1 / 1" },
            "&::after": { content: "attr(data-longest)", visibility: "hidden" },
          }}
        >
          <span>
            {correcting
              ? `Correct ${labelOf(correcting.station)}: it says ${say(correcting.said)}.`
              : prompt || "Every station has been read as planned."}
          </span>
        </Typography>
        {station?.reads === "log" && (
          <LogFile
            round={round}
            station={station}
            supersedes={correcting?.id ?? null}
            disabled={locked}
          />
        )}
        {asksAnswer && station && (
          <Answer
            station={station}
            disabled={locked}
            machineId={check.machine_id}
            roundId={round.id}
            keep={({ grade, note, where }) =>
              void hand.keep({ grade, note, text: "", x: where, accepted: true })
            }
          />
        )}
        {asksLength && <Entry hand={hand} round={round} locked={locked} />}
        {asksLength && station && (
          <Beside
            workshopId={check.workshop_id}
            machineId={check.machine_id}
            round={round}
            station={station}
            value={hand.beside}
            change={hand.setBeside}
            disabled={locked}
          />
        )}
        {!asksLength && hand.problem && (
          <Remark tone="look" role="alert">
            {hand.problem}
          </Remark>
        )}
        <HeldEntry hand={hand} />
        <Unanswered hand={hand} locked={locked} />
        <Doubt hand={hand} />
        <Box sx={{ display: { xs: "none", md: "block" } }}>
          <SoFar round={round} />
        </Box>
      </Box>
      <Box>
        {asksLength && <Keypad type={type} enter={enter} disabled={locked || !station} />}
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, mt: 1 }}>
          <Button size="small" disabled={!latest || locked} onClick={hand.back}>
            Back one
          </Button>
          {!locked && round.stations.some((s) => s.reads === "length") && (
            <Button size="small" onClick={() => setPasting(true)}>
              Paste readings
            </Button>
          )}
          {/* a row of its own: its words change with each station, and nothing else moves for it */}
          {round.dial?.can_zero && asksLength && (
            <Button
              size="small"
              disabled={!latest || locked}
              onClick={hand.zeroHere}
              aria-pressed={hand.zero !== null}
              sx={{ flexBasis: { md: "100%" }, justifyContent: { md: "flex-start" } }}
            >
              {hand.zero && hand.zero === latest?.id
                ? "Undo zero"
                : `Zero at ${latest ? labelOf(latest.station) : "…"}`}
            </Button>
          )}
          {correcting && (
            <>
              <Button
                size="small"
                onClick={() => void hand.keep({ withdrawn: true, text: correcting.text })}
              >
                It should not count
              </Button>
              <Button size="small" onClick={hand.leave}>
                Leave it
              </Button>
            </>
          )}
          {!correcting && hand.mending && hand.behind > 0 && (
            <Button size="small" onClick={hand.leave}>
              Drop it, and go on
            </Button>
          )}
          {check.has_standin && station && station.reads !== "log" && !locked && (
            <Button size="small" variant="outlined" onClick={() => void hand.askStandin()}>
              Ask the simulated {asksLength ? "dial" : "machine"}
            </Button>
          )}
          {check.has_standin && station && station.reads !== "log" && !locked && (
            <Button size="small" onClick={() => hand.readRest(!hand.reads)}>
              {hand.reads ? "Stop" : "Let it read the rest"}
            </Button>
          )}
          {hand.finished && (
            <Button variant="contained" onClick={done}>
              To the finding
            </Button>
          )}
        </Box>
        <Zeroed round={round} hand={hand} />
        {hand.waiting.length > 0 && (
          <Typography role="status" sx={{ color: "text.secondary" }}>
            {hand.waiting.length} kept here, not sent yet.
          </Typography>
        )}
        <Box sx={{ display: { md: "none" } }}>
          <SoFar round={round} />
        </Box>
      </Box>
    </Box>
  );
}

function Zeroed({ round, hand }: { round: RoundState; hand: ReadingInHand }) {
  const labelOf = useLabels(round);
  if (!hand.zero) return null;
  const at = hand.entered.find((r) => r.id === hand.zero);
  return (
    <Typography sx={{ color: "text.secondary" }}>
      The dial was set to zero at {at && labelOf(at.station)}.
    </Typography>
  );
}

/** A doubt about what was typed: keep it, or what else the same needle could mean. */
function Doubt({ hand }: { hand: ReadingInHand }) {
  const { say } = useSettings();
  if (!hand.doubt?.question) return null;
  return (
    <Remark tone="look" role="alert">
      {say(hand.doubt.question.text)}
      <Meanings doubt={hand.doubt} keep={(change) => void hand.keep(change)} keys />
    </Remark>
  );
}

const Stations = memo(function Stations({
  layout,
  unit,
  ...rest
}: {
  layout: Kind["layout"];
  stations: RoundState["stations"];
  values: Record<string, StationValue>;
  unit: string | undefined;
  at: string | null;
  disabled: boolean;
  pick: (key: string) => void;
}) {
  const group = rest.stations.find((s) => s.key === rest.at)?.group.metric;
  const here = rest.stations.filter((s) => s.group.metric === group);
  // what has no place of its own is gone through, not pointed at
  const placed = here.length === 1 || here.every((s) => s.x_mm !== 0 || s.y_mm !== 0);
  const most = layout === "plan" ? 9 : 12;
  if (layout === "plan" && here.length <= most) return <StationPlan {...rest} unit={unit} />;
  if ((layout === "round" || layout === "turn") && placed && here.length <= most)
    return <StationPlan {...rest} unit={unit} round={layout} />;
  return <StationList {...rest} narrow={layout !== "list"} />;
});

/** The running verdict, as soon as every station has been read once. */
const SoFar = memo(function SoFar({ round }: { round: RoundState }) {
  const { say } = useSettings();
  const { verdict, sentence } = round.brief;
  if (!verdict) return null;
  return (
    <Box role="status" aria-label="So far" sx={{ mt: 1 }}>
      <VerdictMark status={verdict} />
      <Typography>{say(sentence)}</Typography>
    </Box>
  );
});

/** The readings of the round that count, each to be corrected with a press. */
const Kept = memo(function Kept({
  round,
  live,
  locked,
  correct,
}: {
  round: RoundState;
  live: KeptReading[];
  locked: boolean;
  correct: (reading: Corrected) => void;
}) {
  const { say } = useSettings();
  const labelOf = useLabels(round);
  if (live.length === 0) return null;
  return (
    <Box component="details" sx={{ mt: 1 }}>
      <Box component="summary" sx={{ cursor: "pointer", minHeight: 32 }}>
        {live.length} {live.length > 1 ? "readings" : "reading"} kept
      </Box>
      <Box component="ol" sx={{ m: 0, pl: 3 }}>
        {live.map((r) => (
          <li key={r.id}>
            <Button
              size="small"
              disabled={locked}
              onClick={() => correct(ofRecord(r))}
              aria-label={`Correct ${labelOf(r.station)}: ${r.text || r.grade} ${r.unit}`.trim()}
            >
              {labelOf(r.station)}: {lengthOf(r) || say(r.words)}
            </Button>
          </li>
        ))}
      </Box>
    </Box>
  );
});
