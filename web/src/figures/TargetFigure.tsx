import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";

type Instrument = NonNullable<Schemas["RoundOut"]["instrument"]>;

/** A dial with the needle where it stands now, and a mark where to bring it. */
export function TargetFigure({
  instrument,
  from_mm,
  to_mm,
  label,
}: {
  instrument: Instrument;
  from_mm: number;
  to_mm: number;
  label: string;
}) {
  const { palette } = useTheme();
  if (!("divisions_per_turn" in instrument)) return null;
  const turn = instrument.graduation_mm * instrument.divisions_per_turn;
  const angle = (mm: number) => ((mm / turn) * 360) % 360;
  const a = angle(from_mm);
  const b = angle(to_mm);
  const at = (deg: number, r: number) =>
    `${r * Math.sin((deg * Math.PI) / 180)} ${-r * Math.cos((deg * Math.PI) / 180)}`;
  const sweep = b > a ? 1 : 0;
  const large = Math.abs(b - a) > 180 ? 1 : 0;
  return (
    <svg
      viewBox="-70 -70 140 150"
      role="img"
      aria-label={label}
      style={{ width: 150, flex: "none" }}
    >
      <circle r="62" fill={palette.background.paper} stroke={palette.ink} strokeWidth="1.5" />
      {Array.from({ length: 20 }, (_, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: ticks never move
        <path key={i} d="M0 -60V-53" stroke={palette.ink} transform={`rotate(${i * 18})`} />
      ))}
      <path
        d={`M${at(a, 42)}A42 42 0 ${large} ${sweep} ${at(b, 42)}`}
        fill="none"
        stroke={palette.primary.main}
        strokeWidth="2"
        strokeDasharray="4 3"
      />
      <path d={`M0 0L${at(a, 50)}`} stroke={palette.pencil} strokeWidth="2.5" />
      <path d={`M${at(b, 64)}L${at(b - 7, 74)}L${at(b + 7, 74)}Z`} fill={palette.primary.main} />
      <path
        d={`M0 0L${at(b, 52)}`}
        stroke={palette.primary.main}
        strokeWidth="2.5"
        strokeDasharray="5 4"
      />
      <circle r="4" fill={palette.ink} />
    </svg>
  );
}
