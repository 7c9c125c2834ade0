import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useEffect, useState } from "react";
import { Link as RouterLink, useParams } from "react-router";
import type { CheckState, RoundState, Schemas } from "../../api/client";
import { type Kind, useCheck, useKinds, useMachine } from "../../api/queries";
import { useLetter } from "../../parts/Keys";
import { PlumbLine } from "../../parts/PlumbLine";
import { RoundsRibbon } from "../../parts/RoundsRibbon";
import { fieldsOf, isAsked, type Schema } from "../../parts/schema";
import { useAwake } from "../../parts/useAwake";
import { VerdictMark } from "../../parts/VerdictMark";
import { Failed, Loading } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { Pane } from "./Pane";
import { Read } from "./Read";
import { Settle } from "./Settle";
import { SetUp } from "./SetUp";
import { Strays } from "./Strays";

export default function Check() {
  const { checkId = "" } = useParams();
  const check = useCheck(checkId);
  const kinds = useKinds();
  useAwake();
  if (check.isPending || kinds.isPending) return <Loading />;
  if (check.isError) return <Failed problem={check.error} again={() => void check.refetch()} />;
  if (kinds.isError) return <Failed problem={kinds.error} again={() => void kinds.refetch()} />;
  const kind = kinds.data.find((k) => k.key === check.data.kind);
  const last = check.data.rounds.at(-1);
  if (!kind || !last)
    return <Failed problem={new Error("This kind of check is not known here.")} />;
  // nothing that was picked or ticked for one check is carried over to the next
  return <Rounds key={check.data.id} check={check.data} kind={kind} last={last} />;
}

export type PaneName = "setup" | "read" | "settle";

function natural(round: RoundState): PaneName {
  if (!round.setup) return "setup";
  return round.brief.complete || round.settled_at ? "settle" : "read";
}

function Rounds({ check, kind, last }: { check: CheckState; kind: Kind; last: RoundState }) {
  const [viewing, setViewing] = useState(last.number);
  const round = check.rounds.find((r) => r.number === viewing) ?? last;
  const [pane, setPane] = useState<PaneName>(natural(round));
  const [passes, setPasses] = useState<number | null>(null);
  const [arrived, setArrived] = useState(false);
  const { say } = useSettings();
  const machine = useMachine(check.machine_id);
  // a new round comes into view when it is opened; an older one only when asked for
  useEffect(() => {
    setViewing(last.number);
    setPasses(null);
    setArrived(false);
  }, [last.number]);
  const complete = round.brief.complete;
  const opens = natural(round);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the round itself gets further
  useEffect(() => setPane(opens), [round.id, opens, complete]);
  // the pane that opens is read from its top
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever another pane opens
  useEffect(() => {
    window.scrollTo(0, 0);
  }, [pane, round.id]);
  const order: PaneName[] = ["setup", "read", "settle"];
  useLetter("n", () => {
    const next = order[(order.indexOf(pane) + 1) % 3] ?? "read";
    setPane(next === "read" && !round.setup ? "setup" : next);
  });
  const verdict = round.brief.verdict;
  const readings = round.readings.filter((r) => r.live).length;
  const planned = round.turn.length;
  const alike = new Set(check.limits.map((l) => l.words.metric)).size === 1;
  const limit = round.brief.limit ?? (alike ? check.limits[0]?.words : undefined);
  return (
    <Box sx={{ display: "flex", flexDirection: { xs: "column", md: "row" }, gap: { md: 3 } }}>
      <Box sx={{ display: { xs: pane === "read" ? "none" : "block", md: "block" } }}>
        {machine.data && (
          <PlumbLine machineId={machine.data.id} stages={machine.data.stages} at={kind.stage} />
        )}
      </Box>
      <Box
        sx={{
          flex: 1,
          minWidth: 0,
          px: { xs: 1.5, md: 1 },
          pr: { md: 3 },
          py: { xs: 1, md: 2 },
          maxWidth: 1100,
        }}
      >
        <Box
          sx={{ display: "flex", flexWrap: "wrap", alignItems: "baseline", columnGap: 2, mb: 1 }}
        >
          <Typography
            variant="h1"
            sx={{
              flex: 1,
              minWidth: 240,
              display: { xs: pane === "read" ? "none" : "block", md: "block" },
            }}
          >
            {kind.question}
          </Typography>
          <Box sx={{ color: "text.secondary" }}>
            <Link component={RouterLink} to={`/machines/${check.machine_id}`} color="inherit">
              {check.machine_name}
            </Link>
            {" · "}
            {[kind.title.toLowerCase(), round.part, `round ${round.number}`]
              .filter(Boolean)
              .join(" · ")}
            {limit && ` · limit ${say(limit)}`}
            {limit && check.limits_for && !round.settled_at && ` for “${check.limits_for}”`}
          </Box>
        </Box>
        {round.settled_at && round.number !== last.number && (
          <Box sx={{ mb: 1 }}>
            Round {round.number} is settled and stays as it was judged.{" "}
            <Button size="small" onClick={() => setViewing(last.number)}>
              To round {last.number}
            </Button>
          </Box>
        )}
        <Strays check={check} last={last} />
        <Box sx={{ display: "flex", flexDirection: "column" }}>
          <Pane
            name="setup"
            title="Set up"
            last={pane === "read"}
            open={pane === "setup"}
            show={() => setPane("setup")}
            summary={
              round.setup
                ? [round.instrument_name, ...statedFigures(check.setup_schema, round).map(say)]
                    .slice(0, 2)
                    .join(" · ")
                    .replace(/^(.{64}).+/, "$1…")
                : "how you read it, and with what"
            }
          >
            <SetUp check={check} kind={kind} round={round} done={() => setPane("read")} />
          </Pane>
          <Pane
            name="read"
            title="Read"
            open={pane === "read"}
            show={() => round.setup && setPane("read")}
            summary={round.setup ? howMany(readings, planned) : "after the set-up"}
          >
            {round.setup && (
              <Read
                key={round.id}
                check={check}
                kind={kind}
                round={round}
                passes={passes ?? round.passes}
                done={() => {
                  setArrived(true);
                  setPane("settle");
                }}
              />
            )}
          </Pane>
          <Pane
            name="settle"
            title="Settle"
            open={pane === "settle"}
            show={() => setPane("settle")}
            summary={
              verdict ? <VerdictMark status={verdict} size={20} /> : "the finding, and what to do"
            }
          >
            <Settle
              key={round.id}
              check={check}
              round={round}
              title={kind.title}
              arrived={arrived}
              readMore={(wanted) => {
                setPasses(wanted);
                setPane("read");
              }}
            />
          </Pane>
        </Box>
        <Box sx={{ display: { xs: pane === "read" ? "none" : "block", md: "block" } }}>
          <RoundsRibbon rounds={check.rounds} viewing={round.number} view={setViewing} />
        </Box>
      </Box>
    </Box>
  );
}

/** The figures of a set-up that its form asks for as it is filled in, in the form's order. */
function statedFigures(schema: Schema, round: RoundState): Schemas["Words"][] {
  return fieldsOf(schema)
    .filter((f) => !f.advanced && isAsked(f, round.setup ?? {}))
    .flatMap((f) => round.setup_shown[f.name] ?? []);
}

/** How far the plan has come; more can be read than was planned. */
const howMany = (readings: number, planned: number): string =>
  readings > planned
    ? `${readings} readings, ${planned} planned`
    : `${readings} of ${planned} readings`;
