import { useMemo } from "react";
import type { Reading, RoundState, Schemas } from "../../api/client";
import { type Outgoing, useOutbox } from "../../api/outbox";
import type { StationValue } from "../../parts/StationPlan";

export interface Stations {
  values: Record<string, StationValue>;
  /** Where the tip goes next, counting what waits to be sent; null when the plan is done. */
  next: Schemas["Station"] | null;
  waiting: Outgoing[];
  /** Those of them that count: neither taken back nor replaced by a later one. */
  counted: Outgoing[];
  /** Live readings, oldest first. */
  live: Reading[];
}

/** What the plan shows: readings in the record, and those on their way to it. */
export function useStations(round: RoundState, passes: number): Stations {
  const outbox = useOutbox();
  return useMemo(() => {
    const known = new Set(round.readings.map((r) => r.id));
    const waiting = outbox.filter(
      (item) => item.roundId === round.id && !item.refused && !known.has(item.id),
    );
    const replaced = new Set(waiting.map((item) => item.body.supersedes));
    const live = round.readings.filter((r) => r.live && !replaced.has(r.id));
    const values: Record<string, StationValue> = {};
    const at = (key: string) => {
      values[key] ??= { texts: [], waiting: false };
      return values[key];
    };
    // as typed; the unit stands with it only where it is not the instrument's own
    const usual = round.instrument?.unit;
    const said = (text: string, unit: string) =>
      unit === usual || text.endsWith(unit) ? text.replace(/ div$/, "") : `${text} ${unit}`;
    const answer = (station: string, grade: string) =>
      round.stations.find((s) => s.key === station)?.grades?.find((g) => g.key === grade)?.label ??
      grade;
    for (const reading of live)
      at(reading.station).texts.push(
        reading.reads === "length"
          ? said(reading.text, reading.unit)
          : answer(reading.station, reading.grade),
      );
    const counted = waiting.filter((item) => !item.body.withdrawn && !replaced.has(item.id));
    for (const item of counted) {
      const value = at(item.body.station);
      value.texts.push(
        item.body.grade
          ? answer(item.body.station, item.body.grade)
          : item.body.text
            ? said(item.body.text, item.body.unit)
            : "dial",
      );
      value.waiting = true;
    }
    const next = nextStation(round, values, passes, waiting.length > 0);
    return { values, next, waiting, counted, live };
  }, [round, passes, outbox]);
}

/**
 * The server says where to go. While readings wait for it the plan goes on in its turn; where more
 * passes than planned are taken, the first station with the fewest readings is next.
 */
export function nextStation(
  round: RoundState,
  values: Record<string, StationValue>,
  passes: number,
  waiting: boolean,
): Schemas["Station"] | null {
  const told = round.stations.find((s) => s.key === round.next_station);
  if (!waiting && told) return told;
  const count = (key: string) => values[key]?.texts.length ?? 0;
  const asked: Record<string, number> = {};
  for (const key of round.turn) {
    asked[key] = (asked[key] ?? 0) + 1;
    if (count(key) < asked[key]) return round.stations.find((s) => s.key === key) ?? null;
  }
  for (let done = round.passes; done < passes; done++) {
    const next = round.stations.find((s) => count(s.key) <= done && s.reads === "length");
    if (next) return next;
  }
  return null;
}
