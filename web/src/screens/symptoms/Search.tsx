import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { Link as RouterLink, useParams, useSearchParams } from "react-router";
import type { Status } from "../../api/client";
import { useMachine } from "../../api/queries";
import { SymptomFigure } from "../../figures/SymptomFigure";
import { Lines } from "../../parts/GuideText";
import { OpenCheck } from "../../parts/OpenCheck";
import { Square } from "../../parts/VerdictMark";
import { Failed, Loading } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { Happened } from "../machine/Happened";
import { type Search as SearchState, useSearch } from "./queries";

/** What can be behind a symptom on a machine, and the one check to make next. */
export default function Search() {
  const { machineId = "", key = "" } = useParams();
  const [query, setQuery] = useSearchParams();
  const said = query.getAll("said");
  const search = useSearch(machineId, key, said);
  if (search.isPending) return <Loading />;
  if (search.isError) return <Failed problem={search.error} again={() => void search.refetch()} />;
  const answer = (sign: string, value: string | null) => {
    const rest = said.filter((s) => !s.startsWith(`${sign}:`));
    setQuery({ said: value === null ? rest : [...rest, `${sign}:${value}`] }, { replace: true });
  };
  return <Found state={search.data} answer={answer} />;
}

function Found({
  state,
  answer,
}: {
  state: SearchState;
  answer: (sign: string, value: string | null) => void;
}) {
  const { say } = useSettings();
  const { search } = state;
  const home = `/machines/${state.machine_id}`;
  return (
    <Box sx={{ maxWidth: 1060, mx: "auto", px: { xs: 2, md: 3 }, py: 3 }}>
      <Typography sx={{ mb: 0.5 }}>
        <Link component={RouterLink} to={home} color="text.secondary">
          {state.machine_name}
        </Link>
        {" · "}
        <Link component={RouterLink} to={`${home}/symptoms`} color="text.secondary">
          What brings you here?
        </Link>
      </Typography>
      <Typography variant="h1" sx={{ mb: 1 }}>
        {search.title}
      </Typography>
      <Box
        sx={{
          display: "grid",
          columnGap: 5,
          rowGap: 2,
          gridTemplateColumns: { md: "minmax(0, 1.5fr) minmax(0, 1fr)" },
        }}
      >
        <Box sx={{ minWidth: 0 }}>
          <Box sx={{ display: "flex", gap: 2, mb: 2 }}>
            <Box sx={{ flex: "none", width: { xs: 108, sm: 150 }, aspectRatio: "3 / 2" }}>
              <SymptomFigure figure={state.drawing} />
            </Box>
            <Typography>{search.sees}</Typography>
          </Box>
          <Typography
            role="status"
            aria-label="How the search stands"
            sx={{ fontSize: "1.15rem", mb: 2 }}
          >
            {say(search.sentence)}
          </Typography>
          {search.end === "leads" ? <Leads machineId={state.machine_id} /> : <Next state={state} />}
          {search.end === "asks" &&
            search.signs.map((sign) => (
              <Box key={sign.key} sx={{ mt: 3 }}>
                <Typography variant="h3" component="h2" id={`sign-${sign.key}`}>
                  {sign.asks}
                </Typography>
                <Typography sx={{ color: "text.secondary", mb: 1 }}>
                  A look costs nothing and can save a check.
                </Typography>
                <ToggleButtonGroup
                  exclusive
                  aria-labelledby={`sign-${sign.key}`}
                  value={sign.said}
                  onChange={(_, value: string | null) => answer(sign.key, value)}
                  sx={{ flexWrap: "wrap" }}
                >
                  {Object.entries(sign.answers).map(([value, text]) => (
                    <ToggleButton key={value} value={value} sx={{ px: 2 }}>
                      {text}
                    </ToggleButton>
                  ))}
                </ToggleButtonGroup>
              </Box>
            ))}
        </Box>
        <Box sx={{ minWidth: 0 }}>
          <Suspects state={state} />
          {search.look.length > 0 && (
            <Box component="section" sx={{ mt: 3 }}>
              <Typography variant="h3" component="h2">
                What no check tells
              </Typography>
              <Lines lines={search.look} />
            </Box>
          )}
        </Box>
      </Box>
    </Box>
  );
}

