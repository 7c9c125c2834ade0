import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, told } from "../../api/client";
import type { JsonObject } from "../../parts/schema";

/** The instruments of the kit for a set-up while it is typed; the last answer stays meanwhile. */
export function useSuggestion(roundId: string, typed: JsonObject | null, kitAt: number) {
  // what is proposed is asked about at once, what is being typed when the keys rest
  const [asked, setAsked] = useState<JsonObject | null>(typed);
  useEffect(() => {
    const later = setTimeout(() => setAsked(typed), 300);
    return () => clearTimeout(later);
  }, [typed]);
  const found = useQuery({
    queryKey: ["suggestion", roundId, asked, kitAt],
    queryFn: () =>
      told(
        api.POST("/api/v1/rounds/{round_id}/instruments", {
          params: { path: { round_id: roundId } },
          body: { setup: asked ?? {} },
        }),
      ),
    enabled: asked !== null,
    // a set-up that is half typed is no error worth showing here
    retry: false,
    placeholderData: (before) => before,
  });
  // what is known is known of what stands there now
  return { ranked: found.data, known: asked === typed && !found.isFetching };
}
