import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useId } from "react";
import { Link as RouterLink } from "react-router";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { AnswerMark } from "./AnswerMark";

/** What a check comes to on the jobs that lean on it. */
export function OnJobs({ jobs, says }: { jobs: readonly Schemas["JobCost"][]; says: string }) {
  const { say } = useSettings();
  const id = useId();
  if (jobs.length === 0) return null;
  return (
    <Box component="section" aria-labelledby={id} sx={{ mt: 2 }}>
      <Typography id={id} variant="h3">
        {says}
      </Typography>
      {jobs.map((job) => (
        <Box key={job.id} sx={{ my: 0.75 }}>
          <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
            <Link component={RouterLink} to={`/jobs/${job.id}`} color="inherit">
              {job.name}
            </Link>
            <AnswerMark answer={job.answer} />
          </Box>
          <Box>{say(job.text)}</Box>
        </Box>
      ))}
    </Box>
  );
}
