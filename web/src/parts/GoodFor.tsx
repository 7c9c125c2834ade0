import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import { Link as RouterLink } from "react-router";
import type { Schemas } from "../api/client";

type Here = Schemas["JobHere"];

const SAYS: [string, readonly Here["answer"][]][] = [
  ["Good for", ["fits"]],
  ["Not yet for", ["no", "close"]],
  ["Not known for", ["unknown"]],
];

/** For which jobs a machine is good enough, and for which it is not, or not yet. */
export function GoodFor({ machineId, jobs }: { machineId: string; jobs: readonly Here[] }) {
  const said = SAYS.map(([says, answers]) => ({
    says,
    here: jobs.filter((j) => answers.includes(j.answer)),
  })).filter((line) => line.here.length > 0);
  if (said.length === 0) return null;
  return (
    <Box sx={{ my: 1 }}>
      {said.map(({ says, here }) => (
        <Box key={says}>
          {says}:{" "}
          {here.map((job, i) => (
            <span key={job.id}>
              {i > 0 && ", "}
              <Link
                component={RouterLink}
                to={`/jobs/${job.id}?machine=${machineId}`}
                color="inherit"
                sx={{ display: "inline-block", py: 0.75 }}
              >
                {job.name}
              </Link>
            </span>
          ))}
        </Box>
      ))}
    </Box>
  );
}
