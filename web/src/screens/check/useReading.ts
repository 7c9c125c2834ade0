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
import { discard, PAGE, release, stamp } from "../../api/outbox";
import type { DialPosition } from "../../parts/Needle";
import { useSpeech } from "../../parts/useSpeech";
import { useSettings } from "../../settings";
import type { BesideReading } from "./Beside";
import { type Corrected, ofRecord, onItsWay } from "./correcting";
import { type Change, type Entered, type Held, meant, type ReadingInHand } from "./inHand";
import { lastUnit, readIn } from "./lastUnit";
import { askPreview, type Preview, usePreview } from "./usePreview";
import { useSending } from "./useSending";
import { useStations } from "./useStations";

/** Nobody reads a question and answers it within this. */
const SEEN_MS = 400;

const NOTHING_BESIDE: BesideReading = { x: "", y: "", instrument_id: null };

/** The reading in hand: where it is read, what is typed of it, and what becomes of it. */
export function useReading(
  check: CheckState,
  round: RoundState,
  passes: number,
  locked: boolean,
  title: string,
): ReadingInHand {
  const { say } = useSettings();
  const speak = useSpeech();
  const { send, instead } = useSending(check, round, title);
  const stations = useStations(round, passes);
  const { next, waiting, counted, live } = stations;
  const [picked, setPicked] = useState<string | null>(null);
  const [correcting, setCorrecting] = useState<Corrected | null>(null);
  const [text, setText] = useState("");
  const [dial, setDial] = useState<DialPosition | null>(null);
  const [unit, setUnit] = useState<ReadingUnit>(() => lastUnit(round));
  const [zero, setZero] = useState<string | null>(live.at(-1)?.zeroed_on ?? null);
  const [doubt, setDoubt] = useState<Preview | null>(null);
  const asked = useRef(0);
  const [problem, setProblem] = useState<string | null>(null);
  const [line, setLine] = useState<Entered[]>([]);
  // taken back out of the line while it was being understood
  const recalled = useRef(new WeakSet<Entered>());
  const [held, setHeld] = useState<Held | null>(null);
  // what stands in the field came back to be mended: what was entered after it waits
  const [mending, setMending] = useState<Entered | null>(null);
  const goesTo = (e: Pick<Entered, "picked" | "correcting">) =>
    round.stations.find((s) => s.key === (e.correcting?.station ?? e.picked)) ?? next ?? null;
  const station = goesTo({ picked, correcting });
  const [beside, setBeside] = useState<BesideReading>(NOTHING_BESIDE);
  const besides = useCallback(
    (part: Partial<BesideReading>) => setBeside((old) => ({ ...old, ...part })),
    [],
  );
  const instrument_id = station?.takes.length ? beside.instrument_id : null;
  const supersedes = correcting?.id ?? null;
  const typed = {
    station: station?.key ?? "",
    text,
    unit,
    dial,
    zeroed_on: mending ? mending.zero : zero,
    instrument_id,
    supersedes,
  };
  const preview = usePreview(round.id, typed);

  const clear = () => {
    setText("");
    setDial(null);
    setDoubt(null);
    setProblem(null);
    setMending(null);
    setPicked(null);
    setCorrecting(null);
    besides({ x: "", y: "" });
  };
  const anew = () => {
    setDoubt(null);
    setProblem(null);
  };
  const inHand = (at: Schemas["Station"]): Entered => {
    // mended it is the same reading: the dial may have been set to zero on it meanwhile
    const { id, zero: on, read_at } = mending ?? { id: uuid(), zero, read_at: stamp() };
    return { id, text, dial, unit, zero: on, beside, picked, correcting, at, read_at };
  };
  const keep = async (change: Change) => {
    if (!station) return;
    const kept = send(inHand(station), change);
    clear();
    await kept;
  };
  const enter = async () => {
    if (!station || locked || (text.trim() === "" && !dial)) return;
    if (doubt) {
      // a key pressed twice answers no question, and what cannot be is never meant by a key
      const seen = performance.now() - asked.current > SEEN_MS;
      if (seen && doubt.question?.about !== "range") await keep({ accepted: true });
      return;
    }
    const entry = inHand(station);
    if (!dial) readIn(round, unit);
    void send(entry, {}, PAGE);
    clear();
    // mended, it goes before what was entered after it
    setLine((all) => (mending ? [entry, ...all] : [...all, entry]));
  };
  const field = useRef({ text, dial });
  field.current = { text, dial };
  const bringBack = (entry: Entered) => {
    setText(entry.text);
    setDial(entry.dial);
    setUnit(entry.unit);
    // where it was entered: that place counts as read while it is written down
    setPicked(entry.at.key);
    setCorrecting(entry.correcting);
    besides({ x: entry.beside.x, y: entry.beside.y });
  };
  const wait = (entry: Entered, why: Partial<Held>) => {
    if (recalled.current.has(entry)) return;
    if (field.current.text !== "" || field.current.dial) {
      // the person has typed on: their keys stay where they are
      setHeld({ entry, doubt: null, problem: null, ...why });
      return;
    }
    setMending(entry);
    bringBack(entry);
    setDoubt(why.doubt ?? null);
    asked.current = performance.now();
    setProblem(why.problem ?? null);
  };
  const take = async (entry: Entered) => {
    const { at } = entry;
    try {
      const now = await askPreview(round.id, {
        station: at.key,
        text: entry.text,
        unit: entry.unit,
        dial: entry.dial,
        zeroed_on: entry.zero,
        instrument_id: at.takes.length ? entry.beside.instrument_id : null,
        supersedes: entry.correcting?.id ?? null,
      });
      if (now.question) {
        wait(entry, { doubt: now });
        return;
      }
      if (!recalled.current.has(entry)) speak(say(now.spoken));
    } catch (error) {
      const refused = error as ApiProblem;
      // without connection or session it is kept as typed, and read when they are back
      if (!refused.temporary && refused.status !== 401) {
        wait(entry, { problem: refused.whole });
        return;
      }
    }
    if (!recalled.current.has(entry)) await send(entry, {});
  };
  // who leaves the screen answers no question: what was entered goes out as it was typed
  useEffect(() => () => void release(round.id), [round.id]);
  const [reads, setReads] = useState(false);
  const busy = useRef(false);
  const first = line[0];
  // biome-ignore lint/correctness/useExhaustiveDependencies: one after the other, each at the station that is next by then
  useEffect(() => {
    if (!first || busy.current || held || mending) return;
    busy.current = true;
    void take(first).finally(() => {
      busy.current = false;
      // mended meanwhile it stands there anew, under the same id
      setLine((all) => all.filter((e) => e !== first));
    });
  }, [line, held, mending]);
  const settleHeld = (change: Change | null) => {
    if (!held) return;
    const { entry } = held;
    setHeld(null);
    if (change === null) {
      if (zero === entry.id) setZero(entry.zero);
      void discard(entry.id);
    } else if (change.accepted) void send(entry, change);
    else {
      const anew = { ...entry, text: change.text ?? entry.text, dial: null };
      void send(anew, {}, PAGE);
      setLine((all) => [anew, ...all]);
    }
  };
  const onWay = new Set(waiting.map((item) => item.body.supersedes));
  const unanswered = live.filter((r) => r.question && !onWay.has(r.id));
  const answer = (reading: Reading, change: Change) =>
    instead(reading, change, beside.instrument_id);
  const correct = (reading: Corrected) => {
    if (mending) {
      // what was to be mended there waits as it stands, where it was put
      const entry = inHand(station ?? mending.at);
      void send(entry, {}, PAGE);
      setLine((all) => [entry, ...all]);
      setMending(null);
    }
    anew();
    setPicked(null);
    setCorrecting(reading);
    setText(reading.text);
    if (reading.unit) setUnit(reading.unit as ReadingUnit);
    besides({ x: reading.x, y: reading.y });
    setDial(reading.dial);
  };
  const back = () => {
    if (locked) return;
    const newest = line.at(-1);
    // behind one that is to be mended nothing is taken out, or it would be mended into that
    const looked = waiting.some((item) => item.id === newest?.id && item.looking);
    if (!correcting && !mending && newest && looked) {
      recalled.current.add(newest);
      setLine((all) => all.filter((e) => e.id !== newest.id));
      if (zero === newest.id) setZero(newest.zero);
      setMending(newest);
      bringBack(newest);
      return;
    }
    const sent = counted.filter((item) => !item.looking);
    const kept = [...live.map(ofRecord), ...sent.map((item) => onItsWay(item, round))];
    const here = kept.findIndex((k) => k.id === correcting?.id);
    const before = kept[here > 0 ? here - 1 : here] ?? kept.at(-1);
    if (before) correct(before);
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
      setReads(false);
      setProblem((error as ApiProblem).message);
    }
  };
  const done = live.length + waiting.length;
  const askedAt = useRef(-1);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each reading that is kept
  useEffect(() => {
    if (!reads || askedAt.current === done) return;
    if (!next || next.reads === "log" || locked) return setReads(false);
    askedAt.current = done;
    void askStandin();
  }, [reads, done, next?.key]);
  const entered = [
    ...live.map((r) => ({ id: r.id, station: r.station })),
    ...counted.map((w) => ({ id: w.id, station: w.body.station })),
  ];
  const latest = entered.at(-1);
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
    entered,
    held,
    behind: line.length,
    mending: mending !== null,
    settleHeld,
    unanswered,
    answer,
    labelOf: (key) => round.stations.find((s) => s.key === key)?.label,
    doubt,
    problem:
      problem ??
      (preview.error && !preview.error.temporary && text.trim() !== ""
        ? preview.error.errors[0]?.message
        : null),
    understood: text.trim() !== "" || dial ? preview.data : undefined,
    fresh: !preview.isPlaceholderData,
    finished:
      next === null &&
      picked === null &&
      correcting === null &&
      line.length === 0 &&
      !held &&
      unanswered.length === 0,
    type: (value) => {
      // after a question the next key begins anew: digits must not pile up behind what is doubtful
      setText(doubt && value.startsWith(text) ? value.slice(text.length) : value);
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
      // a doubt is one about this reading there: elsewhere it is looked at anew
      anew();
      setCorrecting(null);
      setPicked(key);
    },
    correct,
    leave: () => {
      // what came back to be mended is dropped with what stands in the field
      if (mending) void discard(mending.id);
      clear();
    },
    keep,
    enter,
    other: (way) => {
      const choices = doubt?.question?.choices ?? [];
      const shown = doubt?.shown_mm ?? 0;
      const mm = choices.find((c) => Math.sign(c - shown) === way);
      if (mm !== undefined) void keep(meant(mm));
    },
    back,
    zeroHere: () => {
      if (latest) setZero(zero === latest.id ? null : latest.id);
    },
    askStandin,
    reads,
    readRest: (on) => {
      askedAt.current = -1;
      setReads(on);
    },
  };
}
