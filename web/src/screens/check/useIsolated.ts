import { useState } from "react";

/** Where it is remembered, for as long as the page is open. */
export const isolatedKey = (machineId: string) => `calm-square.isolated.${machineId}`;

/** Whether the person has said in this sitting that this machine is isolated; asked once of each. */
export function useIsolated(machineId: string): [boolean, (now: boolean) => void] {
  const key = isolatedKey(machineId);
  const [isolated, setIsolated] = useState(sessionStorage.getItem(key) === "yes");
  const say = (now: boolean) => {
    if (now) sessionStorage.setItem(key, "yes");
    else sessionStorage.removeItem(key);
    setIsolated(now);
  };
  return [isolated, say];
}
