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
  const scale = Math.min(220 / wide, 116 / deep);
  const total = (s: Stack) => say(s.words).split(" (")[0];
  return (
    <div>
      <svg
        viewBox="-190 -120 380 240"
        role="img"
        aria-label={stacks.map((s) => `${say(s.called)}: ${say(s.words)}`).join("; ")}
        style={{ width: "100%", maxWidth: 400, display: "block" }}
      >
        <rect
          x={(-wide * scale) / 2 - 66}
          y={(-deep * scale) / 2 - 52}
          width={wide * scale + 132}
          height={deep * scale + 104}
          fill="none"
          stroke={palette.ink}
          strokeWidth="1.5"
        />
        {stacks.map((s) => (
          <Pad key={s.pad} stack={s} cx={s.x_mm * scale} cy={-s.y_mm * scale} total={total(s)} />
        ))}
      </svg>
      <ul style={{ margin: 0, paddingLeft: 24 }}>
        {stacks
          .filter((s) => String(s.before_mm) !== String(s.after_mm))
          .map((s) => (
            <li key={s.pad}>
              {say(s.called)}: {say(s.words)}
            </li>
          ))}
      </ul>
    </div>
  );
}

function Pad({ stack, cx, cy, total }: { stack: Stack; cx: number; cy: number; total?: string }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const same = String(stack.before_mm) === String(stack.after_mm);
  const box = { x: cx - 26, y: cy - 20, width: 52, height: 40 };
  return (
    <g>
      {stack.after_mm.length > 0 && <rect {...box} fill={palette.primary.main} opacity="0.25" />}
      <rect
        {...box}
        fill="none"
        stroke={same ? palette.pencil : palette.primary.main}
        strokeWidth={same ? 1.2 : 2.5}
        strokeDasharray={stack.after_mm.length ? undefined : "4 4"}
      />
      <circle cx={cx} cy={cy} r="6" fill="none" stroke={palette.ink} />
      <text x={cx} y={cy - 27} fontSize="14" textAnchor="middle" fill={palette.pencil}>
        {say(stack.called)}
      </text>
      <text
        x={cx}
        y={cy + 37}
        fontSize="15"
        fontWeight="600"
        textAnchor="middle"
        fill={palette.ink}
      >
        {total}
      </text>
    </g>
  );
}
