import { useCallback, useLayoutEffect, useRef } from "react";

/** The same function from one drawing to the next, which does what the newest one would: what is
 * handed it need not be drawn again for that. */
export function useSteady<A extends unknown[], R>(newest: (...args: A) => R): (...args: A) => R {
  const current = useRef(newest);
  useLayoutEffect(() => {
    current.current = newest;
  });
  return useCallback((...args: A) => current.current(...args), []);
}
