import type { ReadingUnit, RoundState } from "../../api/client";
import { whoSends } from "../../api/outbox";

const keyOf = (round: RoundState) => `unit:${whoSends()}:${round.instrument_id}`;

/** The unit that this person read this instrument in last; its own, where they never did. */
export function lastUnit(round: RoundState): ReadingUnit {
  const known = localStorage.getItem(keyOf(round)) as ReadingUnit | null;
  const suits = known !== null && (round.dial?.units as ReadingUnit[] | undefined)?.includes(known);
  return suits ? known : (round.instrument?.unit ?? "mm");
}

/** What a reading was typed in is what the next one begins in, in this round and the next. */
export function readIn(round: RoundState, unit: ReadingUnit): void {
  localStorage.setItem(keyOf(round), unit);
}
