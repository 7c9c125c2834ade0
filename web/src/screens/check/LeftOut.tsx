import Button from "@mui/material/Button";
import type { CheckState, Reading, RoundState } from "../../api/client";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { lengthOf } from "./correcting";
import { useLabels } from "./useLabels";
import { useSending } from "./useSending";

/** Readings that somebody said should not count, and nobody has counted again. */
function leftOut(round: RoundState): Reading[] {
  const replaced = new Set(round.readings.map((r) => r.supersedes));
  return round.readings.filter((r) => !r.live && !replaced.has(r.id) && r.reads === "length");
}

/** What was left out, each to be counted again with a press. */
export function LeftOut(props: { check: CheckState; round: RoundState; title: string }) {
  const { check, round, title } = props;
  const { say } = useSettings();
  const labelOf = useLabels(round);
  const { instead } = useSending(check, round, title);
  const open = round.settled_at === null && check.can_write;
  return leftOut(round).map((r) => (
    <Remark key={r.id}>
      Left out: {labelOf(r.station)}, {lengthOf(r) || say(r.words)}.{" "}
      {open && (
        <Button size="small" onClick={() => instead(r, { accepted: true })}>
          Count it again
        </Button>
      )}
    </Remark>
  ));
}
