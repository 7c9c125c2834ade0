import { useTheme } from "@mui/material/styles";
import type { Schemas, Words } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";
import { LETTER, LETTERS, marks } from "./marks";

const WIDE = 440;
const HIGH = 230;
const EDGE = 34;

/** The unit of a figure as a sentence tells it: "in in" is none. */
function unit(words: Words): Words {
  const of = (text: string) => text.split(" ")[1] ?? "";
  return { metric: of(words.metric), inch: of(words.inch).replace(/^in$/, "inches") };
}

/** Errors along a rail or a travel against the straight line they should keep to. */
export function CurveFigure({ figure }: { figure: Schemas["CurveFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const all = figure.curves.flatMap((c) => c.points);
  const low = Math.min(...all.map((p) => p.at_mm));
  const high = Math.max(...all.map((p) => p.at_mm));
  const most = Math.max(...all.map((p) => Math.abs(p.off_mm)), figure.band_mm ?? 0, 1e-6);
  const oneSided = all.every((p) => p.off_mm >= 0);
  const zero = oneSided ? HIGH - 48 : HIGH / 2 - 6;
  const tall = (oneSided ? zero - 48 : zero - 44) / most;
  const x = (at: number) => EDGE + ((at - low) / (high - low || 1)) * (WIDE - 2 * EDGE);
  const y = (off: number) => zero - off * tall;
  const main = figure.curves.find((c) => !c.reference) ?? figure.curves[0];
  const value = (p: Schemas["CurvePoint"]) => say(p.words).split(" ")[0] ?? "";
  const labels = marks(
    main?.points.map((p) => ({
      x: x(p.at_mm),
      long: Math.max(say(p.label).length, value(p).length) * LETTER,
    })) ?? [],
    WIDE,
  );
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      role="img"
      aria-label={(main?.points ?? []).map((p) => `${say(p.label)}: ${say(p.words)}`).join("; ")}
      style={{ width: "100%", display: "block" }}
    >
      {figure.band_mm && (
        <rect
          x={EDGE}
          width={WIDE - 2 * EDGE}
          y={y(figure.band_mm)}
          height={oneSided ? zero - y(figure.band_mm) : y(-figure.band_mm) - y(figure.band_mm)}
          fill={palette.status.true}
          opacity="0.16"
        />
      )}
      <path
        d={`M${EDGE} ${zero}H${WIDE - EDGE}`}
        stroke={palette.pencil}
        strokeWidth="1.5"
        strokeDasharray="6 5"
      />
      {figure.curves.map((curve) => (
        <g key={curve.name}>
          <polyline
            points={curve.points.map((p) => `${x(p.at_mm)},${y(p.off_mm)}`).join(" ")}
            fill="none"
            stroke={curve.reference ? palette.pencil : palette.primary.main}
            strokeWidth={curve.reference ? 1.2 : 2.5}
            strokeDasharray={curve.reference ? "2 4" : undefined}
          />
          {!curve.reference &&
            curve.points.map((p) => (
              <g key={p.at_mm}>
                {figure.bolts && (
                  <rect
                    x={x(p.at_mm) - 3}
                    y={zero - 3}
                    width="6"
                    height="6"
                    fill={palette.background.paper}
                    stroke={palette.pencil}
                  />
                )}
                <circle cx={x(p.at_mm)} cy={y(p.off_mm)} r="4.5" fill={palette.primary.main} />
              </g>
            ))}
        </g>
      ))}
      {main?.points.map((p, i) =>
        labels[i] !== undefined ? (
          <g key={p.at_mm} fontSize={LETTERS} textAnchor="middle">
            <text
              x={x(p.at_mm)}
              y={y(p.off_mm) + (p.off_mm < 0 ? 20 : -10)}
              fontFamily={mono}
              fill={palette.ink}
            >
              {value(p)}
            </text>
            <text x={labels[i]} y={HIGH - 24} fill={palette.pencil}>
              {say(p.label)}
            </text>
          </g>
        ) : null,
      )}
      <text x={EDGE} y="16" fontSize="13" fill={palette.pencil}>
        ↑ {figure.up}
        {main?.points[0] ? `, in ${say(unit(main.points[0].words))}` : ""}
        {figure.band_words ? ` · band ${say(figure.band_words)} wide` : ""}
      </text>
      <text x={WIDE - EDGE} y={HIGH - 6} fontSize={LETTERS} textAnchor="end" fill={palette.pencil}>
        {say({ metric: "places in mm", inch: "places in inches" })}
      </text>
      {figure.curves.some((c) => c.reference) && (
        <text x={WIDE - EDGE} y="16" fontSize="13" textAnchor="end" fill={palette.pencil}>
          dotted: {figure.curves.find((c) => c.reference)?.name}
        </text>
      )}
    </svg>
  );
}
