import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";
import { LETTER, LETTERS, marks } from "./marks";

const WIDE = 400;
const HIGH = 135;
const LEFT = 24;
const RIGHT = 24;

/** An axis that leans, from the nose outward: the line it should lie on, the line and its doubt. */
export function AxisFigure({ figure }: { figure: Schemas["AxisFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const [first, last] = [figure.points[0], figure.points[figure.points.length - 1]];
  if (!first || !last) return null;
  const low = Math.min(0, ...figure.points.map((p) => Math.min(p.low_mm, p.off_mm)));
  const high = Math.max(0, ...figure.points.map((p) => Math.max(p.high_mm, p.off_mm)));
  const x = (z: number) =>
    LEFT + ((z - first.at_mm) / (last.at_mm - first.at_mm || 1)) * (WIDE - LEFT - RIGHT);
  const y = (mm: number) => 108 - ((mm - low) / (high - low || 1)) * 96;
  const middle = (p: Schemas["AxisPoint"]) => (p.low_mm + p.high_mm) / 2;
  const band = [
    ...figure.points.map((p) => `${x(p.at_mm)},${y(p.high_mm)}`),
    ...[...figure.points].reverse().map((p) => `${x(p.at_mm)},${y(p.low_mm)}`),
  ].join(" ");
  const labels = marks(
    figure.points.map((p) => ({ x: x(p.at_mm), long: say(p.label).length * LETTER })),
    WIDE,
  );
  return (
    <Box>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label={figure.points.map((p) => `${say(p.label)}: ${say(p.words)} TIR`).join("; ")}
        style={{ width: "100%", display: "block" }}
      >
        <polygon points={band} fill={palette.primary.main} opacity={0.16} />
        <path
          d={`M${LEFT - 16} ${y(0)}H${WIDE}`}
          stroke={palette.pencil}
          strokeDasharray="8 4 2 4"
        />
        <path
          d={`M${figure.points.map((p) => `${x(p.at_mm)} ${y(middle(p))}`).join("L")}`}
          stroke={palette.primary.main}
          strokeWidth={2.5}
          fill="none"
        />
        {figure.points.map((p, i) => (
          <g key={p.at_mm}>
            {p.read && (
              <circle
                cx={x(p.at_mm)}
                cy={y(p.off_mm)}
                r={4.5}
                fill={palette.background.default}
                stroke={palette.ink}
              />
            )}
            <path d={`M${x(p.at_mm)} 112v5`} stroke={palette.pencil} />
            {labels[i] !== undefined && (
              <text
                x={labels[i]}
                y={130}
                fontSize={LETTERS}
                textAnchor="middle"
                fill={palette.text.secondary}
              >
                {say(p.label)}
              </text>
            )}
          </g>
        ))}
      </svg>
      <Box aria-hidden sx={{ display: "flex", flexWrap: "wrap", columnGap: 3 }}>
        {figure.points.map((p) => (
          <Box key={p.at_mm}>
            {say(p.label)}:{" "}
            <Box component="span" sx={{ fontFamily: mono }}>
              {say(p.words)} TIR
            </Box>
            {!p.read && (
              <Box component="span" sx={{ color: "text.secondary" }}>
                {" "}
                (by the line)
              </Box>
            )}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
