import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import { type KeyboardEvent, memo, type PointerEvent, useRef } from "react";
import type { Schemas } from "../api/client";
import { mono } from "../theme";

export type DialPosition = Schemas["DialPosition"];
type Instrument = NonNullable<Schemas["RoundOut"]["instrument"]>;

interface Props {
  instrument: Instrument;
  /** Where the needle stands; null before anything was typed. */
  at: DialPosition | null;
  /** The reading as text, for those who cannot see the needle. */
  text: string;
  drag: (to: DialPosition) => void;
}

export const hasNeedle = (instrument: Instrument): boolean => "divisions_per_turn" in instrument;

/** What of a dial stays as it is while its needle moves. */
const Face = memo(function Face({ divisions }: { divisions: number }) {
  const { palette } = useTheme();
  const every = divisions > 60 ? 10 : 5;
  return (
    <>
      <circle r="106" fill={palette.background.paper} stroke={palette.ink} strokeWidth="2.5" />
      {Array.from({ length: divisions }, (_, i) => {
        const major = i % every === 0;
        const angle = (i / divisions) * 360;
        return (
          <line
            // biome-ignore lint/suspicious/noArrayIndexKey: ticks never move
            key={i}
            y1={-101}
            y2={major ? -88 : -95}
            stroke={palette.ink}
            strokeWidth={major ? 2 : 0.8}
            transform={`rotate(${angle})`}
          />
        );
      })}
      {Array.from({ length: Math.ceil(divisions / every) }, (_, i) => {
        const angle = ((i * every) / divisions) * 2 * Math.PI;
        return (
          <text
            // biome-ignore lint/suspicious/noArrayIndexKey: figures never move
            key={i}
            x={76 * Math.sin(angle)}
            y={-76 * Math.cos(angle) + 5}
            fontSize="13"
            fontFamily={mono}
            textAnchor="middle"
            fill={palette.ink}
          >
            {i * every}
          </text>
        );
      })}
    </>
  );
});

/** A dial face like the one in hand; the needle can be dragged, or moved by arrow keys. */
export function Needle({ instrument, at, text, drag }: Props) {
  const { palette } = useTheme();
  const svg = useRef<SVGSVGElement>(null);
  if (!("divisions_per_turn" in instrument)) return null;
  const divisions = instrument.divisions_per_turn;
  const now = at ?? { angle_deg: 0, turns: 0 };
  const turn = (angle_deg: number) => {
    // passing zero adds or takes a turn, as the small hand of a dial would
    const whole = now.turns * 360 + now.angle_deg;
    let next = now.turns * 360 + angle_deg;
    while (next - whole > 180) next -= 360;
    while (next - whole < -180) next += 360;
    const turns = Math.trunc(next / 360);
    drag({ angle_deg: next - turns * 360, turns });
  };
  const follow = (event: PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return;
    const x = event.clientX - (box.left + box.width / 2);
    const y = event.clientY - (box.top + box.height / 2);
    turn((Math.atan2(x, -y) * 180) / Math.PI);
  };
  const keys = (event: KeyboardEvent) => {
    const sense = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (!sense) return;
    event.preventDefault();
    turn(now.angle_deg + (sense * 360 * instrument.read_fraction) / divisions);
  };
  return (
    <Box
      component="svg"
      ref={svg}
      viewBox="-110 -110 220 220"
      role="slider"
      tabIndex={0}
      aria-label="Needle"
      aria-valuemin={-9999}
      aria-valuemax={9999}
      aria-valuenow={Math.round(now.turns * 360 + now.angle_deg)}
      aria-valuetext={text || "at zero"}
      onKeyDown={keys}
      onPointerDown={(e: PointerEvent<SVGSVGElement>) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        follow(e);
      }}
      onPointerMove={(e: PointerEvent<SVGSVGElement>) => e.buttons && follow(e)}
      sx={{ width: "100%", height: "100%", touchAction: "none", cursor: "grab", display: "block" }}
    >
      <Face divisions={divisions} />
      <text y="38" fontSize="12" textAnchor="middle" fill={palette.pencil}>
        {now.turns !== 0
          ? `${now.turns > 0 ? "+" : "−"}${Math.abs(now.turns)} turn${Math.abs(now.turns) > 1 ? "s" : ""}`
          : ""}
      </text>
      <g transform={`rotate(${now.angle_deg})`}>
        <path d="M-2.5 22L0 -92L2.5 22Z" fill={at ? palette.primary.main : palette.pencil} />
      </g>
      <circle r="6" fill={palette.ink} />
    </Box>
  );
}
