import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";

type Sketch = Schemas["SketchFigure"];
type Point = Schemas["Point"];

/**
 * How something is set up or moved: the machine in pencil, what is set up in ink, what the hand does
 * in blue, with one arrow; a loose bolt is an open circle, the one that holds a filled one.
 */
export function SketchFigure({ figure, wide = 420 }: { figure: Sketch; wide?: number }) {
  const { palette } = useTheme();
  const { low, high } = figure;
  const [across, up] = [high.u - low.u, high.v - low.v];
  // what is drawn to be seen, not to scale, goes by the width of the picture
  const unit = across / 100;
  const x = (p: Point) => p.u - low.u;
  const y = (p: Point) => high.v - p.v;
  const path = (points: Point[], closed = false) =>
    `M${points.map((p) => `${x(p)} ${y(p)}`).join("L")}${closed ? "Z" : ""}`;
  const pen = { fill: "none", vectorEffect: "non-scaling-stroke" as const };
  return (
    <svg
      viewBox={`0 0 ${across} ${up}`}
      role="img"
      aria-label={figure.shows}
      style={{ width: "100%", maxWidth: wide, display: "block" }}
    >
      {figure.form.map((outline) => (
        <path
          key={path(outline)}
          d={path(outline, true)}
          {...pen}
          stroke={palette.pencil}
          strokeWidth={1}
        />
      ))}
      {figure.lines.map((line) => (
        <path
          key={path(line.points)}
          d={path(line.points, line.closed)}
          {...pen}
          stroke={line.thin ? palette.pencil : palette.ink}
          strokeWidth={line.thin ? 1 : 2}
          strokeDasharray={line.thin ? "5 4" : undefined}
        />
      ))}
      {figure.dials.map((dial) => (
        <g key={path([dial.base, dial.tip])}>
          <path d={path([dial.base, dial.tip])} {...pen} stroke={palette.ink} strokeWidth={2} />
          <circle
            cx={x(dial.base)}
            cy={y(dial.base)}
            r={5 * unit}
            fill={palette.background.default}
            stroke={palette.ink}
            strokeWidth={2}
            vectorEffect="non-scaling-stroke"
          />
          <path
            d={`M${x(dial.base)} ${y(dial.base)}l${2.2 * unit} ${-3 * unit}`}
            {...pen}
            stroke={palette.ink}
            strokeWidth={2}
          />
          <circle cx={x(dial.tip)} cy={y(dial.tip)} r={1.1 * unit} fill={palette.ink} />
        </g>
      ))}
      {figure.bolts.map((bolt) => (
        <circle
          key={path([bolt.at])}
          cx={x(bolt.at)}
          cy={y(bolt.at)}
          r={2.2 * unit}
          fill={bolt.holds ? palette.ink : palette.background.default}
          stroke={palette.ink}
          strokeWidth={1.6}
          vectorEffect="non-scaling-stroke"
        />
      ))}
      {figure.arrow && <Arrow arrow={figure.arrow} path={path} x={x} y={y} unit={unit} />}
    </svg>
  );
}

function Arrow({
  arrow,
  path,
  x,
  y,
  unit,
}: {
  arrow: Schemas["SketchArrow"];
  path: (points: Point[]) => string;
  x: (p: Point) => number;
  y: (p: Point) => number;
  unit: number;
}) {
  const { palette } = useTheme();
  const ink = palette.primary.main;
  const [first, before, tip] = [arrow.points[0], arrow.points.at(-2), arrow.points.at(-1)];
  if (!first || !before || !tip) return null;
  const toward = (Math.atan2(y(tip) - y(before), x(tip) - x(before)) * 180) / Math.PI;
  const from = (Math.atan2(y(before) - y(first), x(before) - x(first)) * 180) / Math.PI;
  return (
    <g stroke={ink} fill="none" strokeWidth={2.4}>
      <path d={path(arrow.points)} vectorEffect="non-scaling-stroke" />
      <path
        d={`M${-4 * unit} ${-2.4 * unit}L0 0L${-4 * unit} ${2.4 * unit}`}
        transform={`translate(${x(tip)} ${y(tip)}) rotate(${toward})`}
        vectorEffect="non-scaling-stroke"
      />
      {arrow.by === "mallet" && (
        <g
          transform={`translate(${x(first)} ${y(first)}) rotate(${arrow.points.length > 2 ? from : toward})`}
        >
          <rect
            x={-3 * unit}
            y={-4.5 * unit}
            width={6 * unit}
            height={9 * unit}
            fill={palette.background.default}
            vectorEffect="non-scaling-stroke"
          />
          <path d={`M0 ${4.5 * unit}V${15 * unit}`} vectorEffect="non-scaling-stroke" />
        </g>
      )}
      {arrow.by === "hand" && (
        <circle cx={x(first)} cy={y(first)} r={1.8 * unit} fill={ink} stroke="none" />
      )}
    </g>
  );
}
