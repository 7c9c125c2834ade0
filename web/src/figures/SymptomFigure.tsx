import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";

/** What is seen on the part: what is wrong in blue, how it should be in thin dashes. */
export function SymptomFigure({ figure }: { figure: Schemas["SymptomFigure"] }) {
  const { palette } = useTheme();
  const pens = {
    pencil: { stroke: palette.pencil, strokeWidth: 1 },
    ink: { stroke: palette.ink, strokeWidth: 1.6 },
    error: { stroke: palette.primary.main, strokeWidth: 2.4 },
    ideal: { stroke: palette.pencil, strokeWidth: 1, strokeDasharray: "4 3" },
  };
  return (
    <svg
      viewBox={`0 0 ${figure.wide} ${figure.tall}`}
      role="img"
      aria-label={figure.shows}
      style={{ width: "100%", height: "100%", display: "block" }}
    >
      {figure.strokes.map((stroke, i) => (
        <path
          // the strokes of a drawing stand where they stand
          // biome-ignore lint/suspicious/noArrayIndexKey: they have no other name
          key={i}
          d={`M${stroke.points.map((p) => `${p.u} ${figure.tall - p.v}`).join("L")}${stroke.closed ? "Z" : ""}`}
          fill="none"
          strokeLinejoin="round"
          vectorEffect="non-scaling-stroke"
          {...pens[stroke.pen]}
        />
      ))}
    </svg>
  );
}
