import { useEffect, useRef } from "react";

/** Call `done` once, when the last reading of the plan is in the record. */
export function useFinished(finished: boolean, waiting: number, done: () => void): void {
  const was = useRef(finished);
  useEffect(() => {
    if (finished && !was.current && waiting === 0) {
      was.current = true;
      done();
    } else if (!finished) was.current = false;
  }, [finished, waiting, done]);
}
