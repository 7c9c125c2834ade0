import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";

type Part = Schemas["GhostPart"];
type View = Part["view"];

const TITLES: Record<View, string> = { front: "front", side: "side", plan: "from above" };
const GAP = 60;

function bounds(parts: Part[]) {
  const points = parts.flatMap((p) => p.outlines.flat());
  const us = points.map((p) => p.u);
  const vs = points.map((p) => p.v);
  return { u0: Math.min(...us), u1: Math.max(...us), v0: Math.min(...vs), v1: Math.max(...vs) };
}

/**
 * The machine as line work: the ideal thin and dashed, what is measured leaning by its error times
 * `factor`, what is not measured dotted, what has gone stale in dashes without colour.
 */
export function GhostFigure({
  ghost,
  factor,
  name,
  views = ["front", "side"],
  press,
  lit,
}: {
  ghost: Schemas["Ghost"];
  factor: number;
  name: string;
  views?: View[];
  /** Takes what of the description tells of the part that is pressed. */
  press?: (part: string) => void;
  /** What of the description is looked at: its parts are drawn strong, the others in pencil. */
  lit?: string[];
}) {
  let left = 0;
  const placed = views.map((view) => {
    const parts = ghost.parts.filter((p) => p.view === view);
    const box = bounds(parts);
    const at = left - box.u0;
    left += box.u1 - box.u0 + GAP;
    return { view, parts, box, at };
  });
  const top = Math.max(...placed.map((p) => p.box.v1)) * 1.06;
  const bottom = Math.min(...placed.map((p) => p.box.v0));
  const label = Math.max((top - bottom) * 0.065, (left * 0.1) / views.length);
  return (
    <svg
      role="img"
      aria-label={`${name}: measured errors drawn ${factor} times too large`}
      viewBox={`${-GAP} ${-top} ${left + GAP} ${top - bottom + label * 1.4}`}
      style={{ width: "100%", height: "100%", display: "block" }}
    >
      {placed.map(({ view, parts, box, at }) => (
        <g key={view} transform={`translate(${at} 0)`}>
          {parts.map((part) => (
            <PartLines
              key={part.name}
              part={part}
              factor={factor}
              lit={lit?.includes(part.describes)}
            />
          ))}
          {press && parts.map((part) => <Pressed key={part.name} part={part} press={press} />)}
          <text
            x={(box.u0 + box.u1) / 2}
            y={-bottom + label}
            fontSize={label * 0.72}
            textAnchor="middle"
            fill="currentColor"
          >
            {TITLES[view]}
          </text>
        </g>
      ))}
    </svg>
  );
}

function PartLines({ part, factor, lit }: { part: Part; factor: number; lit?: boolean }) {
  const { palette } = useTheme();
  const outlines = part.outlines.map(
    (line) => `M${line.map(({ u, v }) => `${u} ${-v}`).join("L")}Z`,
  );
  const d = outlines.join("");
  const common = { fill: "none", vectorEffect: "non-scaling-stroke" as const };
  if (lit !== undefined)
    return (
      <path
        d={d}
        {...common}
        data-lit={lit}
        stroke={lit ? palette.primary.main : palette.pencil}
        strokeWidth={lit ? 2.4 : 0.9}
      />
    );
  if (!part.known)
    return (
      <path d={d} {...common} stroke={palette.pencil} strokeWidth={1.2} strokeDasharray="1.5 4" />
    );
  if (part.detail) return <path d={d} {...common} stroke={palette.pencil} strokeWidth={0.9} />;
  const leans = part.lean_mm_per_m !== 0;
  const angle = (Math.atan((part.lean_mm_per_m / 1000) * factor) * 180) / Math.PI;
  return (
    <>
      {leans && (
        <path d={d} {...common} stroke={palette.pencil} strokeWidth={1} strokeDasharray="6 4" />
      )}
      <path
        d={d}
        {...common}
        stroke={part.stale ? palette.pencil : leans ? palette.primary.main : palette.ink}
        strokeWidth={leans ? 2.2 : 1.6}
        strokeDasharray={part.stale ? "9 4" : undefined}
        transform={`rotate(${angle} ${part.pivot.u} ${-part.pivot.v})`}
      />
    </>
  );
}

/** Where a part can be pressed: its lines, as wide as a finger. */
function Pressed({ part, press }: { part: Part; press: (part: string) => void }) {
  const d = part.outlines
    .map((line) => `M${line.map(({ u, v }) => `${u} ${-v}`).join("L")}Z`)
    .join("");
  return (
    // by keyboard the same parts are opened in the form beside the drawing
    // biome-ignore lint/a11y/noStaticElementInteractions: a shortcut for the eye
    <path
      data-part={part.describes}
      d={d}
      fill="transparent"
      stroke="transparent"
      strokeWidth={16}
      vectorEffect="non-scaling-stroke"
      style={{ cursor: "pointer" }}
      onClick={() => press(part.describes)}
    >
      <title>{part.name}</title>
    </path>
  );
}
