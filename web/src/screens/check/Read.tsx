import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useEffect, useRef, useState } from "react";
import { v4 as uuid } from "uuid";
import {
  type ApiProblem,
  api,
  type CheckState,
  type Reading as KeptReading,
  type ReadingUnit,
  type RoundState,
  told,
} from "../../api/client";
import { post } from "../../api/outbox";
import type { Kind } from "../../api/queries";
import { useLetter } from "../../parts/Keys";
import { type DialPosition, hasNeedle, Needle } from "../../parts/Needle";
import { StationList } from "../../parts/StationList";
import { StationPlan, type StationValue } from "../../parts/StationPlan";
import { useSpeech } from "../../parts/useSpeech";
import { VerdictMark } from "../../parts/VerdictMark";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";
import { Answer } from "./Answer";
import { Keypad } from "./Keypad";
import { Paste } from "./Paste";
import { useIsolated } from "./useIsolated";
import { askPreview, type Preview, usePreview } from "./usePreview";
import { useStations } from "./useStations";

const UNITS: ReadingUnit[] = ["div", "mm", "µm", "in", "thou", "tenths"];

interface Props {
  check: CheckState;
  kind: Kind;
  round: RoundState;
  passes: number;
  done: () => void;
}

/** The station in hand, the needle, and Enter, once it is safe to have hands there. */
export function Read(props: Props) {
  const [isolated, setIsolated] = useIsolated();
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
  const speak = useSpeech();
  const { values, next, waiting, live } = useStations(round, passes);
  const instrument = round.instrument;
  const [picked, setPicked] = useState<string | null>(null);
  const [correcting, setCorrecting] = useState<KeptReading | null>(null);
  const [text, setText] = useState("");
  const [dial, setDial] = useState<DialPosition | null>(null);
  const [unit, setUnit] = useState<ReadingUnit>(instrument?.unit ?? "mm");
  const [zero, setZero] = useState<string | null>(live.at(-1)?.zeroed_on ?? null);
  const [doubt, setDoubt] = useState<Preview | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const station =
    round.stations.find((s) => s.key === (correcting?.station ?? picked)) ?? next ?? null;
  const asksLength = (station?.reads ?? "length") === "length";
  const typed = { station: station?.key ?? "", text, unit, dial, zeroed_on: zero };
  const preview = usePreview(round.id, typed);
  const [pasting, setPasting] = useState(false);
  const understood = text.trim() !== "" || dial ? preview.data : undefined;
  const finished = next === null && picked === null && correcting === null;
  const locked = !check.can_write || round.settled_at !== null;

  const was = useRef(finished);
  useEffect(() => {
    // the last reading of the plan leads on to the finding, once the record has it
    if (finished && !was.current && waiting.length === 0) {
      was.current = true;
      done();
    } else if (!finished) was.current = false;
  }, [finished, waiting.length, done]);

  const key = station?.key;
  const prompt = station?.prompt;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the field is taken up anew at each station
  useEffect(() => {
    if (!window.matchMedia?.("(pointer: coarse)").matches) field.current?.focus();
    if (prompt) speak(prompt);
  }, [key, prompt]);

  const clear = () => {
    setText("");
    setDial(null);
    setDoubt(null);
    setProblem(null);
    setPicked(null);
    setCorrecting(null);
  };
  const keep = async (
    change: Partial<{
      text: string;
      unit: ReadingUnit;
      grade: string;
      note: string;
      accepted: boolean;
      withdrawn: boolean;
    }>,
  ) => {
    if (!station) return;
    const id = uuid();
    clear();
    await post({
      id,
      checkId: check.id,
      roundId: round.id,
      body: {
        station: station.key,
        text: dial ? "" : text.trim(),
        unit,
        grade: "",
        note: "",
        dial: change.text === undefined ? dial : null,
        accepted: false,
        withdrawn: false,
        zeroed_on: zero,
        supersedes: correcting?.id ?? null,
        read_at: new Date().toISOString(),
        ...change,
      },
    });
  };
  const enter = async () => {
    if (!station || locked || (text.trim() === "" && !dial)) return;
    if (doubt) return keep({ accepted: true });
    try {
      const now = await askPreview(round.id, typed);
      if (now.question) return setDoubt(now);
      speak(say(now.spoken));
    } catch (error) {
      const refused = error as ApiProblem;
      // offline it is kept as typed and read when the connection is back
      if (!refused.temporary) {
        const at = refused.errors[0];
        return setProblem(at ? `${at.message} ${at.expected}`.trim() : refused.message);
      }
    }
    await keep({});
  };
  const back = () => {
    const last = live.at(-1);
    if (!last || locked) return;
    setCorrecting(last);
    setText(last.reads === "length" ? last.text : "");
    setUnit(last.unit as ReadingUnit);
    setDial(null);
  };
  const standin = async () => {
    if (!station) return;
    try {
      const shown = await told(
        api.POST("/api/v1/rounds/{round_id}/standin", {
          params: { path: { round_id: round.id } },
          body: { station: station.key },
        }),
      );
      await keep({ ...shown, unit: shown.unit as ReadingUnit, accepted: true });
    } catch (error) {
      setProblem((error as ApiProblem).message);
    }
  };
  const latest = [
    ...live.map((r) => ({ id: r.id, station: r.station, text: r.text })),
    ...waiting.map((w) => ({ id: w.id, station: w.body.station, text: w.body.text })),
  ].at(-1); // prettier-ignore
  const zeroHere = () => latest && setZero(zero === latest.id ? null : latest.id);
  useLetter("z", zeroHere, !locked);
  const type = (value: string) => {
    setText(value);
    setDial(null);
    setDoubt(null);
    setProblem(null);
  };
  const onScreen =
    problem ??
    (preview.error && !preview.error.temporary && text.trim() !== ""
      ? preview.error.errors[0]?.message
      : null);

  if (pasting)
    return <Paste round={round} unit={instrument?.unit ?? unit} done={() => setPasting(false)} />;
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
          values={values}
          unit={instrument?.unit}
          at={station?.key ?? null}
          disabled={locked}
          pick={(to) => {
            setCorrecting(null);
            setPicked(to);
          }}
        />
        <Readings
          round={round}
          live={live}
          locked={locked}
          correct={(r) => {
            setCorrecting(r);
            setText(r.reads === "length" ? r.text : "");
            if (r.unit) setUnit(r.unit as ReadingUnit);
            setDial(null);
          }}
        />
      </Box>
      <Box>
        <Typography
          aria-live="polite"
          sx={{
            fontSize: { xs: "1.25rem", md: "1.3rem" },
            fontWeight: 600,
            mb: 1,
            minHeight: { md: 34 },
          }}
        >
          {correcting
            ? `Correct ${labelOf(round, correcting.station)}: it says ${asTyped(correcting) || say(correcting.words)}.`
            : (station?.prompt ?? "Every station has been read as planned.")}
        </Typography>
        {!asksLength && station && (
          <Answer
            station={station}
            disabled={locked}
            machineId={check.machine_id}
            roundId={round.id}
            keep={({ grade, note, where }) =>
              void keep({ grade, note, text: where, accepted: true })
            }
          />
        )}
        {asksLength && (
          <>
            {instrument && hasNeedle(instrument) && (
              <Box sx={{ width: { xs: 208, md: 244 }, height: { xs: 208, md: 244 }, mx: "auto" }}>
                <Needle
                  instrument={instrument}
                  at={dial ?? understood?.needle ?? null}
                  text={understood ? say(understood.words) : ""}
                  drag={(to) => {
                    setDial(to);
                    setText("");
                    setDoubt(null);
                    setProblem(null);
                  }}
                />
              </Box>
            )}
            <Box sx={{ display: "flex", gap: 1, mt: 1.5, alignItems: "stretch" }}>
              <Box
                component="input"
                ref={field}
                aria-label={`Reading${station ? ` at ${station.label}` : ""}, in ${unit}`}
                aria-invalid={onScreen !== null && onScreen !== undefined}
                aria-describedby="understood"
                value={dial ? (understood?.text.replace(/ div$/, "") ?? "") : text}
                inputMode="none"
                autoComplete="off"
                disabled={locked || !station}
                onChange={(e: React.ChangeEvent<HTMLInputElement>) => type(e.target.value)}
                onKeyDown={(e: React.KeyboardEvent) => {
                  if (e.key !== "Enter") return;
                  e.preventDefault();
                  if (e.shiftKey) back();
                  else void enter();
                }}
                sx={(t) => ({
                  flex: 1,
                  minWidth: 0,
                  fontFamily: mono,
                  fontSize: 40,
                  lineHeight: 1.2,
                  px: 1.5,
                  color: "text.primary",
                  bgcolor: "background.paper",
                  border: `2px solid ${onScreen ? t.palette.status.out : t.palette.primary.main}`,
                  borderRadius: "3px",
                })}
              />
              <TextField
                select
                value={unit}
                onChange={(e) => setUnit(e.target.value as ReadingUnit)}
                disabled={locked}
                sx={{ width: 104, flex: "none", "& .MuiInputBase-root": { height: "100%" } }}
                slotProps={{ select: { inputProps: { "aria-label": "Unit of the reading" } } }}
              >
                {unitsFor(instrument).map((u) => (
                  <MenuItem key={u} value={u}>
                    {u}
                  </MenuItem>
                ))}
              </TextField>
            </Box>
            <Box id="understood" role="status" sx={{ minHeight: 30, mt: 0.5 }}>
              {onScreen ? (
                <Box component="span" sx={{ color: "error.main" }}>
                  {onScreen}
                </Box>
              ) : understood && !preview.isPlaceholderData ? (
                <>read as {say(understood.words)}</>
              ) : (
                <Box component="span" sx={{ color: "text.secondary" }}>
                  {plusMeans(instrument)}
                </Box>
              )}
            </Box>
          </>
        )}
        {doubt?.question && (
          <Remark tone="look" role="alert">
            {say(doubt.question.text)}
            <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 0.5 }}>
              <Button variant="contained" onClick={() => void keep({ accepted: true })}>
                Keep {say(doubt.words)}
              </Button>
              {(doubt.question.choices ?? []).map((mm, i) => (
                <Button
                  key={mm}
                  variant="outlined"
                  onClick={() =>
                    void keep({
                      text: `${mm > 0 ? "+" : ""}${Number(mm.toFixed(6))}`,
                      unit: "mm",
                      accepted: true,
                    })
                  }
                >
                  {say(doubt.question?.choice_words?.[i])}
                </Button>
              ))}
            </Box>
          </Remark>
        )}
        <Box sx={{ display: { xs: "none", md: "block" } }}>
          <SoFar round={round} />
        </Box>
      </Box>
      <Box>
        {asksLength && (
          <Keypad
            type={type}
            text={text}
            enter={() => void enter()}
            disabled={locked || !station}
          />
        )}
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, mt: 1 }}>
          <Button size="small" disabled={live.length === 0 || locked} onClick={back}>
            Back one
          </Button>
          {instrument && asksLength && (hasNeedle(instrument) || instrument.type === "digital") && (
            <Button
              size="small"
              disabled={!latest || locked}
              onClick={zeroHere}
              aria-pressed={zero !== null}
            >
              {zero && zero === latest?.id
                ? "Undo zero"
                : `Zero at ${latest ? labelOf(round, latest.station) : "…"}`}
            </Button>
          )}
          {!locked && round.stations.some((s) => s.reads === "length") && (
            <Button size="small" onClick={() => setPasting(true)}>
              Paste readings
            </Button>
          )}
          {correcting && (
            <>
              <Button
                size="small"
                onClick={() => void keep({ withdrawn: true, text: correcting.text })}
              >
                It should not count
              </Button>
              <Button size="small" onClick={clear}>
                Leave it
              </Button>
            </>
          )}
          {check.has_standin && station && !locked && (
            <Button size="small" variant="outlined" onClick={() => void standin()}>
              Ask the simulated {asksLength ? "dial" : "machine"}
            </Button>
          )}
          {finished && (
            <Button variant="contained" onClick={done}>
              To the finding
            </Button>
          )}
        </Box>
        {zero && (
          <Typography sx={{ color: "text.secondary" }}>
            The dial was set to zero at{" "}
            {
              [
                ...live.map((r) => ({ id: r.id, s: r.station })),
                ...waiting.map((w) => ({ id: w.id, s: w.body.station })),
              ]
                .filter((r) => r.id === zero)
                .map((r) => labelOf(round, r.s))[0]
            }
            .
          </Typography>
        )}
        {waiting.length > 0 && (
          <Typography role="status" sx={{ color: "text.secondary" }}>
            {waiting.length} kept here, not sent yet.
          </Typography>
        )}
        <Box sx={{ display: { md: "none" } }}>
          <SoFar round={round} />
        </Box>
      </Box>
    </Box>
  );
}

