import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";

type Row = Schemas["BesideRow"];

/** What was foretold beside what came out, row by row: two bars on one scale. */
export function BesideFigure({ figure }: { figure: Schemas["BesideFigure"] }) {
  return (
    <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0 }}>
      {figure.rows.map((row) => (
        <OneRow key={row.name} row={row} />
      ))}
    </Box>
  );
}

function OneRow({ row }: { row: Row }) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const signed = [...row.foretold, ...row.found].some((v) => v < 0);
  const at = (share: number) => (signed ? 50 + 50 * share : 100 * share);
  const bar = (limits: number[], y: number, fill: string) => {
    const [low = 0, high = 0] = limits;
    const from = Math.min(at(low), 98.5);
    return (
      <rect x={from} y={y} width={Math.max(1.5, at(high) - from)} height={3} rx={0.5} fill={fill} />
    );
  };
  const said = row.agrees ? "as foretold" : "not as foretold";
  return (
    <Box component="li" sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, py: 0.75 })}>
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2 }}>
        <Box component="b" sx={{ flex: 1, minWidth: 160 }}>
          {row.name}
        </Box>
        <Box sx={{ color: row.agrees ? palette.status.true : palette.status.out }}>{said}</Box>
      </Box>
      <svg
        viewBox="0 0 100 9"
        preserveAspectRatio="none"
        role="img"
        aria-label={`${row.name}: foretold ${say(row.foretold_words)}, found ${say(row.found_words)}, ${said}`}
        style={{ width: "100%", height: 18, display: "block" }}
      >
        <path d={`M${at(0)} 0V9`} stroke={palette.pencil} strokeWidth={0.2} />
        {bar(row.foretold, 1, palette.pencil)}
        {bar(row.found, 5, row.agrees ? palette.status.true : palette.status.out)}
      </svg>
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 3, fontSize: ".9rem" }}>
        <span>the piece: {say(row.found_words)}</span>
        <Box component="span" sx={{ color: "text.secondary" }}>
          {row.by} foretold: {say(row.foretold_words)}
        </Box>
      </Box>
    </Box>
  );
}
