import { v4 as uuid } from "uuid";
import type { CheckState, Reading, ReadingUnit, RoundState } from "../../api/client";
import { post, stamp } from "../../api/outbox";
import { useSettings } from "../../settings";
import { ofRecord } from "./correcting";
import type { Change, Entered } from "./inHand";

/** What writes a reading of a round down on the device, and sends it. */
export function useSending(check: CheckState, round: RoundState, title: string) {
  const { say } = useSettings();
  /** As it was entered; it waits while somebody is `looking` at it first. */
  const send = (entry: Entered, change: Change, looking?: string) => {
    const { at } = entry;
    return post({
      id: entry.id,
      looking,
      checkId: check.id,
      roundId: round.id,
      at: {
        machine: check.machine_name,
        check: title,
        round: round.number,
        station: say(at.label),
      },
      body: {
        station: at.key,
        text: entry.dial ? "" : entry.text.trim(),
        unit: entry.unit,
        grade: "",
        note: "",
        x: entry.beside.x,
        y: entry.beside.y,
        instrument_id: at.takes.length ? entry.beside.instrument_id : null,
        dial: change.text === undefined ? entry.dial : null,
        accepted: false,
        withdrawn: false,
        zeroed_on: entry.zero,
        supersedes: entry.correcting?.id ?? null,
        read_at: entry.read_at,
        ...change,
      },
    });
  };
  /** A later one that takes the place of a reading in the record: as typed, but for a change. */
  const instead = (reading: Reading, change: Change, instrument_id: string | null = null) => {
    const at = round.stations.find((s) => s.key === reading.station);
    if (!at) return;
    const said = ofRecord(reading);
    const { text, x, y } = said;
    void send(
      {
        ...{ id: uuid(), text, dial: null, unit: reading.unit as ReadingUnit, picked: null, at },
        ...{ zero: reading.zeroed_on, beside: { x, y, instrument_id }, correcting: said },
        read_at: stamp(),
      },
      change,
    );
  };
  return { send, instead };
}
