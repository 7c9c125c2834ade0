import type { RoundState } from "../../api/client";
import { useSettings } from "../../settings";

/** What each station of a round is called, by its key. */
export function useLabels(round: RoundState): (key: string) => string {
  const { say } = useSettings();
  return (key) => say(round.stations.find((s) => s.key === key)?.label) || key;
}
