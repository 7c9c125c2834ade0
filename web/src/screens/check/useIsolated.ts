import { useState } from "react";

/** Where it is remembered, for as long as the page is open. */
export const isolatedKey = (machineId: string) => `calm-square.isolated.${machineId}`;

/**
 * Whether the person has said in this sitting what this check needs of this machine: that it is
 * isolated, or, where it has to move by itself, that all is clear. Neither stands for the other, and
 * who says the one takes the other back: a machine under power is not isolated any more.
 */
export function useIsolated(
  machineId: string,
  powered: boolean,
): [boolean, (now: boolean) => void] {
  const key = isolatedKey(machineId);
  const needed = powered ? "clear" : "isolated";
  const [said, setSaid] = useState(sessionStorage.getItem(key));
  const say = (now: boolean) => {
    if (now) sessionStorage.setItem(key, needed);
    else sessionStorage.removeItem(key);
    setSaid(now ? needed : null);
  };
  return [said === needed, say];
}
