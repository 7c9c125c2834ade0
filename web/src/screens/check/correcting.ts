import type { Reading, RoundState, Words } from "../../api/client";
import { asTyped, type Outgoing } from "../../api/outbox";
import type { DialPosition } from "../../parts/Needle";

/** A reading that another is to take the place of, in the record or on its way to it. */
export interface Corrected {
  id: string;
  station: string;
  /** As typed; empty for an answer, and for a needle that was set. */
  text: string;
  unit: string;
  dial: DialPosition | null;
  x: string;
  y: string;
  /** What it says. */
  said: Words;
}

const plain = (text: string): Words => ({ metric: text, inch: text });

/** A length as it was typed; nothing for an answer. */
export const lengthOf = (r: Reading) =>
  r.reads !== "length" ? "" : r.text.endsWith(r.unit) ? r.text : `${r.text} ${r.unit}`;

/** A reading in the record. */
export function ofRecord(reading: Reading): Corrected {
  const length = lengthOf(reading);
  const at = (mm: number | null) => (mm === null ? "" : `${mm} mm`);
  return {
    id: reading.id,
    station: reading.station,
    text: length ? reading.text : "",
    unit: reading.unit,
    dial: null,
    x: at(reading.x_mm),
    y: at(reading.y_mm),
    said: length ? plain(length) : reading.words,
  };
}

/** A reading that has not reached the record yet. */
export function onItsWay(item: Outgoing, round: RoundState): Corrected {
  const { id, body } = item;
  const grades = round.stations.find((s) => s.key === body.station)?.grades;
  const answer = grades?.find((g) => g.key === body.grade)?.label;
  return {
    id,
    station: body.station,
    text: body.text,
    unit: body.unit,
    dial: body.dial ?? null,
    x: body.x,
    y: body.y,
    said: plain(answer ?? asTyped(item)),
  };
}
