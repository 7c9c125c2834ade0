import { useState } from "react";

const KEY = "calm-square.isolated";

/** Whether the person has said in this sitting that the machine is isolated; asked once. */
export function useIsolated(): [boolean, (now: boolean) => void] {
  const [isolated, setIsolated] = useState(sessionStorage.getItem(KEY) === "yes");
  const say = (now: boolean) => {
    if (now) sessionStorage.setItem(KEY, "yes");
    else sessionStorage.removeItem(KEY);
    setIsolated(now);
  };
  return [isolated, say];
}