function unitsFor(instrument: RoundState["instrument"]): ReadingUnit[] {
  if (instrument?.type === "level") return ["div"];
  return UNITS.filter((u) => u !== "div" || (instrument && hasNeedle(instrument)));
}

function Stations({
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
  const group = rest.stations.find((s) => s.key === rest.at)?.group;
  const crowded = rest.stations.filter((s) => s.group === group).length > 9;
  if (layout === "round") return <StationPlan {...rest} unit={unit} round />;
  if (layout === "plan" && !crowded) return <StationPlan {...rest} unit={unit} />;
  return <StationList {...rest} narrow={layout !== "list"} />;
}

/** A length as it was typed; nothing for an answer. */
const asTyped = (r: KeptReading) => (r.reads === "length" ? `${r.text} ${r.unit}` : "");

const labelOf = (round: RoundState, key: string) =>
  round.stations.find((s) => s.key === key)?.label ?? key;

/** Which way plus goes, for instruments that have a way. */
function plusMeans(instrument: RoundState["instrument"]): string {
  if (!instrument) return "";
  if (hasNeedle(instrument) || instrument.type === "digital")
    return "plus = the surface is closer, the plunger goes in";
  return instrument.type === "level" ? "which way plus goes is stated under Set up" : "";
}

/** The running verdict, as soon as every station has been read once. */
function SoFar({ round }: { round: RoundState }) {
  const { say } = useSettings();
  const judgement = round.outcome.judgement;
  if (!judgement || !round.outcome.ready) return null;
  return (
    <Box role="status" aria-label="So far" sx={{ mt: 1 }}>
      <VerdictMark status={judgement.verdict} />
      <Typography>{say(judgement.sentence)}</Typography>
    </Box>
  );
}

function Readings({
  round,
  live,
  locked,
  correct,
}: {
  round: RoundState;
  live: KeptReading[];
  locked: boolean;
  correct: (r: KeptReading) => void;
}) {
  const { say } = useSettings();
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
              onClick={() => correct(r)}
              aria-label={`Correct ${labelOf(round, r.station)}: ${r.text || r.grade} ${r.unit}`.trim()}
            >
              {labelOf(round, r.station)}: {asTyped(r) || say(r.words)}
            </Button>
          </li>
        ))}
      </Box>
    </Box>
  );
}
