import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";

type Guide = Schemas["Guide"];

/**
 * How a check is made, told for one machine: cautions first, then the steps of the way that it is
 * read by, the other ways and what stops it.
 */
export function GuideText({
  guide,
  cautions,
  way = "",
  ways = {},
}: {
  guide: Guide;
  cautions: string[];
  way?: string;
  /** What each way is called, where none has been chosen yet. */
  ways?: Record<string, string>;
}) {
  const { say } = useSettings();
  const steps = guide.by_way?.[way] ?? guide.steps;
  return (
    <>
      <Typography variant="h3">Before hands go in</Typography>
      <Lines lines={cautions} />
      <Typography variant="h3">Steps</Typography>
      <Lines lines={steps.map((s) => say(s))} ordered />
      {Object.entries(way ? {} : (guide.by_way ?? {})).map(([other, own]) => (
        <Box component="details" key={other}>
          <Box component="summary" sx={{ cursor: "pointer", minHeight: 32 }}>
            Steps, if it is read so: {lower(ways[other] ?? other)}
          </Box>
          <Lines lines={own.map((s) => say(s))} ordered />
        </Box>
      ))}
      <Box component="details">
        <Box component="summary" sx={{ cursor: "pointer", minHeight: 32 }}>
          Ways of reading, and their price
        </Box>
        {guide.schools.map((school) => (
          <Typography key={school.way.metric} sx={{ mb: 1 }}>
            <b>{say(school.way)}</b>: {say(school.gives)}; {say(school.costs)}.
          </Typography>
        ))}
      </Box>
      <Box component="details">
        <Box component="summary" sx={{ cursor: "pointer", minHeight: 32 }}>
          What this does not test, and when to stop
        </Box>
        <Lines lines={guide.not_tested.map((s) => say(s))} />
        <Typography>{say(guide.stop)}</Typography>
      </Box>
    </>
  );
}

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

export function Lines({ lines, ordered = false }: { lines: string[]; ordered?: boolean }) {
  return (
    <Box component={ordered ? "ol" : "ul"} sx={{ mt: 0.5, pl: 3 }}>
      {lines.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </Box>
  );
}
