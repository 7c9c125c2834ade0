import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";

const WIDE = 480;
const ROW = 44;
const LABEL = 150;
/** Size of the figures beside the bars, and how wide each of their signs is. */
const SAID = 14;
const SIGN = 0.6 * SAID;
const LIMIT = 13;

/** A whole, what each remedy took off it, and what the rest is made of; read from top to bottom. */
export function WaterfallFigure({ figure }: { figure: Schemas["WaterfallFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const most = Math.max(
    ...figure.bars.flatMap((b) => [b.from_mm, b.to_mm]),
    figure.limit_mm ?? 0,
    1e-6,
  );
  const least = Math.min(0, ...figure.bars.flatMap((b) => [b.from_mm, b.to_mm]));
  const longest = Math.max(...figure.bars.map((b) => say(b.words).length));
  const limit = figure.limit_words ? `limit ${say(figure.limit_words)}` : "";
  // a figure stands behind its bar, a limit in the middle under its line
  const end = Math.max(10 + longest * SIGN, 0.3 * LIMIT * limit.length);
  const x = (mm: number) => LABEL + ((mm - least) / (most - least)) * (WIDE - LABEL - end);
  const high = figure.bars.length * ROW + 30;
  const fill = {
    whole: palette.primary.main,
    share: palette.pencil,
    deduced: "none",
    gain: palette.status.true,
    loss: palette.status.out,
  };
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${high}`}
      role="img"
      aria-label={figure.bars.map((b) => `${say(b.label)}: ${say(b.words)}`).join("; ")}
      style={{ width: "100%", display: "block" }}
    >
      {figure.limit_mm !== null && figure.limit_mm !== undefined && (
        <g>
          <path
            d={`M${x(figure.limit_mm)} 0V${high - 20}`}
            stroke={palette.status.true}
            strokeWidth="2"
            strokeDasharray="6 5"
          />
          <text
            x={x(figure.limit_mm)}
            y={high - 5}
            fontSize={LIMIT}
            textAnchor="middle"
            fill={palette.pencil}
          >
            {limit}
          </text>
        </g>
      )}
      {figure.bars.map((bar, i) => {
        const [left, right] = [Math.min(bar.from_mm, bar.to_mm), Math.max(bar.from_mm, bar.to_mm)];
        const y = i * ROW + 6;
        const full = say(bar.label);
        const label = full.length > 64 ? `${full.slice(0, 61)}…` : full;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: bars keep their order
          <g key={i}>
            <foreignObject x="0" y={y - 4} width={LABEL - 10} height={ROW}>
              <div
                style={{
                  fontSize: 13,
                  lineHeight: 1.2,
                  height: ROW - 4,
                  display: "flex",
                  alignItems: "center",
                  justifyContent: "flex-end",
                  textAlign: "right",
                  color: palette.ink,
                  fontWeight: bar.sort === "whole" ? 600 : 400,
                }}
              >
                {label}
              </div>
            </foreignObject>
            <rect
              x={x(left)}
              y={y}
              width={Math.max(2, x(right) - x(left))}
              height={ROW - 16}
              fill={fill[bar.sort]}
              fillOpacity={bar.sort === "share" ? 0.55 : 0.9}
              stroke={bar.sort === "deduced" ? palette.pencil : "none"}
              strokeWidth="1.5"
              strokeDasharray="5 4"
            />
            <text
              x={x(right) + 8}
              y={y + (ROW - 16) / 2 + 5}
              fontSize={SAID}
              fontFamily={mono}
              fill={palette.ink}
              stroke={palette.background.default}
              strokeWidth="4"
              paintOrder="stroke"
            >
              {say(bar.words)}
            </text>
            {i + 1 < figure.bars.length && (
              <path
                d={`M${x(bar.to_mm)} ${y + ROW - 16}v16`}
                stroke={palette.pencil}
                strokeWidth="1"
                strokeDasharray="2 3"
              />
            )}
          </g>
        );
      })}
      <path d={`M${x(0)} 0V${high - 20}`} stroke={palette.ink} strokeWidth="1.5" />
    </svg>
  );
}
