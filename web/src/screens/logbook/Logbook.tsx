import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useInfiniteQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import { Link as RouterLink, useParams, useSearchParams } from "react-router";
import { api, type Schemas, told } from "../../api/client";
import { useWorkshop } from "../../api/queries";
import { RecordArticle } from "../../parts/LogLines";
import { PhotoRow } from "../../parts/Photos";
import { TakeBack } from "../../parts/TakeBack";
import { useWhen } from "../../parts/useWhen";
import { STATUS_WORDS, VerdictMark } from "../../parts/VerdictMark";
import { Failed, Faults, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";

type Entry = Schemas["LogEntry"];
type Round = Schemas["LogRound"];
type Value = Schemas["LogValue"];

export default function Logbook() {
  const { workshopId = "" } = useParams();
  const [search] = useSearchParams();
  const machine = search.get("machine") ?? undefined;
  const workshop = useWorkshop(workshopId);
  const log = useInfiniteQuery({
    queryKey: ["logbook", workshopId, machine],
    queryFn: ({ pageParam }) =>
      told(
        api.GET("/api/v1/workshops/{workshop_id}/logbook", {
          params: { path: { workshop_id: workshopId }, query: { machine, after: pageParam } },
        }),
      ),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (page) => page.next ?? undefined,
  });
  if (log.isPending) return <Loading />;
  if (log.isError) return <Failed problem={log.error} again={() => void log.refetch()} />;
  const entries = log.data.pages.flatMap((page) => page.entries);
  const whose = entries[0]?.sitting?.machine_name ?? entries[0]?.record?.machine_name;
  const write = workshop.data !== undefined && workshop.data.role !== "viewer";
  return (
    <Box sx={{ maxWidth: 980, mx: "auto", px: 2, py: 3 }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        Logbook{machine && whose ? ` of ${whose}` : ""}
      </Typography>
      {machine && (
        <Link component={RouterLink} to={`/w/${workshopId}/logbook`}>
          All machines
        </Link>
      )}
      <Faults faults={log.data.pages.flatMap((page) => page.faults)} />
      {entries.length === 0 && <Typography>Nothing is logged yet.</Typography>}
      {entries.map(({ sitting, record }) => (
        <Fragment key={sitting?.id ?? record?.id}>
          {sitting && <Sitting entry={sitting} write={write} />}
          {record && <RecordArticle record={record} write={write} />}
        </Fragment>
      ))}
      {log.hasNextPage && (
        <Button
          variant="outlined"
          onClick={() => void log.fetchNextPage()}
          disabled={log.isFetching}
        >
          Earlier
        </Button>
      )}
    </Box>
  );
}

function Sitting({ entry, write }: { entry: Entry; write: boolean }) {
  const when = useWhen();
  return (
    <Box
      component="article"
      sx={(t) => ({ borderTop: `2px solid ${t.palette.ink}`, py: 1.5, mt: 2 })}
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2, alignItems: "baseline", mb: 1 }}>
        <Typography variant="h2">
          <Link component={RouterLink} to={`/checks/${entry.id}`} color="inherit">
            {entry.machine_name}: {entry.title.toLowerCase()}
          </Link>
        </Typography>
        <Box sx={{ color: "text.secondary", flex: 1 }}>
          {when(entry.opened_at)}
          {!entry.closed_at && " · under way"}
        </Box>
        <VerdictMark status={entry.status} />
      </Box>
      <BeforeAfter entry={entry} />
      <Box component="ol" sx={{ listStyle: "none", p: 0, m: 0, mt: 1 }}>
        {entry.rounds.map((round) => (
          <RoundLine key={round.id} round={round} write={write} />
        ))}
      </Box>
    </Box>
  );
}

function RoundLine({ round, write }: { round: Round; write: boolean }) {
  const { say } = useSettings();
  const { move } = round;
  const struck = (taken: boolean) => ({ textDecoration: taken ? "line-through" : "none" });
  return (
    <Box component="li" sx={{ mb: 0.5 }}>
      <b>Round {round.number}</b> ({STATUS_WORDS[round.status].toLowerCase()})
      {move && (
        <>
          {" "}
          · then: <span style={struck(move.taken_back)}>{say(move.said)}</span>
        </>
      )}{" "}
      · {round.by}
      {move && write && (
        <TakeBack type="moves" id={move.id} taken={move.taken_back} what={say(move.said)} />
      )}
      {round.notes.map((note) => (
        <Remark key={note.id}>
          <span style={struck(note.taken_back)}>{note.text}</span>{" "}
          <Box component="span" sx={{ color: "text.secondary" }}>
            {note.by}
          </Box>
          {write && <TakeBack type="notes" id={note.id} taken={note.taken_back} what="the note" />}
        </Remark>
      ))}
      <PhotoRow photos={round.photos} write={write} />
    </Box>
  );
}

function BeforeAfter({ entry }: { entry: Entry }) {
  const { say } = useSettings();
  const after = new Map(entry.after.map((value) => [value.label.metric, value]));
  if (entry.before.length === 0) return <Typography>No finding yet.</Typography>;
  const cell = { textAlign: "left", py: 0.25, pr: 3, fontWeight: 400 } as const;
  const figure = (value: Value | undefined) =>
    value ? `${say(value.words)} · ${STATUS_WORDS[value.status].toLowerCase()}` : "";
  return (
    <Box sx={{ overflowX: "auto" }} tabIndex={0} role="group" aria-label="Before and after">
      <Box component="table" sx={{ borderCollapse: "collapse" }}>
        <thead>
          <tr>
            <Box component="td" sx={cell} />
            <Box component="th" scope="col" sx={{ ...cell, color: "text.secondary" }}>
              {after.size ? "before" : "measured"}
            </Box>
            {after.size > 0 && (
              <Box component="th" scope="col" sx={{ ...cell, color: "text.secondary" }}>
                after
              </Box>
            )}
          </tr>
        </thead>
        <tbody>
          {entry.before.map((value) => (
            <tr key={value.label.metric}>
              <Box component="th" scope="row" sx={cell}>
                {say(value.label)}
              </Box>
              <Box component="td" sx={{ ...cell, fontFamily: mono }}>
                {figure(value)}
              </Box>
              {after.size > 0 && (
                <Box component="td" sx={{ ...cell, fontFamily: mono }}>
                  {figure(after.get(value.label.metric))}
                </Box>
              )}
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}
