import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";

const SIZE = 300;
const REACH = 96;

/** Turns of something round: the true circle dashed, each trace and the circle through it, magnified. */
export function PolarFigure({ figure }: { figure: Schemas["PolarFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const scale = REACH / figure.radius_mm;
  const pens = [palette.primary.main, palette.ink, palette.pencil, palette.status.too_close];
  // the first mark is up, and the marks are counted clockwise
  const at = (angle: number, mm: number): [number, number] => [
    mm * Math.sin(angle) * scale,
    -mm * Math.cos(angle) * scale,
  ];
  return (
    <svg
      viewBox={`${-SIZE / 2} ${-SIZE / 2} ${SIZE} ${SIZE + figure.traces.length * 20}`}
      role="img"
      aria-label={figure.traces.map((t) => `${say(t.name)}: ${say(t.words)} TIR`).join("; ")}
      style={{ width: "100%", maxWidth: 380, display: "block" }}
    >
      <circle r={REACH} fill="none" stroke={palette.pencil} strokeDasharray="5 4" />
      <path d="M-5 0H5M0 -5V5" stroke={palette.pencil} />
      <path d={`M0 ${-REACH - 14}l-5 -8h10z`} fill={palette.pencil} />
      {figure.traces.map((trace, i) => {
        const pen = pens[i % pens.length];
        const points = trace.angles_rad.map((angle, k) =>
          at(angle, figure.radius_mm + (trace.off_mm[k] ?? 0) * figure.factor),
        );
        const [cx, cy] = [trace.y_mm * figure.factor * scale, -trace.x_mm * figure.factor * scale];
        return (
          <g key={trace.name.metric} stroke={pen} fill="none">
            <circle cx={cx} cy={cy} r={REACH} strokeWidth={1.4} />
            <polygon
              points={points.map(([x, y]) => `${x},${y}`).join(" ")}
              strokeWidth={0.8}
              opacity={0.6}
            />
            <path d={`M0 0L${cx} ${cy}`} strokeWidth={2} />
            <circle cx={cx} cy={cy} r={3} fill={pen} />
            {points.map(([x, y]) => (
              <circle key={`${x} ${y}`} cx={x} cy={y} r={4} fill={palette.background.default} />
            ))}
            <text
              x={-SIZE / 2 + 26}
              y={SIZE / 2 + 10 + i * 20}
              fontSize={14}
              fontFamily={mono}
              fill={palette.ink}
              stroke="none"
            >
              {say(trace.name)}: {say(trace.words)} TIR
            </text>
            <path d={`M${-SIZE / 2 + 4} ${SIZE / 2 + 5 + i * 20}h16`} strokeWidth={3} />
          </g>
        );
      })}
    </svg>
  );
}
