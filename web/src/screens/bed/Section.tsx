import Box from "@mui/material/Box";
import Slider from "@mui/material/Slider";
import { useTheme } from "@mui/material/styles";
import { lengthIn } from "../../lengths";
import { useSettings } from "../../settings";
import type { BedState } from "./queries";

const WIDE = 640;
const HIGH = 90;

/** The map along the dragged line, its heights much enlarged. */
export function Section({
  bed,
  at,
  change,
}: {
  bed: BedState;
  at: number;
  change: (y: number) => void;
}) {
  const { palette } = useTheme();
  const { say, system } = useSettings();
  const map = bed.map;
  if (!map) return null;
  const j = map.y_mm.reduce(
    (best, y, k) => (Math.abs(y - at) < Math.abs((map.y_mm[best] ?? 0) - at) ? k : best),
    0,
  );
  const first = map.x_mm[0] ?? 0;
  const wide = (map.x_mm[map.x_mm.length - 1] ?? 1) - first || 1;
  const most = Math.max(map.most_mm, 1e-6);
  const points = (map.up_mm[j] ?? []).flatMap((v, i) =>
    v === null || v === undefined
      ? []
      : [`${(((map.x_mm[i] ?? 0) - first) / wide) * WIDE} ${HIGH - 12 - (v / most) * (HIGH - 24)}`],
  );
  return (
    <Box sx={{ mt: 1 }}>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", pr: 1.5 }}>
        <Box sx={{ color: "text.secondary", whiteSpace: "nowrap" }}>Section</Box>
        <Slider
          aria-label="Where the section is cut, from mid bed"
          min={Math.round(map.y_mm[0] ?? 0)}
          max={Math.round(map.y_mm[map.y_mm.length - 1] ?? 0)}
          value={Math.round(at)}
          onChange={(_, to) => change(to as number)}
          valueLabelDisplay="auto"
          valueLabelFormat={(v) => lengthIn(v, system)}
        />
      </Box>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label={`Heights from left to right at ${lengthIn(at, system)}`}
        style={{ width: "100%", display: "block" }}
      >
        <path d={`M0 ${HIGH - 12}H${WIDE}`} stroke={palette.pencil} />
        {points.length > 1 && (
          <path
            d={`M${points.join("L")}`}
            stroke={palette.status.out}
            strokeWidth={2}
            fill="none"
          />
        )}
        <text x={4} y={12} fontSize={12} fill={palette.pencil}>
          {say(map.words)}
        </text>
      </svg>
    </Box>
  );
}
