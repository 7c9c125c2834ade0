import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { type ApiProblem, api, type ReadingUnit, type Schemas, told } from "../../api/client";
import type { DialPosition } from "../../parts/Needle";

export interface Typed {
  station: string;
  text: string;
  unit: ReadingUnit;
  dial: DialPosition | null;
  zeroed_on: string | null;
  instrument_id: string | null;
  /** The reading that is being corrected. */
  supersedes: string | null;
}

export type Preview = Schemas["PreviewOut"];

const PAUSE_MS = 120;

/** After so long nothing waits for how it is understood. */
export const LOOK_MS = 3000;

export const askPreview = (roundId: string, typed: Typed): Promise<Preview> =>
  told(
    api.POST("/api/v1/rounds/{round_id}/preview", {
      params: { path: { round_id: roundId } },
      body: typed,
      signal: AbortSignal.timeout(LOOK_MS),
    }),
  );

/** How what is being typed is understood, a moment after the last key. */
export function usePreview(roundId: string, typed: Typed) {
  const [settled, setSettled] = useState(typed);
  const key = JSON.stringify(typed);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(JSON.parse(key)), PAUSE_MS);
    return () => window.clearTimeout(timer);
  }, [key]);
  return useQuery<Preview, ApiProblem>({
    queryKey: ["preview", roundId, settled],
    queryFn: () => askPreview(roundId, settled),
    enabled: settled.station !== "" && (settled.text.trim() !== "" || settled.dial !== null),
    retry: false,
    gcTime: 10_000,
    placeholderData: (before) => before,
  });
}
