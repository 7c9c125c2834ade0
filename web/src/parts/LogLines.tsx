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

type Item = Schemas["LogItem"];
type LogRecord = Schemas["LogRecord"];

/** The newest lines of a logbook, one line each. */
export function LogLines({ items }: { items: Item[] }) {
  const { say } = useSettings();
  const when = useWhen();
  return (
    <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
      {items.map(({ at, sitting, record }) => (
        <Box
          component="li"
          key={sitting?.id ?? record?.id}
          sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, py: 1 })}
        >
          <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "center" }}>
            {sitting && (
              <>
                <VerdictMark status={sitting.status} size={20} />
                <Link component={RouterLink} to={`/checks/${sitting.id}`} color="inherit">
                  {sitting.title}
                </Link>
                {sitting.rounds.length > 1 && <span>{sitting.rounds.length} rounds</span>}
              </>
            )}
            {record && (
              <Box
                component="span"
                sx={{ textDecoration: record.taken_back ? "line-through" : "none" }}
              >
                <b>{record.title}</b>
                {[record.text !== `${record.title}.` && record.text, say(record.lines[0])]
                  .filter(Boolean)
                  .map((text) => ` · ${text}`)}
              </Box>
            )}
            <Box component="span" sx={{ color: "text.secondary" }}>
              {when(at)}
            </Box>
          </Box>
          {record && <PhotoRow photos={record.photos} />}
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
