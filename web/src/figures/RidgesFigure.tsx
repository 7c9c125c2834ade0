import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";

const WIDE = 400;
const HIGH = 67;
/** Of letters, below their line. */
const TAIL = 4;
const FOOT = 46;

/** What passes beside one another leave, in section, one strip for each patch. */
export function RidgesFigure({ figure }: { figure: Schemas["RidgesFigure"] }) {
  return (
    <Box>
      {figure.strips.map((strip) => (
        <Strip key={strip.name} strip={strip} factor={figure.factor} />
      ))}
    </Box>
  );
}

function Strip({ strip, factor }: { strip: Schemas["RidgeStrip"]; factor: number }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const [low, high] = [Math.min(...strip.at_mm), Math.max(...strip.at_mm)];
  const scale = WIDE / (high - low || 1);
  const points = strip.at_mm.map(
    (at, i) => `${(at - low) * scale},${FOOT - (strip.up_mm[i] ?? 0) * factor * scale}`,
  );
  return (
    <Box sx={{ mb: 1 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", columnGap: 2 }}>
        <span>{strip.name}</span>
        <Box component="span" sx={{ fontFamily: mono }}>
          {say(strip.words)}
        </Box>
      </Box>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label={`${strip.name}, from ${strip.low_end} to ${strip.high_end}: ${say(strip.words)}`}
        style={{ width: "100%", display: "block" }}
      >
        <polygon
          points={`0,${FOOT + 4} ${points.join(" ")} ${WIDE},${FOOT + 4}`}
          fill={palette.primary.main}
          opacity={0.16}
        />
        <polyline
          points={points.join(" ")}
          fill="none"
          stroke={palette.primary.main}
          strokeWidth={2}
        />
        <text x={0} y={HIGH - TAIL} fontSize={12} fill={palette.text.secondary}>
          {strip.low_end}
        </text>
        <text x={WIDE} y={HIGH - TAIL} fontSize={12} textAnchor="end" fill={palette.text.secondary}>
          {strip.high_end}
        </text>
      </svg>
    </Box>
  );
}
