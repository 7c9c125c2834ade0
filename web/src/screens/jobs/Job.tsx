import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { Link as RouterLink, useNavigate, useParams, useSearchParams } from "react-router";
import { v4 as uuid } from "uuid";
import { api, type Schemas, told } from "../../api/client";
import { ANSWER_STATUS, AnswerMark } from "../../parts/AnswerMark";
import { OpenCheck } from "../../parts/OpenCheck";
import { Square } from "../../parts/VerdictMark";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { Bar, BarKey } from "./Bar";
import { LimitsPane } from "./LimitsPane";
import { Makings } from "./Makings";
import { type Fit, type Job as JobState, useJob, useJobChange } from "./queries";

/** One job: whether a machine is good enough for it, what it costs, and what to do first. */
export default function Job() {
  const { jobId = "" } = useParams();
  const [search, setSearch] = useSearchParams();
  const job = useJob(jobId, search.get("machine"));
  if (job.isPending) return <Loading />;
  if (job.isError) return <Failed problem={job.error} again={() => void job.refetch()} />;
  return <One job={job.data} look={(machine) => setSearch({ machine }, { replace: true })} />;
}

function One({ job, look }: { job: JobState; look: (machine: string) => void }) {
  const { say } = useSettings();
  const fit = job.fit;
  const on = job.at.find((a) => a.machine_id === fit?.machine_id);
  return (
    <Box sx={{ maxWidth: 1060, mx: "auto", px: { xs: 2, md: 3 }, py: 3 }}>
      <Typography sx={{ mb: 0.5 }}>
        <Link component={RouterLink} to={`/w/${job.workshop_id}/jobs`} color="text.secondary">
          Jobs
        </Link>
      </Typography>
      <Typography variant="h1">{job.name}</Typography>
      {job.archived && <Remark tone="look">Put away: it stands in no other list.</Remark>}
      {job.at.length > 1 && (
        <ToggleButtonGroup
          exclusive
          aria-label="Machine"
          value={fit?.machine_id ?? null}
          onChange={(_, id) => id && look(id)}
          sx={{ mt: 1.5, flexWrap: "wrap" }}
        >
          {job.at.map((a) => (
            <ToggleButton key={a.machine_id} value={a.machine_id} sx={{ gap: 1, px: 2 }}>
              <Square status={ANSWER_STATUS[a.answer]} size={18} />
              {a.machine}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      )}
      {!fit && (
        <Typography sx={{ mt: 2 }}>Describe a machine first; then it can be told.</Typography>
      )}
      {fit && (
        <>
          <Box role="status" aria-label="How it stands" sx={{ my: 2, maxWidth: 760 }}>
            <Box sx={{ fontSize: "1.15rem", display: "flex", gap: 1, alignItems: "center" }}>
              <AnswerMark answer={fit.answer} />
              {job.at.length === 1 && <span>on {on?.machine}</span>}
            </Box>
            <Typography sx={{ mt: 0.5 }}>{say(fit.sentence)}</Typography>
          </Box>
          <First job={job} fit={fit} />
          <Button
            component={RouterLink}
            to={`/machines/${fit.machine_id}/symptoms`}
            sx={{ ml: -1, mb: 2 }}
          >
            It came out otherwise? Say what you see
          </Button>
          <Features fit={fit} />
          <LimitsPane key={fit.machine_id} job={job} machineId={fit.machine_id} />
        </>
      )}
      <Makings job={job} machineId={fit?.machine_id} />
      <Paper job={job} />
    </Box>
  );
}

function First({ job, fit }: { job: JobState; fit: Fit }) {
  const { say } = useSettings();
  const { remedies, still, minutes } = fit.first;
  if (fit.answer === "fits" || fit.answer === "outside") return null;
  return (
    <Box component="section" aria-labelledby="first" sx={{ mb: 3 }}>
      <Typography id="first" variant="h2" sx={{ mb: 0.5 }}>
        {remedies.length ? `Do first · about ${minutes} min in all` : "Nothing to be done about it"}
      </Typography>
      <Box component="ol" sx={{ pl: 2.5, my: 0 }}>
        {remedies.map((r, i) => (
          <Box component="li" key={`${r.kind}${r.about}`} sx={{ my: 1 }}>
            <b>{r.title}</b>, {r.minutes} min. {say(r.text)}
            {r.again.length > 0 && ` Then read again: ${r.again.join(", ").toLowerCase()}.`}
            {i === 0 && job.can_write && (
              <Box sx={{ mt: 1, display: "flex", flexWrap: "wrap", gap: 1 }}>
                <OpenCheck
                  main
                  machineId={fit.machine_id}
                  kind={r.kind}
                  text={`Begin: ${r.title.toLowerCase()}`}
                />
                <Button
                  component={RouterLink}
                  to={`/machines/${fit.machine_id}/evening?job=${job.id}`}
                >
                  Plan an evening for it
                </Button>
              </Box>
            )}
          </Box>
        ))}
      </Box>
      {still.length > 0 && (
        <Box sx={{ mt: 1 }}>
          <Typography variant="h3">What still limits it</Typography>
          {still.map((text) => (
            <Typography key={text.metric}>{say(text)}</Typography>
          ))}
        </Box>
      )}
    </Box>
  );
}

function Features({ fit }: { fit: Fit }) {
  return (
    <Box component="section" aria-labelledby="features" sx={{ mb: 3 }}>
      <Typography id="features" variant="h2">
        What each feature comes to
      </Typography>
      <BarKey />
      {fit.features.map((f, i) => (
        <Feature key={`${f.name}${i.toString()}`} feature={f} />
      ))}
    </Box>
  );
}

export function Feature({ feature }: { feature: Schemas["ToldFeature"] }) {
  return (
    <Box
      component="section"
      aria-label={feature.name}
      sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, pt: 1, mt: 1.5 })}
    >
      <Typography sx={{ fontWeight: 600, fontSize: "1.05rem" }}>{feature.name}</Typography>
      {feature.outside.map((why) => (
        <Remark key={why} tone="look">
          Cannot be made here: {why}.
        </Remark>
      ))}
      {feature.demands.map((d) => (
        <Bar key={d.key} demand={d} feature={feature.name} />
      ))}
    </Box>
  );
}

/** What is done with the description itself. */
function Paper({ job }: { job: JobState }) {
  const go = useNavigate();
  const path = { job_id: job.id };
  const copy = useJobChange<void, JobState>(() =>
    told(api.POST("/api/v1/jobs/{job_id}/copy", { params: { path }, body: { id: uuid() } })),
  );
  const away = useJobChange<boolean, JobState>((archived) =>
    told(api.POST("/api/v1/jobs/{job_id}/archive", { params: { path }, body: { archived } })),
  );
  const problem = copy.error ?? away.error;
  return (
    <Box sx={{ mt: 4 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
        {job.can_write && (
          <>
            <Button variant="outlined" component={RouterLink} to={`/jobs/${job.id}/edit`}>
              Change it
            </Button>
            <Button
              onClick={() => copy.mutate(undefined, { onSuccess: (c) => go(`/jobs/${c.id}/edit`) })}
            >
              Copy it
            </Button>
          </>
        )}
        <Button component="a" href={`/api/v1/jobs/${job.id}/export`} download={`${job.name}.json`}>
          As a file
        </Button>
        {job.can_write && (
          <Button disabled={away.isPending} onClick={() => away.mutate(!job.archived)}>
            {job.archived ? "Take it out again" : "Put it away"}
          </Button>
        )}
      </Box>
      {problem && (
        <Remark tone="error" role="alert">
          {problem.message}
        </Remark>
      )}
    </Box>
  );
}
