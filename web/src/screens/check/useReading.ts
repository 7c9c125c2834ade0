import { useCallback, useEffect, useRef, useState } from "react";
import { v4 as uuid } from "uuid";
import {
  type ApiProblem,
  api,
  type CheckState,
  type Reading,
  type ReadingUnit,
  type RoundState,
  type Schemas,
  told,
} from "../../api/client";
import { type Outgoing, post } from "../../api/outbox";
import type { DialPosition } from "../../parts/Needle";
import { useSpeech } from "../../parts/useSpeech";
import { useSettings } from "../../settings";
import type { BesideReading } from "./Beside";
import { askPreview, type Preview, usePreview } from "./usePreview";
import { type Stations, useStations } from "./useStations";

/** What differs from an ordinary reading as typed. */
type Change = Partial<Outgoing["body"]>;

const NOTHING_BESIDE: BesideReading = { x: "", y: "", instrument_id: null };

export interface ReadingInHand extends Stations {
  station: Schemas["Station"] | null;
  /** The reading that is being corrected. */
  correcting: Reading | null;
  text: string;
  dial: DialPosition | null;
  unit: ReadingUnit;
  /** Id of the reading on which the dial was set to zero. */
  zero: string | null;
  /** The reading that a zero would be set on now. */
  latest: { id: string; station: string } | undefined;
  /** What the station wants beside a length. */
  beside: BesideReading;
  setBeside: (part: Partial<BesideReading>) => void;
  /** A doubt about what was typed, for the person to settle. */
  doubt: Preview | null;
  /** Why it cannot be taken, as long as it stands there. */
  problem: string | null | undefined;
  understood: Preview | undefined;
  fresh: boolean;
  finished: boolean;
  type: (text: string) => void;
  drag: (to: DialPosition) => void;
  setUnit: (unit: ReadingUnit) => void;
  pick: (station: string) => void;
  correct: (reading: Reading) => void;
  /** Nothing is to be corrected after all. */
  leave: () => void;
  keep: (change: Change) => Promise<void>;
  enter: () => Promise<void>;
  back: () => void;
  zeroHere: () => void;
  askStandin: () => Promise<void>;
}

/** The reading in hand: where it is read, what is typed of it, and what becomes of it. */
export function useReading(
  check: CheckState,
  round: RoundState,
  passes: number,
  locked: boolean,
): ReadingInHand {
  const { say } = useSettings();
  const speak = useSpeech();
  const stations = useStations(round, passes);
  const { next, waiting, live } = stations;
  const [picked, setPicked] = useState<string | null>(null);
  const [correcting, setCorrecting] = useState<Reading | null>(null);
  const [text, setText] = useState("");
  const [dial, setDial] = useState<DialPosition | null>(null);
  const [unit, setUnit] = useState<ReadingUnit>(round.instrument?.unit ?? "mm");
  const [zero, setZero] = useState<string | null>(live.at(-1)?.zeroed_on ?? null);
  const [doubt, setDoubt] = useState<Preview | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const station =
    round.stations.find((s) => s.key === (correcting?.station ?? picked)) ?? next ?? null;
  const [beside, setBeside] = useState<BesideReading>(NOTHING_BESIDE);
  const besides = useCallback(
    (part: Partial<BesideReading>) => setBeside((old) => ({ ...old, ...part })),
    [],
  );
  const instrument_id = station?.takes.length ? beside.instrument_id : null;
  const typed = { station: station?.key ?? "", text, unit, dial, zeroed_on: zero, instrument_id };
  const preview = usePreview(round.id, typed);

  const clear = () => {
    setText("");
    setDial(null);
    setDoubt(null);
    setProblem(null);
    setPicked(null);
    setCorrecting(null);
    besides({ x: "", y: "" });
  };
  const keep = async (change: Change) => {
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
        x: beside.x,
        y: beside.y,
        instrument_id,
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
  const correct = (reading: Reading) => {
    setCorrecting(reading);
    setText(reading.reads === "length" ? reading.text : "");
    if (reading.unit) setUnit(reading.unit as ReadingUnit);
    const at = (mm: number | null) => (mm === null ? "" : `${mm} mm`);
    besides({ x: at(reading.x_mm), y: at(reading.y_mm) });
    setDial(null);
  };
  const askStandin = async () => {
    if (!station) return;
    try {
      const shown = await told(
        api.POST("/api/v1/rounds/{round_id}/standin", {
          params: { path: { round_id: round.id } },
          body: { station: station.key },
        }),
      );
      const { text: shows, unit: in_, ...seen } = shown;
      const length = station.reads === "length";
      await keep({
        ...seen,
        text: length ? shows : "",
        x: length ? "" : shows,
        unit: in_ as ReadingUnit,
        accepted: true,
      });
    } catch (error) {
      setProblem((error as ApiProblem).message);
    }
  };
  const latest = [
    ...live.map((r) => ({ id: r.id, station: r.station })),
    ...waiting.map((w) => ({ id: w.id, station: w.body.station })),
  ].at(-1);
  const anew = () => {
    setDoubt(null);
    setProblem(null);
  };
  return {
    ...stations,
    station,
    correcting,
    text,
    dial,
    unit,
    beside,
    setBeside: besides,
    zero,
    latest,
    doubt,
    problem:
      problem ??
      (preview.error && !preview.error.temporary && text.trim() !== ""
        ? preview.error.errors[0]?.message
        : null),
    understood: text.trim() !== "" || dial ? preview.data : undefined,
    fresh: !preview.isPlaceholderData,
    finished: next === null && picked === null && correcting === null,
    type: (value) => {
      setText(value);
      setDial(null);
      anew();
    },
    drag: (to) => {
      setDial(to);
      setText("");
      anew();
    },
    setUnit,
    pick: (key) => {
      setCorrecting(null);
      setPicked(key);
    },
    correct,
    leave: clear,
    keep,
    enter,
    back: () => {
      const last = live.at(-1);
      if (last && !locked) correct(last);
    },
    zeroHere: () => {
      if (latest) setZero(zero === latest.id ? null : latest.id);
    },
    askStandin,
  };
}

/** Call `done` once, when the last reading of the plan is in the record. */
export function useFinished(finished: boolean, waiting: number, done: () => void): void {
  const was = useRef(finished);
  useEffect(() => {
    if (finished && !was.current && waiting === 0) {
      was.current = true;
      done();
    } else if (!finished) was.current = false;
  }, [finished, waiting, done]);
}
