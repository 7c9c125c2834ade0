import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";

type Stack = Schemas["PadStack"];

/** What goes where under a base, seen from above; or behind a bracket's screws, seen from the front. */
export function PadsFigure({ stacks }: { stacks: Stack[] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const xs = stacks.map((s) => s.x_mm);
  const ys = stacks.map((s) => s.y_mm);
  const wide = Math.max(...xs) - Math.min(...xs) || 1;
  const deep = Math.max(...ys) - Math.min(...ys) || 1;
  const scale = Math.min(200 / wide, 120 / deep);
  const px = (v: number) => v * scale;
  return (
    <svg
      viewBox="-230 -125 460 250"
      role="img"
      aria-label={stacks.map((s) => `${s.pad}: ${say(s.words)}`).join("; ")}
      style={{ width: "100%", maxWidth: 460, display: "block" }}
    >
      <rect
        x={-px(wide) / 2 - 34}
        y={-px(deep) / 2 - 28}
        width={px(wide) + 68}
        height={px(deep) + 56}
        fill="none"
        stroke={palette.ink}
        strokeWidth="1.5"
      />
      {stacks.map((s) => {
        const same = String(s.before_mm) === String(s.after_mm);
        const cx = px(s.x_mm);
        const cy = -px(s.y_mm);
        return (
          <g key={s.pad}>
            <rect
              x={cx - 26}
              y={cy - 20}
              width="52"
              height="40"
              fill={s.after_mm.length ? palette.primary.main : "none"}
              opacity={s.after_mm.length ? 0.25 : 1}
            />
            <rect
              x={cx - 26}
              y={cy - 20}
              width="52"
              height="40"
              fill="none"
              stroke={same ? palette.pencil : palette.primary.main}
              strokeWidth={same ? 1.2 : 2.5}
              strokeDasharray={s.after_mm.length ? undefined : "4 4"}
            />
            <circle cx={cx} cy={cy} r="6" fill="none" stroke={palette.ink} />
            <text x={cx} y={cy - 26} fontSize="12" textAnchor="middle" fill={palette.pencil}>
              {s.pad}
            </text>
            <text
              x={cx}
              y={cy + 34}
              fontSize="13"
              fontWeight="600"
              textAnchor="middle"
              fill={palette.ink}
            >
              {say(s.words)}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
