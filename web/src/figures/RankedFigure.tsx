import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";

/** Pieces of one sort, best first: what each runs out by, from least to most, against the limit. */
export function RankedFigure({ figure }: { figure: Schemas["RankedFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const far = Math.max(figure.limit_mm, ...figure.rows.map((r) => r.high_mm)) * 1.04;
  const at = (mm: number) => (mm / far) * 100;
  const pens = {
    good: palette.status.true,
    doubt: palette.status.too_close,
    bad: palette.status.out,
    retired: palette.pencil,
  };
  const said = {
    good: "within the limit",
    doubt: "too close to call",
    bad: "beyond it",
    retired: "retired",
  };
  return (
    <Box>
      <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {figure.rows.map((row) => (
          <Box
            component="li"
            key={row.name}
            sx={(t) => ({
              borderTop: `1px solid ${t.palette.rule}`,
              py: 0.75,
              color: row.sort === "retired" ? "text.secondary" : "text.primary",
            })}
          >
            <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2 }}>
              <Box component="b" sx={{ flex: 1, minWidth: 120 }}>
                {row.name}
                {row.sort === "retired" && ", retired"}
              </Box>
              <Box sx={{ fontFamily: mono }}>{say(row.words)} TIR</Box>
            </Box>
            <svg
              viewBox="0 0 100 8"
              preserveAspectRatio="none"
              role="img"
              aria-label={`${row.name}: ${say(row.words)} TIR, ${said[row.sort]}`}
              style={{ width: "100%", height: 14, display: "block" }}
            >
              <rect y={3.5} width={100} height={1} fill={palette.rule} />
              <rect
                x={at(row.low_mm)}
                y={1.5}
                width={Math.max(0.8, at(row.high_mm) - at(row.low_mm))}
                height={5}
                fill={pens[row.sort]}
                opacity={0.35}
              />
              <rect x={at(row.value_mm) - 0.4} y={0} width={0.8} height={8} fill={pens[row.sort]} />
              <rect
                x={at(figure.limit_mm) - 0.15}
                y={0}
                width={0.3}
                height={8}
                fill={palette.ink}
              />
            </svg>
            <Box sx={{ color: "text.secondary", fontSize: ".9rem" }}>
              Good for {say(row.good_for)}
            </Box>
          </Box>
        ))}
      </Box>
      <Box sx={{ color: "text.secondary", fontSize: ".9rem", mt: 0.5 }}>
        The upright line is the limit, {say(figure.limit_words)}.
      </Box>
    </Box>
  );
}
