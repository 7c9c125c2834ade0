import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { ReactNode } from "react";
import type { Schemas, Words } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";

const REACH = 100;
const ROOM = 22;

type Place = [number, number];

/** Vectors end to end from where the spindle turns, and where the chain ends in its best seat. */
export function ChainFigure({ figure }: { figure: Schemas["ChainFigure"] }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const joints: Place[] = [[0, 0]];
  for (const link of figure.links) {
    const [x, y] = joints[joints.length - 1] as Place;
    joints.push([x + link.x_mm, y + link.y_mm]);
  }
  const end = joints[joints.length - 1] as Place;
  const turned = figure.turned;
  const aside: Place[] = turned ? [[turned.x_mm, turned.y_mm]] : [];
  const far = Math.max(figure.limit_mm, ...[...joints, ...aside].map(([x, y]) => Math.hypot(x, y)));
  const scale = REACH / far;
  const pens = [palette.ink, palette.primary.main, palette.status.too_close, palette.pencil];
  // the first mark is up, and the marks are counted clockwise
  const at = ([x, y]: Place): Place => [y * scale, -x * scale];
  const size = 2 * (REACH + ROOM);
  const bar = figure.scale_mm * scale;
  const told = [
    ...figure.links.map((l) => `${l.name} adds ${say(l.words)} TIR`),
    `together ${say(figure.whole)}`,
    ...(turned ? [`${turned.name}: ${say(turned.words)}`] : []),
  ];
  const ring = (place: Place, pen: string) => (
    <circle cx={at(place)[0]} cy={at(place)[1]} r={7} fill="none" stroke={pen} strokeWidth={1.5} />
  );
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 3, alignItems: "center" }}>
      <svg
        viewBox={`${-size / 2} ${-size / 2} ${size} ${size + 18}`}
        role="img"
        aria-label={told.join("; ")}
        style={{ width: 300, maxWidth: "100%", display: "block" }}
      >
        <circle
          r={figure.limit_mm * scale}
          fill="none"
          stroke={palette.pencil}
          strokeDasharray="5 4"
        />
        <path d="M-5 0H5M0 -5V5" stroke={palette.pencil} />
        {turned && (
          <path
            d={`M${at(joints[turned.after] as Place).join(" ")}L${at([turned.x_mm, turned.y_mm]).join(" ")}`}
            stroke={palette.status.true}
            strokeWidth={2.5}
            strokeDasharray="2 4"
          />
        )}
        {figure.links.map((link, i) => {
          const [[x1, y1], [x2, y2]] = [at(joints[i] as Place), at(joints[i + 1] as Place)];
          const pen = pens[i % pens.length];
          return (
            <g key={link.name} stroke={pen}>
              <path d={`M${x1} ${y1}L${x2} ${y2}`} strokeWidth={3} />
              <circle cx={x2} cy={y2} r={3} fill={pen} />
            </g>
          );
        })}
        {ring(end, palette.ink)}
        {turned && ring([turned.x_mm, turned.y_mm], palette.status.true)}
        <path
          d={`M${size / 2 - 4} ${size / 2 + 8}h${-bar}m0 -4v8m${bar} -8v8`}
          stroke={palette.text.secondary}
          fill="none"
        />
        <text
          x={size / 2 - bar - 10}
          y={size / 2 + 12}
          fontSize={12}
          textAnchor="end"
          fill={palette.text.secondary}
        >
          {say(figure.scale_words)} off the axis
        </text>
      </svg>
      <Box sx={{ flex: "1 1 220px", display: "grid", gap: 0.5 }}>
        {figure.links.map((link, i) => (
          <Row key={link.name} name={link.name} words={link.words}>
            <path d="M1 9h16" stroke={pens[i % pens.length]} strokeWidth={3} />
          </Row>
        ))}
        <Row name="Together" words={figure.whole}>
          <circle cx={9} cy={9} r={6} fill="none" stroke={palette.ink} strokeWidth={1.5} />
        </Row>
        {turned && (
          <Row name={turned.name} words={turned.words}>
            <circle
              cx={9}
              cy={9}
              r={6}
              fill="none"
              stroke={palette.status.true}
              strokeWidth={1.5}
            />
          </Row>
        )}
        <Row name="Dashed" words={figure.limit_words}>
          <path d="M1 9h16" stroke={palette.pencil} strokeDasharray="4 3" />
        </Row>
      </Box>
    </Box>
  );
}

function Row({ name, words, children }: { name: string; words: Words; children: ReactNode }) {
  const { say } = useSettings();
  return (
    <Box aria-hidden sx={{ display: "flex", gap: 1, alignItems: "baseline" }}>
      <svg width={18} height={18} style={{ flex: "none", alignSelf: "center" }} aria-hidden="true">
        {children}
      </svg>
      <Box sx={{ flex: 1 }}>{name}</Box>
      <Box sx={{ fontFamily: mono, textAlign: "right" }}>{say(words)}</Box>
    </Box>
  );
}
