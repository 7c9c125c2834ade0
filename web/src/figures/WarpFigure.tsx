import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";

const WIDE = 410;
const HIGH = 280;
const SIDE = 92;
const ENDS = 50;
/** How much of the depth shows upwards, and how much to the right, so that no edge hides another. */
const UP = 0.42;
const ASIDE = 0.24;

/** A warped surface over the flat one that it should be, seen from the front and above. */
export function WarpFigure({ figure }: { figure: Schemas["WarpFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const raw = (x: number, y: number, z: number): [number, number] => [
    x + y * ASIDE,
    -y * UP - z * figure.factor,
  ];
  // fitted to the sheet with room for the labels, flat and warped together
  const all = figure.points.flatMap((p) => [raw(p.x_mm, p.y_mm, 0), raw(p.x_mm, p.y_mm, p.z_mm)]);
  const [left, right] = [Math.min(...all.map((p) => p[0])), Math.max(...all.map((p) => p[0]))];
  const [top, bottom] = [Math.min(...all.map((p) => p[1])), Math.max(...all.map((p) => p[1]))];
  const scale = Math.min(
    (WIDE - 2 * SIDE) / (right - left || 1),
    (HIGH - 2 * ENDS) / (bottom - top || 1),
  );
  const at = (x: number, y: number, z: number): [number, number] => {
    const [px, py] = raw(x, y, z);
    return [
      WIDE / 2 + (px - (left + right) / 2) * scale,
      HIGH / 2 - 6 + (py - (top + bottom) / 2) * scale,
    ];
  };
  const path = (flat: boolean) =>
    `${figure.points
      .map((p, i) => {
        const [x, y] = at(p.x_mm, p.y_mm, flat ? 0 : p.z_mm);
        return `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
      })
      .join("")}Z`;
  const many = figure.points.length > 8;
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      role="img"
      aria-label={figure.points.map((p) => `${say(p.label)} ${say(p.words)}`).join(", ")}
      style={{ width: "100%", display: "block" }}
    >
      <path
        d={path(true)}
        fill="none"
        stroke={palette.pencil}
        strokeWidth="1.5"
        strokeDasharray="6 5"
      />
      <path
        d={path(false)}
        fill={palette.primary.main}
        fillOpacity="0.1"
        stroke={palette.primary.main}
        strokeWidth="2.5"
      />
      {figure.points.map((p) => {
        const [x, y] = at(p.x_mm, p.y_mm, p.z_mm);
        const [fx, fy] = at(p.x_mm, p.y_mm, 0);
        const right = p.x_mm > 0;
        const rear = p.y_mm > 0;
        return (
          <g key={p.label.metric}>
            <path d={`M${fx} ${fy}L${x} ${y}`} stroke={palette.primary.main} strokeWidth="1.2" />
            <circle cx={x} cy={y} r={many ? 3 : 4.5} fill={palette.primary.main} />
            {!many && (
              <text
                x={x + (right ? 10 : -10)}
                y={y + (rear ? -20 : 16)}
                textAnchor={right ? "start" : "end"}
                fontSize="14"
                fill={palette.ink}
                stroke={palette.background.default}
                strokeWidth="4"
                paintOrder="stroke"
              >
                <tspan fill={palette.pencil}>{say(p.label)}</tspan>
                <tspan
                  x={x + (right ? 10 : -10)}
                  dy="17"
                  fontFamily={mono}
                  fontSize="15"
                  fontWeight="600"
                >
                  {say(p.words)}
                </tspan>
              </text>
            )}
          </g>
        );
      })}
      <text x={WIDE / 2} y={HIGH - 6} fontSize="13" textAnchor="middle" fill={palette.pencil}>
        you stand here
      </text>
    </svg>
  );
}
