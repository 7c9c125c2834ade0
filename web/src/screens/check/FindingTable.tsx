import Box from "@mui/material/Box";
import type { Schemas } from "../../api/client";
import type { Finding } from "../../api/queries";
import { visuallyHidden } from "../../parts/hidden";
import { Square, STATUS_WORDS } from "../../parts/VerdictMark";
import { useSettings } from "../../settings";
import { mono } from "../../theme";

/** Every quantity with its limit and verdict, and what was predicted of it. */
export function FindingTable({
  found,
  predicted,
  judged: judges,
}: {
  found: Finding;
  predicted: Schemas["Prediction"][];
  /** Whether enough was read to judge by. */
  judged: boolean;
}) {
  const { say } = useSettings();
  const { finding, judgement } = found;
  const expected = new Map(predicted.map((p) => [p.quantity, p.words]));
  if (!finding?.quantities.length) return null;
  const cell = { py: 0.75, pr: 2, textAlign: "left", verticalAlign: "top" } as const;
  return (
    <Box component="table" sx={{ borderCollapse: "collapse", width: "100%" }}>
      <thead>
        <tr>
          {["", judges ? "measured" : "so far", "limit", ""].map((head, i) => (
            <Box
              // biome-ignore lint/suspicious/noArrayIndexKey: fixed columns
              key={i}
              component={head ? "th" : "td"}
              scope={head ? "col" : undefined}
              sx={{ ...cell, fontWeight: 400, color: "text.secondary" }}
            >
              {head}
            </Box>
          ))}
        </tr>
      </thead>
      <tbody>
        {finding?.quantities.map((q) => {
          const judged = judgement?.judged.find((j) => j.quantity === q.key);
          const verdict = judges ? judged?.verdict : undefined;
          return (
            <Box
              component="tr"
              key={q.key}
              sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}` })}
            >
              <Box component="th" scope="row" sx={{ ...cell, fontWeight: 600 }}>
                {say(q.label)}
              </Box>
              <Box component="td" sx={{ ...cell, fontFamily: mono }}>
                {say(q.words)}
                {expected.has(q.key) && (
                  <Box sx={{ fontSize: ".8rem", color: "text.secondary" }}>
                    predicted: {say(expected.get(q.key))}
                  </Box>
                )}
              </Box>
              <Box component="td" sx={{ ...cell, fontFamily: mono }}>
                {say(judged?.tolerance_words)}
              </Box>
              <Box component="td" sx={{ ...cell, pr: 0 }}>
                {verdict && <Square status={verdict} size={24} />}
                <Box component="span" sx={visuallyHidden}>
                  {verdict && STATUS_WORDS[verdict]}
                </Box>
              </Box>
            </Box>
          );
        })}
      </tbody>
    </Box>
  );
}
