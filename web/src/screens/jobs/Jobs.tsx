import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useRef } from "react";
import { Link as RouterLink, useNavigate, useParams } from "react-router";
import { v4 as uuid } from "uuid";
import { ApiProblem, api, type Schemas, told } from "../../api/client";
import { AnswerMark } from "../../parts/AnswerMark";
import type { JsonObject } from "../../parts/schema";
import { Failed, Faults, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { type Job, useJobChange, useJobs } from "./queries";

/** What is made here, and which machine is good enough for it. */
export default function Jobs() {
  const { workshopId = "" } = useParams();
  const jobs = useJobs(workshopId);
  if (jobs.isPending) return <Loading />;
  if (jobs.isError) return <Failed problem={jobs.error} again={() => void jobs.refetch()} />;
  const { can_write, archived, faults } = jobs.data;
  return (
    <Box sx={{ maxWidth: 1060, mx: "auto", px: { xs: 2, md: 3 }, py: 3 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mb: 1 }}>
        <Typography variant="h1" sx={{ flex: 1, minWidth: 220 }}>
          Good enough for what you make
        </Typography>
        {can_write && (
          <>
            <Button variant="outlined" component={RouterLink} to={`/w/${workshopId}/new-job`}>
              Describe a job
            </Button>
            <Import workshopId={workshopId} />
          </>
        )}
      </Box>
      <Typography sx={{ color: "text.secondary", maxWidth: 720, mb: 2 }}>
        A job says how far a part may be off. Every error of a machine is turned into what it does
        to that part.
      </Typography>
      <Faults faults={faults} />
      {jobs.data.jobs.length === 0 && (
        <Typography>
          Nothing yet. Describe a part that you make, and see which machine is good enough for it
          and what to mend first.
        </Typography>
      )}
      {jobs.data.jobs.map((job) => (
        <Line key={job.id} job={job} />
      ))}
      {archived.length > 0 && (
        <Box sx={{ mt: 4 }}>
          <Typography variant="h2">Put away</Typography>
          {archived.map((job) => (
            <Link
              key={job.id}
              component={RouterLink}
              to={`/jobs/${job.id}`}
              color="inherit"
              sx={{ mr: 2, display: "inline-flex", minHeight: 48, alignItems: "center" }}
            >
              {job.name}
            </Link>
          ))}
        </Box>
      )}
    </Box>
  );
}

function Line({ job }: { job: Schemas["JobLine"] }) {
  const { say } = useSettings();
  const best = job.at[0];
  const count = job.features === 1 ? "one feature" : `${job.features} features`;
  return (
    <Box
      component="section"
      aria-label={job.name}
      sx={(t) => ({ borderTop: `2px solid ${t.palette.ink}`, pt: 1, pb: 2.5 })}
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2, alignItems: "baseline" }}>
        <Typography variant="h2" sx={{ flex: 1, minWidth: 160 }}>
          <Link component={RouterLink} to={`/jobs/${job.id}`} color="inherit">
            {job.name}
          </Link>
        </Typography>
        <Box sx={{ color: "text.secondary" }}>
          {[job.material, count, job.made ? `made ${job.made}×` : ""].filter(Boolean).join(" · ")}
        </Box>
      </Box>
      {job.at.length === 0 && <Typography>No machine is described for it yet.</Typography>}
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 3, rowGap: 0.5, my: 0.5 }}>
        {job.at.map((on) => (
          <Link
            key={on.machine_id}
            component={RouterLink}
            to={`/jobs/${job.id}?machine=${on.machine_id}`}
            color="inherit"
            underline="hover"
            sx={{ display: "inline-flex", gap: 1, minHeight: 40, alignItems: "center" }}
          >
            <span>{on.machine}</span>
            <AnswerMark answer={on.answer} />
          </Link>
        ))}
      </Box>
      {best && (
        <Typography sx={{ maxWidth: 760 }}>
          {job.at.length > 1 && `${best.machine}: `}
          {say(best.sentence)}
        </Typography>
      )}
    </Box>
  );
}

/** A job from a file that was exported here or elsewhere. */
function Import({ workshopId }: { workshopId: string }) {
  const file = useRef<HTMLInputElement>(null);
  const go = useNavigate();
  const read = useJobChange<File, Job>(async (chosen) => {
    let spec: JsonObject;
    try {
      spec = JSON.parse(await chosen.text());
    } catch {
      throw new ApiProblem(
        422,
        "",
        `“${chosen.name}” is no JSON file. Choose one that was exported.`,
      );
    }
    return told(
      api.POST("/api/v1/workshops/{workshop_id}/jobs", {
        params: { path: { workshop_id: workshopId } },
        body: { id: uuid(), spec },
      }),
    );
  });
  const first = read.error?.errors[0];
  return (
    <>
      <input
        ref={file}
        type="file"
        accept=".json,application/json"
        hidden
        aria-label="A job’s file"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) read.mutate(chosen, { onSuccess: (job) => go(`/jobs/${job.id}`) });
          e.target.value = "";
        }}
      />
      <Button disabled={read.isPending} onClick={() => file.current?.click()}>
        Read one in
      </Button>
      {read.error && (
        <Box sx={{ width: "100%" }}>
          <Remark tone="error" role="alert">
            {first ? `${first.field.replace("spec.", "")}: ${first.message}` : read.error.message}
          </Remark>
        </Box>
      )}
    </>
  );
}
