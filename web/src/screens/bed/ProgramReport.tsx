import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { Schemas } from "../../api/client";
import { COORDINATE, lengthIn } from "../../lengths";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";
import type { ProgramState } from "./queries";

const TONES = { danger: "error", wrong: "look", ask: "info" } as const;
const SAID = { danger: "Would do harm", wrong: "Wrong", ask: "Look" } as const;

/** What was found, worst first, each with its line; then the program in figures. */
export function ProgramReport({
  program,
  report,
}: {
  program: ProgramState;
  report: Schemas["Report"];
}) {
  const { say } = useSettings();
  return (
    <Box>
      <Typography variant="h2" sx={{ my: 1 }}>
        {say(report.sentence)}
      </Typography>
      {program.picture?.line && (
        <Typography sx={{ mb: 1 }}>{say(program.picture.line.words)}</Typography>
      )}
      {program.picture?.ridge_words && (
        <Typography sx={{ mb: 1 }}>
          Between its passes {say(program.picture.ridge_words)} stays.
        </Typography>
      )}
      {(report.faults ?? []).map((f, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: faults of one line may read alike
        <Remark key={i} tone={TONES[f.tone]}>
          <Box sx={{ fontWeight: 700 }}>
            {f.line ? `Line ${f.line}` : "All of it"} · {SAID[f.tone]}
            {f.slashed && " · with the lines behind a slash left out"}
          </Box>
          {say(f.text)}
          {f.more > 0 && ` And ${f.more} more of this kind.`}
          {f.line > 0 && program.shown_lines[String(f.line)] !== undefined && (
            <Box
              component="code"
              sx={{ display: "block", fontFamily: mono, overflowWrap: "anywhere" }}
            >
              {program.shown_lines[String(f.line)]}
            </Box>
          )}
        </Remark>
      ))}
      <Figures report={report} />
    </Box>
  );
}

function Figures({ report }: { report: Schemas["Report"] }) {
  const { say, system } = useSettings();
  const one = (v: number) => lengthIn(v, system, COORDINATE);
  const span = (box: number[] | null | undefined) =>
    box
      ? ["X", "Y", "Z"]
          .map((axis, i) => `${axis} ${one(box[i] ?? 0)} to ${one(box[i + 3] ?? 0)}`)
          .join(", ")
      : "nothing";
  const feed = (v: number) => `${lengthIn(v, system, [0, 1])}/min`;
  const minutes = report.seconds / 60;
  const rows: [string, string][] = [
    ["Stated in", report.units],
    ["Cuts", span(report.cutting)],
    ["Rapids", span(report.rapids)],
    [
      "Deepest",
      report.deepest_mm === null || report.deepest_mm === undefined
        ? "nothing"
        : `${one(report.deepest_mm)}, line ${report.deepest_line}`,
    ],
    ["Levels", report.levels.map((l) => one(l.z_mm)).join(", ") || "none"],
    ["Feeds", report.feeds_mm_min.map(feed).join(", ") || "none"],
    ["Speeds", report.speeds_rev_min.map((v) => `${v.toFixed(0)} rev/min`).join(", ") || "none"],
    ["Tools", report.tools.filter((t) => t > 0).join(", ") || "none named"],
    ["Time", minutes < 1 ? `${report.seconds.toFixed(0)} s` : `${minutes.toFixed(0)} min`],
    ["Cut in material", one(report.cutting_mm)],
    ["Fed through air", one(report.air_mm)],
    ...(report.removed ? [["Takes off", say(report.removed)] as [string, string]] : []),
    ["Lines", report.lines.toLocaleString("en")],
  ];
  return (
    <Box
      component="dl"
      sx={{ display: "grid", gridTemplateColumns: "max-content 1fr", columnGap: 2, rowGap: 0.25 }}
    >
      {rows.map(([name, text]) => (
        <Box key={name} sx={{ display: "contents" }}>
          <Box component="dt" sx={{ color: "text.secondary" }}>
            {name}
          </Box>
          <Box component="dd" sx={{ m: 0, fontFamily: mono, overflowWrap: "anywhere" }}>
            {text}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
