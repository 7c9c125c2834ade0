import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";

const WIDE = 500;
const ROW = 36;
const SAID = {
  clean: "clean",
  rattles: "rattles",
  stalls: "stalls",
  ahead: "not run",
  not_reached: "never reached",
  lost: "lost steps",
} as const;

/** The rungs, lowest at the bottom, as far as they were climbed; what to use is marked beside it. */
export function LadderFigure({ figure }: { figure: Schemas["LadderFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const rungs = [...figure.rungs].reverse();
  const gap = figure.recommended ? 26 : 0;
  const high = rungs.length * ROW + gap + 12;
  const colour = {
    clean: palette.status.true,
    rattles: palette.status.too_close,
    stalls: palette.status.out,
    lost: palette.status.out,
    ahead: palette.rule,
    not_reached: palette.pencil,
  };
  // between which rungs the recommended value lies; they make room for it
  const above = rungs.filter((r) => r.value > (figure.recommended ?? Infinity)).length;
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${high}`}
      role="img"
      aria-label={figure.rungs.map((r) => `${say(r.label)}: ${SAID[r.result]}`).join("; ")}
      style={{ width: "100%", display: "block" }}
    >
      <path
        d={`M150 4V${high - 8}M250 4V${high - 8}`}
        stroke={palette.ink}
        strokeWidth="2"
        fill="none"
      />
      {rungs.map((r, i) => {
        const y = i * ROW + ROW / 2 + (i >= above ? gap : 0);
        return (
          <g key={r.value}>
            <text
              x="140"
              y={y + 5}
              fontSize="14"
              textAnchor="end"
              fontFamily={mono}
              fill={palette.ink}
            >
              {say(r.label)}
            </text>
            <path
              d={`M150 ${y}H250`}
              stroke={colour[r.result]}
              strokeWidth={r.result === "ahead" ? 2 : 7}
              strokeDasharray={
                r.result === "stalls" ? "14 8" : r.result === "not_reached" ? "4 5" : undefined
              }
            />
            <text x="266" y={y + 5} fontSize="14" fill={palette.ink}>
              {SAID[r.result]}
              {say(r.words) && (
                <tspan fill={palette.pencil} fontSize="13">
                  {" "}
                  · {say(r.words)}
                </tspan>
              )}
            </text>
          </g>
        );
      })}
      {figure.recommended !== null && figure.recommended !== undefined && (
        <g transform={`translate(0 ${above * ROW + gap / 2})`}>
          <path d="M150 0H262" stroke={palette.primary.main} strokeWidth="2" />
          <text x="268" y="5" fontSize="14" fontWeight="600" fill={palette.primary.main}>
            use up to {say(figure.recommended_words)}
          </text>
        </g>
      )}
    </svg>
  );
}
