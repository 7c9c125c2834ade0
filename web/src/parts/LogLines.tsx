import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { Link as RouterLink } from "react-router";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { PhotoRow } from "./Photos";
import { TakeBack } from "./TakeBack";
import { useWhen } from "./useWhen";
import { VerdictMark } from "./VerdictMark";

type Line = Schemas["LogLine"];
type LogRecord = Schemas["LogRecord"];

/** The newest lines of a logbook, one line each. */
export function LogLines({ lines }: { lines: Line[] }) {
  const { say } = useSettings();
  const when = useWhen();
  return (
    <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
      {lines.map((line) => (
        <Box
          component="li"
          key={line.id}
          sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, py: 1 })}
        >
          <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "center" }}>
            {line.status && (
              <>
                <VerdictMark status={line.status} size={20} />
                <Link component={RouterLink} to={`/checks/${line.id}`} color="inherit">
                  {line.title}
                </Link>
                {line.rounds > 1 && <span>{line.rounds} rounds</span>}
              </>
            )}
            {!line.status && (
              <Box
                component="span"
                sx={{ textDecoration: line.taken_back ? "line-through" : "none" }}
              >
                <b>{line.title}</b>
                {say(line.text) && ` · ${say(line.text)}`}
              </Box>
            )}
            <Box component="span" sx={{ color: "text.secondary" }}>
              {when(line.at)}
            </Box>
          </Box>
          <PhotoRow photos={line.photos} />
        </Box>
      ))}
    </Box>
  );
}

/** An event, decision, acceptance or photo in the logbook, whole. */
export function RecordArticle({ record, write }: { record: LogRecord; write: boolean }) {
  const { say } = useSettings();
  const when = useWhen();
  return (
    <Box
      component="article"
      sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, py: 1.5, mt: 2 })}
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2, alignItems: "baseline" }}>
        <Typography
          variant="h3"
          component="h2"
          sx={{ textDecoration: record.taken_back ? "line-through" : "none" }}
        >
          {record.machine_name}: {record.title.toLowerCase()}
        </Typography>
        <Box sx={{ color: "text.secondary", flex: 1 }}>
          {when(record.at)}, {record.by}
          {record.taken_back && " · taken back"}
        </Box>
        {write && (
          <TakeBack
            type={record.type}
            id={record.id}
            taken={record.taken_back}
            what={record.title}
          />
        )}
      </Box>
      {record.text && <Typography>{record.text}</Typography>}
      {record.lines.map((line) => (
        <Typography key={line.metric} sx={{ color: "text.secondary" }}>
          {say(line)}
        </Typography>
      ))}
      <PhotoRow photos={record.photos} />
    </Box>
  );
}