function Next({ state }: { state: SearchState }) {
  const { say } = useSettings();
  const { search } = state;
  const found = search.suspects.find((s) => s.state === "found");
  const next = search.next;
  const open = (kind: string) => (state.open_checks[kind] ? "Go on:" : "Begin:");
  const evening = state.can_write && (next || found) && (
    <Button
      component={RouterLink}
      to={`/machines/${state.machine_id}/evening?symptom=${search.symptom}`}
      variant="outlined"
    >
      Plan an evening for it
    </Button>
  );
  if (found)
    return (
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
        {state.can_write && (
          <OpenCheck
            main
            machineId={state.machine_id}
            kind={found.kind}
            subject={found.subject}
            text="Put it right"
          />
        )}
        {evening}
      </Box>
    );
  if (!next) return null;
  const rest = search.rest.slice(1);
  return (
    <Box component="section" aria-labelledby="next">
      <Typography id="next" variant="h2" sx={{ mb: 0.5 }}>
        Next: {next.title}
      </Typography>
      <Typography sx={{ mb: 1.5 }}>{say(next.reason)}</Typography>
      {state.can_write && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
          <OpenCheck
            main
            machineId={state.machine_id}
            kind={next.kind}
            subject={next.subject}
            detour={state.detours[next.kind]}
            text={`${open(next.kind)} ${next.title.charAt(0).toLowerCase()}${next.title.slice(1)} · ${next.minutes} min`}
          />
          {evening}
        </Box>
      )}
      {rest.length > 0 && (
        <Box component="details" sx={{ mt: 1.5 }}>
          <Box
            component="summary"
            sx={{ cursor: "pointer", minHeight: 40, alignContent: "center" }}
          >
            If it comes out true: {rest.length} more, {search.minutes} min in all at most
          </Box>
          <Box component="ol" sx={{ mt: 0, pl: 3 }}>
            {rest.map((ask) => (
              <li key={`${ask.kind}${ask.subject}`}>
                {ask.title}, {ask.minutes} min
              </li>
            ))}
          </Box>
        </Box>
      )}
    </Box>
  );
}

const SHOWN = 6;
type State = SearchState["search"]["suspects"][number]["state"];
const MARKS: Record<State, Status> = {
  found: "out",
  open: "unmeasured",
  too_close: "too_close",
  cleared: "true",
};
/** What is said of a cause instead of how likely it is. */
const STATES: Partial<Record<State, string>> = {
  found: "found",
  too_close: "too close to call",
  cleared: "cleared",
};

function Suspects({ state }: { state: SearchState }) {
  const { suspects } = state.search;
  if (suspects.length === 0) return null;
  const first = suspects.slice(0, SHOWN);
  const others = suspects.slice(SHOWN);
  return (
    <Box component="section" aria-labelledby="suspects">
      <Typography id="suspects" variant="h2" sx={{ mb: 0.5 }}>
        What can be behind it
      </Typography>
      <Listed suspects={first} />
      {others.length > 0 && (
        <Box component="details">
          <Box
            component="summary"
            sx={{ cursor: "pointer", minHeight: 40, alignContent: "center" }}
          >
            {others.length} more
          </Box>
          <Listed suspects={others} />
        </Box>
      )}
    </Box>
  );
}

function Listed({ suspects }: { suspects: SearchState["search"]["suspects"] }) {
  return (
    <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
      {suspects.map((s) => (
        <Box
          component="li"
          key={`${s.cause}${s.subject}`}
          sx={(t) => ({
            display: "flex",
            gap: 1,
            py: 1,
            borderTop: `1px solid ${t.palette.rule}`,
            color: s.state === "cleared" ? "text.secondary" : undefined,
          })}
        >
          <Box sx={{ pt: 0.25 }}>
            <Square status={MARKS[s.state]} size={20} />
          </Box>
          <Box sx={{ flex: 1, minWidth: 0 }}>
            <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
              <Box sx={{ flex: 1, fontWeight: s.state === "cleared" ? 400 : 600 }}>{s.title}</Box>
              <Box sx={{ whiteSpace: "nowrap" }}>{STATES[s.state] ?? s.odds}</Box>
            </Box>
            {s.state !== "cleared" && (
              <Box sx={{ color: "text.secondary", fontSize: ".9rem" }}>{s.does}</Box>
            )}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

/** Where there is nothing to look for: say what happened, and go down the course. */
function Leads({ machineId }: { machineId: string }) {
  const machine = useMachine(machineId);
  if (!machine.data?.can_write) return null;
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "flex-start" }}>
      <Happened machine={machine.data}>
        <Button component={RouterLink} to={`/machines/${machineId}/evening`} variant="contained">
          Plan an evening
        </Button>
      </Happened>
    </Box>
  );
}
