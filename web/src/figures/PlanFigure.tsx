import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";

const WIDE = 440;
const HIGH = 310;
type Spot = Schemas["Spot"];

/** What goes where, seen from above with the operator at the front. */
export function PlanFigure({ figure }: { figure: Schemas["PlanFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const dense = figure.spots.length > 8;
  if (dense) return <LongPlan figure={figure} />;
  const flat = figure.depth_mm <= 2;
  const scale = Math.min(92 / (figure.width_mm || 1), 180 / (figure.depth_mm || 1));
  const x = (s: Spot) => WIDE / 2 + s.x_mm * scale;
  const y = (s: Spot) => HIGH / 2 - 8 - s.y_mm * scale;
  const halfW = (figure.width_mm / 2) * scale + 26;
  const halfH = (figure.depth_mm / 2) * scale + 26;
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      role="img"
      aria-label={figure.spots.map((s) => `${say(s.label)}: ${say(s.words)}`).join("; ")}
      style={{ width: "100%", display: "block" }}
    >
      <rect
        x={WIDE / 2 - halfW}
        y={HIGH / 2 - 8 - halfH}
        width={2 * halfW}
        height={2 * halfH}
        fill="none"
        stroke={palette.rule}
        strokeWidth="1.5"
      />
      {figure.spots.map((s, i) => {
        const right = s.x_mm >= 0 && !flat;
        // figures stand outside, to the left and the right; above and below where all is on a line
        const dx = flat ? 0 : right ? 32 : -32;
        const dy = flat ? (i % 2 ? 34 : -34) : -8;
        return (
          <g key={s.label.metric}>
            <Mark spot={s} cx={x(s)} cy={y(s)} />
            <text
              x={x(s) + dx}
              y={y(s) + dy}
              fontSize="14.5"
              textAnchor={flat ? "middle" : right ? "start" : "end"}
              fill={palette.pencil}
            >
              {say(s.label)}
              <tspan
                x={x(s) + dx}
                dy="17"
                fontFamily={mono}
                fontSize="16"
                fontWeight="600"
                fill={palette.ink}
              >
                {say(s.words)}
              </tspan>
              {say(s.detail)
                .split(/, | · /)
                .map((line) => (
                  <tspan key={line} x={x(s) + dx} dy="16" fontSize="13" fill={palette.pencil}>
                    {line}
                  </tspan>
                ))}
            </text>
          </g>
        );
      })}
      <text x={WIDE / 2} y={HIGH - 6} fontSize="13" textAnchor="middle" fill={palette.pencil}>
        you stand here
      </text>
    </svg>
  );
}

function Mark({ spot, cx, cy }: { spot: Spot; cx: number; cy: number }) {
  const { palette } = useTheme();
  const acts = spot.sort !== "stay";
  const colour = acts ? palette.primary.main : palette.pencil;
  const arrow = { up: "M-5 3L0 -5L5 3", down: "M-5 -3L0 5L5 -3", in: "M3 -5L-5 0L3 5" };
  const sign =
    spot.sort === "out" ? "M-3 -5L5 0L-3 5" : spot.sort in arrow ? arrow[spot.sort as "up"] : "";
  return (
    <g transform={`translate(${cx} ${cy})`}>
      <circle
        r="13"
        fill={acts ? colour : "none"}
        stroke={colour}
        strokeWidth="2"
        strokeDasharray={acts ? undefined : "3 3"}
      />
      {sign && (
        <path d={sign} fill="none" stroke={palette.primary.contrastText} strokeWidth="2.5" />
      )}
      {spot.sort === "shim" && (
        <path
          d="M-6 -2H6M-6 3H6"
          fill="none"
          stroke={palette.primary.contrastText}
          strokeWidth="2.5"
        />
      )}
    </g>
  );
}

/** Many bolts along rails: one row for each, those to be touched in full. */
function LongPlan({ figure }: { figure: Schemas["PlanFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  return (
    <ul aria-label={say(figure.title)} style={{ listStyle: "none", margin: 0, padding: 0 }}>
      {figure.spots.map((s) => (
        <li
          key={s.label.metric}
          style={{
            display: "flex",
            gap: 12,
            alignItems: "center",
            borderTop: `1px solid ${palette.rule}`,
            padding: "4px 0",
            color: s.sort === "stay" ? palette.pencil : palette.ink,
          }}
        >
          <svg width="30" height="30" viewBox="-15 -15 30 30" aria-hidden="true">
            <Mark spot={s} cx={0} cy={0} />
          </svg>
          <span style={{ minWidth: 90 }}>{say(s.label)}</span>
          <span style={{ fontFamily: mono, fontWeight: s.sort === "stay" ? 400 : 600 }}>
            {say(s.words)}
          </span>
        </li>
      ))}
    </ul>
  );
}
