import type { Reading, ReadingUnit, Schemas, Words } from "../../api/client";
import type { Outgoing } from "../../api/outbox";
import type { DialPosition } from "../../parts/Needle";
import type { BesideReading } from "./Beside";
import type { Corrected } from "./correcting";
import type { Preview } from "./usePreview";
import type { Stations } from "./useStations";

/** What differs from an ordinary reading as typed. */
export type Change = Partial<Outgoing["body"]>;

/** A reading as it stood when Enter was pressed: what is typed next does not touch it. */
export interface Entered {
  id: string;
  text: string;
  dial: DialPosition | null;
  unit: ReadingUnit;
  zero: string | null;
  beside: BesideReading;
  picked: string | null;
  correcting: Corrected | null;
  /** The station it was entered at, and when. */
  at: Schemas["Station"];
  read_at: string;
}

/** An entry that waits for the person, while they have gone on typing. */
export interface Held {
  entry: Entered;
  doubt: Preview | null;
  problem: string | null;
}

/** The reading as a length that was picked instead of what was typed. */
export const meant = (mm: number): Change => ({
  text: `${mm > 0 ? "+" : ""}${Number(mm.toFixed(6))}`,
  unit: "mm",
  accepted: true,
});

export interface ReadingInHand extends Stations {
  station: Schemas["Station"] | null;
  /** The reading that is being corrected. */
  correcting: Corrected | null;
  text: string;
  dial: DialPosition | null;
  unit: ReadingUnit;
  /** Id of the reading on which the dial was set to zero. */
  zero: string | null;
  /** What has been entered, oldest first, wherever it is on its way to the record. */
  entered: { id: string; station: string }[];
  /** What the station wants beside a length. */
  beside: BesideReading;
  setBeside: (part: Partial<BesideReading>) => void;
  /** An earlier entry that waits for an answer. */
  held: Held | null;
  /** Entries behind it, or behind what came back to the field to be mended. */
  behind: number;
  mending: boolean;
  settleHeld: (change: Change | null) => void;
  /** Readings in the record about which nobody has answered yet what they mean. */
  unanswered: Reading[];
  answer: (reading: Reading, change: Change) => void;
  labelOf: (station: string) => Words | undefined;
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
  correct: (reading: Corrected) => void;
  /** Nothing is to be corrected after all. */
  leave: () => void;
  keep: (change: Change) => Promise<void>;
  enter: () => Promise<void>;
  /** Answer a question of turns: the next value up (1) or down (-1). */
  other: (way: 1 | -1) => void;
  back: () => void;
  zeroHere: () => void;
  askStandin: () => Promise<void>;
  /** Whether the simulated machine reads the rest of the plan by itself. */
  reads: boolean;
  readRest: (on: boolean) => void;
}
