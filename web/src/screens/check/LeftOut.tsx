import Button from "@mui/material/Button";
import { v4 as uuid } from "uuid";
import type { CheckState, Reading, ReadingUnit, RoundState } from "../../api/client";
import { post, stamp } from "../../api/outbox";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { lengthOf } from "./correcting";
import { useLabels } from "./useLabels";

/** Readings that somebody said should not count, and nobody has counted again. */
export function leftOut(round: RoundState): Reading[] {
  const replaced = new Set(round.readings.map((r) => r.supersedes));
  return round.readings.filter((r) => !r.live && !replaced.has(r.id) && r.reads === "length");
}

/** What leaves a reading out, or counts it again: a later one that takes its place, as typed. */
export function useCounting(check: CheckState, round: RoundState, title: string) {
  const labelOf = useLabels(round);
  return (reading: Reading, counts: boolean) =>
    post({
      id: uuid(),
      checkId: check.id,
      roundId: round.id,
      at: {
        machine: check.machine_name,
        check: title,
        round: round.number,
        station: labelOf(reading.station),
      },
      body: {
        station: reading.station,
        text: reading.text,
        unit: reading.unit as ReadingUnit,
        grade: "",
        note: "",
        x: reading.x_mm === null ? "" : `${reading.x_mm} mm`,
        y: reading.y_mm === null ? "" : `${reading.y_mm} mm`,
        instrument_id: null,
        dial: null,
        accepted: true,
        withdrawn: !counts,
        zeroed_on: reading.zeroed_on,
        supersedes: reading.id,
        read_at: stamp(),
      },
    });
}

/** What was left out, each to be counted again with a press. */
export function LeftOut(props: { check: CheckState; round: RoundState; title: string }) {
  const { check, round, title } = props;
  const { say } = useSettings();
  const labelOf = useLabels(round);
  const count = useCounting(check, round, title);
  const open = round.settled_at === null && check.can_write;
  return leftOut(round).map((r) => (
    <Remark key={r.id}>
      Left out: {labelOf(r.station)}, {lengthOf(r) || say(r.words)}.{" "}
      {open && (
        <Button size="small" onClick={() => void count(r, true)}>
          Count it again
        </Button>
      )}
    </Remark>
  ));
}
