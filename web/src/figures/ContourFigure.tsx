import Box from "@mui/material/Box";
import Slider from "@mui/material/Slider";
import { alpha, useTheme } from "@mui/material/styles";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { lengthIn } from "../lengths";
import { useSettings } from "../settings";
import { mono } from "../theme";

const WIDE = 480;
const SECTION = 70;

/** Heights in bands seen from above, the darker the higher, and a section along any row of them. */
export function ContourFigure({ figure }: { figure: Schemas["ContourFigure"] }) {
  const { palette } = useTheme();
  const { say, system } = useSettings();
  const { x_mm: xs, y_mm: ys, up_mm: up, step_mm: step } = figure;
  const [row, setRow] = useState(Math.floor(ys.length / 2));
  const dx = (xs[1] ?? 1) - (xs[0] ?? 0);
  const dy = (ys[1] ?? 1) - (ys[0] ?? 0);
  const left = (xs[0] ?? 0) - dx / 2;
  const rear = (ys[ys.length - 1] ?? 0) + dy / 2;
  const scale = WIDE / (dx * xs.length);
  const high = dy * ys.length * scale;
  const most = Math.max(step, ...up.flat().map((v) => v ?? 0));
  const bands = Math.ceil(most / step - 1e-9);
  const shade = (v: number) =>
    alpha(palette.primary.main, 0.06 + (0.8 * Math.min(bands - 1, Math.floor(v / step))) / bands);
  const px = (x: number) => (x - left) * scale;
  const py = (y: number) => (rear - y) * scale;
  const cut = (up[row] ?? []).map((v, i) => ({ x: px(xs[i] ?? 0), v }));
  const sectionY = (v: number) => SECTION - 6 - (v / most) * (SECTION - 14);
  const there = cut.filter((c) => c.v !== null && c.v !== undefined);
  return (
    <Box>
      <svg
        viewBox={`0 0 ${WIDE} ${high}`}
        role="img"
        aria-label={`From lowest to highest ${say(figure.most_words)}, in bands of ${say(figure.step_words)}`}
        style={{ width: "100%", display: "block", border: `1px solid ${palette.rule}` }}
      >
        {up.map((cells, j) =>
          cells.map((v, i) =>
            v === null || v === undefined ? null : (
              <rect
                // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its place
                key={`${i} ${j}`}
                x={i * dx * scale}
                y={py((ys[j] ?? 0) + dy / 2)}
                width={dx * scale}
                height={dy * scale}
                shapeRendering="crispEdges"
                fill={shade(v)}
              />
            ),
          ),
        )}
        {figure.points.map((p) => (
          <g key={p.label.metric}>
            <circle cx={px(p.x_mm)} cy={py(p.y_mm)} r={3} fill={palette.ink}>
              <title>{`${say(p.label)}: ${say(p.words)}`}</title>
            </circle>
          </g>
        ))}
        <path
          d={`M0 ${py(ys[row] ?? 0)}H${WIDE}`}
          stroke={palette.status.out}
          strokeWidth={1.5}
          strokeDasharray="7 5"
        />
      </svg>
      <Box
        aria-hidden
        sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", columnGap: 0.5, mt: 0.5 }}
      >
        <Box sx={{ color: "text.secondary" }}>low</Box>
        {Array.from({ length: bands }, (_, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a band is its number
          <Box key={i} sx={{ width: 18, height: 14, bgcolor: shade((i + 0.5) * step) }} />
        ))}
        <Box sx={{ color: "text.secondary" }}>high, a band is</Box>
        <Box sx={{ fontFamily: mono }}>{say(figure.step_words)}</Box>
      </Box>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", mt: 1 }}>
        <Box sx={{ color: "text.secondary", whiteSpace: "nowrap" }}>Section, front to rear</Box>
        <Slider
          aria-label="Where the section is cut, from the front"
          min={0}
          max={ys.length - 1}
          value={row}
          onChange={(_, to) => setRow(to as number)}
          valueLabelDisplay="auto"
          valueLabelFormat={(at) => lengthIn(ys[at] ?? 0, system)}
        />
      </Box>
      <svg
        viewBox={`0 0 ${WIDE} ${SECTION}`}
        role="img"
        aria-label={`The section at ${lengthIn(ys[row] ?? 0, system)}`}
        style={{ width: "100%", display: "block" }}
      >
        <path d={`M0 ${SECTION - 6}H${WIDE}`} stroke={palette.pencil} />
        {figure.limit_mm < most && (
          <path
            d={`M0 ${sectionY(figure.limit_mm)}H${WIDE}`}
            stroke={palette.status.true}
            strokeDasharray="6 5"
          />
        )}
        {there.length > 1 && (
          <path
            d={`M${there.map((c) => `${c.x} ${sectionY(c.v ?? 0)}`).join("L")}`}
            stroke={palette.ink}
            strokeWidth={2}
            fill="none"
          />
        )}
      </svg>
    </Box>
  );
}
