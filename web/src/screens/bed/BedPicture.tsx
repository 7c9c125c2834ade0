import Box from "@mui/material/Box";
import { alpha, useTheme } from "@mui/material/styles";
import { type PointerEvent, useRef, useState } from "react";
import { figureIn, lengthIn, PLACE } from "../../lengths";
import { useSettings } from "../../settings";
import type { BedState } from "./queries";

const WIDE = 640;

export interface Lines {
  /** Each a list of corners from mid bed (mm). */
  paths: [number, number][][];
  /** How much of all of it is shown, 0 to 1. */
  share: number;
}

export interface Rectangle {
  x: number;
  y: number;
  across: number;
  deep: number;
}

interface Props {
  bed: BedState;
  work?: [number, number][];
  lines?: Lines;
  uncut?: [number, number][][];
  origin?: [number, number];
  /** Height of the section line from mid bed (mm), and what to do when it is dragged. */
  section?: number;
  drag?: (y: number) => void;
  /** Where the pointer or finger is, from mid bed (mm); null once it has left. */
  point?: (at: [number, number] | null) => void;
  /** Drawing a rectangle: what to do with it. */
  draw?: (found: Rectangle) => void;
}

/** The bed from above, to scale: heights in bands, what is in the way, and where a cutter runs. */
export function BedPicture(props: Props) {
  const { bed, work, lines, uncut = [], origin, section, drag, draw, point } = props;
  const { palette } = useTheme();
  const { say, system } = useSettings();
  const svg = useRef<SVGSVGElement>(null);
  const [begun, setBegun] = useState<{ from: [number, number]; to: [number, number] } | null>(null);
  const [dragging, setDragging] = useState(false);
  const edge = 0.06 * Math.max(bed.table_x_mm, bed.table_y_mm);
  const left = -bed.table_x_mm / 2 - edge;
  const rear = bed.table_y_mm / 2 + edge;
  const scale = WIDE / (bed.table_x_mm + 2 * edge);
  const high = (bed.table_y_mm + 2 * edge) * scale;
  const px = (x: number) => (x - left) * scale;
  const py = (y: number) => (rear - y) * scale;
  const d = (points: readonly (readonly number[])[], close = true) =>
    points.length === 0
      ? ""
      : `M${points.map((p) => `${px(p[0] ?? 0).toFixed(1)} ${py(p[1] ?? 0).toFixed(1)}`).join("L")}${close ? "Z" : ""}`;
  const place = (event: PointerEvent): [number, number] => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    // drawn as large as fits, in the middle of its box
    const fit = Math.min(box.width / WIDE, box.height / high);
    const x = (event.clientX - box.left - (box.width - WIDE * fit) / 2) / fit;
    const y = (event.clientY - box.top - (box.height - high * fit) / 2) / fit;
    return [x / scale + left, rear - y / scale];
  };
  const down = (event: PointerEvent) => {
    if (draw) {
      event.preventDefault();
      svg.current?.setPointerCapture(event.pointerId);
      setBegun({ from: place(event), to: place(event) });
    } else if (drag) {
      svg.current?.setPointerCapture(event.pointerId);
      setDragging(true);
      drag(place(event)[1]);
    }
  };
  const move = (event: PointerEvent) => {
    point?.(place(event));
    if (begun) setBegun({ ...begun, to: place(event) });
    else if (dragging) drag?.(place(event)[1]);
  };
  const up = () => {
    setDragging(false);
    if (!begun) return;
    const [a, b] = [begun.from, begun.to];
    setBegun(null);
    const across = Math.abs(a[0] - b[0]);
    const deep = Math.abs(a[1] - b[1]);
    // a press without a way is no rectangle
    if (across < 1 || deep < 1) return;
    draw?.({
      x: Math.round((a[0] + b[0]) * 5) / 10,
      y: Math.round((a[1] + b[1]) * 5) / 10,
      across: Math.round(across * 10) / 10,
      deep: Math.round(deep * 10) / 10,
    });
  };
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${WIDE} ${high}`}
      role="img"
      aria-label={`The bed from above, ${lengthIn(bed.table_x_mm, system)} by ${lengthIn(bed.table_y_mm, system)}. ${bed.map ? say(bed.map.words) : "Not mapped."}`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerLeave={() => point?.(null)}
      style={{
        width: "100%",
        maxHeight: "58vh",
        display: "block",
        touchAction: draw || drag ? "none" : "auto",
        cursor: draw ? "crosshair" : "default",
      }}
    >
      <rect
        x={px(-bed.table_x_mm / 2)}
        y={py(bed.table_y_mm / 2)}
        width={bed.table_x_mm * scale}
        height={bed.table_y_mm * scale}
        fill="none"
        stroke={palette.pencil}
      />
      <Bands bed={bed} px={px} py={py} scale={scale} />
      <path d={d(bed.board_outline)} fill="none" stroke={palette.ink} strokeWidth={1.5} />
      {work && (
        <path
          d={d(work)}
          fill="none"
          stroke={palette.primary.main}
          strokeWidth={2}
          strokeDasharray="8 5"
        />
      )}
      {lines && <path d={drawn(lines, d)} fill="none" stroke={palette.primary.main} />}
      {uncut.map((outline) => (
        <path
          key={d(outline)}
          d={d(outline)}
          fill={alpha(palette.status.too_close, 0.25)}
          stroke={palette.status.too_close}
          strokeWidth={1.5}
        />
      ))}
      {bed.keep_outs.map((k) => (
        <g key={k.name}>
          <path
            d={d(k.outline)}
            fill={alpha(palette.status.out, k.tall ? 0.35 : 0.1)}
            stroke={palette.status.out}
            strokeWidth={2}
            strokeDasharray={k.may_cut ? "3 3" : undefined}
          >
            <title>{`${k.name}: ${say(k.words)}`}</title>
          </path>
        </g>
      ))}
      {origin && (
        <g stroke={palette.ink} strokeWidth={1.5} fill="none">
          <path d={`M${px(origin[0])} ${py(origin[1])}h28m-6 -4l6 4l-6 4`} />
          <path d={`M${px(origin[0])} ${py(origin[1])}v-28m-4 6l4 -6l4 6`} />
          <text
            x={px(origin[0]) + 34}
            y={py(origin[1]) + 4}
            fontSize={12}
            stroke="none"
            fill={palette.ink}
          >
            X0 Y0
          </text>
        </g>
      )}
      {section !== undefined && (
        <path
          d={`M0 ${py(section)}H${WIDE}`}
          stroke={palette.status.out}
          strokeWidth={2}
          strokeDasharray="10 6"
        />
      )}
      {begun && (
        <path
          d={d([begun.from, [begun.to[0], begun.from[1]], begun.to, [begun.from[0], begun.to[1]]])}
          fill={alpha(palette.status.out, 0.2)}
          stroke={palette.status.out}
          strokeDasharray="6 4"
        />
      )}
    </svg>
  );
}

/** How high the map stands where somebody points; its place is kept, so that nothing jumps. */
export function Readout({ bed, at }: { bed: BedState; at: [number, number] | null }) {
  const { system } = useSettings();
  const map = bed.map;
  if (!map) return null;
  const nearest = (places: readonly number[], v: number) =>
    places.reduce(
      (best, p, k) => (Math.abs(p - v) < Math.abs((places[best] ?? 0) - v) ? k : best),
      0,
    );
  const up = at && map.up_mm[nearest(map.y_mm, at[1])]?.[nearest(map.x_mm, at[0])];
  return (
    <Box sx={{ minHeight: 24, color: "text.secondary" }}>
      {at === null
        ? "Point at the map to read it."
        : `X ${figureIn(at[0], system, PLACE)} Y ${lengthIn(at[1], system)}: ${
            up === null || up === undefined
              ? "not read there"
              : `${lengthIn(up, system, [2, 4])} over the lowest`
          }`}
    </Box>
  );
}

function Bands({
  bed,
  px,
  py,
  scale,
}: {
  bed: BedState;
  px: (x: number) => number;
  py: (y: number) => number;
  scale: number;
}) {
  const { palette } = useTheme();
  const map = bed.map;
  if (!map) return null;
  const dx = (map.x_mm[1] ?? 1) - (map.x_mm[0] ?? 0);
  const dy = (map.y_mm[1] ?? 1) - (map.y_mm[0] ?? 0);
  const bands = Math.max(1, Math.ceil(map.most_mm / map.step_mm - 1e-9));
  const shade = (v: number) =>
    alpha(
      map.fresh ? palette.primary.main : palette.pencil,
      0.05 + (0.6 * Math.min(bands - 1, Math.floor(v / map.step_mm))) / bands,
    );
  return (
    <g>
      {map.up_mm.map((row, j) =>
        row.map((v, i) =>
          v === null || v === undefined ? null : (
            <rect
              // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its place
              key={`${i} ${j}`}
              x={px((map.x_mm[i] ?? 0) - dx / 2)}
              y={py((map.y_mm[j] ?? 0) + dy / 2)}
              width={dx * scale}
              height={dy * scale}
              shapeRendering="crispEdges"
              fill={shade(v)}
            />
          ),
        ),
      )}
    </g>
  );
}

/** What the bands of the picture mean. */
export function BandKey({ bed }: { bed: BedState }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const map = bed.map;
  if (!map) return null;
  const bands = Math.max(1, Math.ceil(map.most_mm / map.step_mm - 1e-9));
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", columnGap: 0.5 }}>
      <Box sx={{ color: "text.secondary" }}>low</Box>
      {Array.from({ length: bands }, (_, i) => (
        <Box
          // biome-ignore lint/suspicious/noArrayIndexKey: a band is its number
          key={i}
          sx={{
            width: 18,
            height: 14,
            bgcolor: alpha(
              map.fresh ? palette.primary.main : palette.pencil,
              0.05 + (0.6 * i) / bands,
            ),
            border: 1,
            borderColor: palette.rule,
          }}
        />
      ))}
      <Box sx={{ color: "text.secondary" }}>high, a band is {say(map.step_words)}</Box>
    </Box>
  );
}

/** The first part of all lines, by their length. */
function drawn(
  lines: Lines,
  d: (points: readonly (readonly number[])[], close?: boolean) => string,
): string {
  const length = (p: [number, number][]) =>
    p.slice(1).reduce((sum, q, i) => {
      const before = p[i] ?? q;
      return sum + Math.hypot(q[0] - before[0], q[1] - before[1]);
    }, 0);
  let left = lines.paths.reduce((sum, p) => sum + length(p), 0) * lines.share;
  const shown: string[] = [];
  for (const path of lines.paths) {
    if (left <= 0) break;
    const part: [number, number][] = path.slice(0, 1);
    for (let i = 1; i < path.length && left > 0; i++) {
      const [a, b] = [path[i - 1] as [number, number], path[i] as [number, number]];
      const step = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const share = step > left ? left / step : 1;
      part.push([a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share]);
      left -= step;
    }
    shown.push(d(part, false));
  }
  return shown.join("");
}
