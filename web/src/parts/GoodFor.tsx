import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import { Link as RouterLink } from "react-router";
import type { Schemas } from "../api/client";

type Here = Schemas["JobHere"];

/** How jobs are told by their answers. */
export const ANSWERED: [string, readonly Here["answer"][]][] = [
  ["good for", ["fits"]],
  ["not yet for", ["no", "close"]],
  ["not known for", ["unknown"]],
];

/** For which jobs a machine is good enough, and for which it is not, or not yet. */
export function GoodFor({ machineId, jobs }: { machineId: string; jobs: readonly Here[] }) {
  const said = ANSWERED.map(([says, answers]) => ({
    says,
    here: jobs.filter((j) => answers.includes(j.answer)),
  })).filter((line) => line.here.length > 0);
  if (said.length === 0) return null;
  return (
    <Box sx={{ my: 1 }}>
      {said.map(({ says, here }) => (
        <Box key={says}>
          {says.charAt(0).toUpperCase() + says.slice(1)}:{" "}
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
