import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import type { FormEvent } from "react";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, type Schemas, told } from "../api/client";
import { useMachineChange } from "../api/queries";
import { OnJobs } from "./OnJobs";

/**
 * A check is left as it is, by decision: with a reason, what it does to the jobs, and the figures of
 * the day. The one way of it, wherever it is decided.
 */
export function LeaveIt({
  machineId,
  kind,
  jobsShown = false,
  left,
  done,
}: {
  machineId: string;
  kind: string;
  /** What it does to the jobs stands beside it already. */
  jobsShown?: boolean;
  /** It was decided. */
  left: () => void;
  /** Decided or not, the form is done with. */
  done: () => void;
}) {
  const leave = useMachineChange((reason: string) =>
    told(
      api.POST("/api/v1/machines/{machine_id}/decisions", {
        params: { path: { machine_id: machineId } },
        body: { id: uuid(), kind, reason, at: new Date().toISOString() },
      }),
    ),
  );
  const jobs = useQuery<Schemas["JobCost"][], ApiProblem>({
    queryKey: ["machine", machineId, "costs", kind],
    queryFn: () =>
      told(
        api.GET("/api/v1/machines/{machine_id}/jobs/{kind}", {
          params: { path: { machine_id: machineId, kind } },
        }),
      ),
    staleTime: 0,
    enabled: !jobsShown,
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const reason = String(new FormData(event.currentTarget).get("reason") ?? "");
    leave.mutate(reason, {
      onSuccess: () => {
        left();
        done();
      },
    });
  };
  return (
    <Box component="form" noValidate onSubmit={submit} sx={{ mt: 1, maxWidth: 560 }}>
      <TextField
        name="reason"
        id={`leave-${kind}`}
        label="Why it may stay as it is"
        autoFocus
        error={leave.error !== null}
        helperText={
          leave.error
            ? leave.error.whole
            : "Kept with today's figures. It stays visible, and is open again once something it rests on is touched."
        }
      />
      <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
        <Button type="submit" variant="contained" disabled={leave.isPending}>
          Leave it as it is
        </Button>
        <Button onClick={done}>Not after all</Button>
      </Box>
      {/* it comes late: below, so that what is being typed and pressed stays where it is */}
      {jobs.data && <OnJobs jobs={jobs.data} says="Left as it is, on what you make" />}
    </Box>
  );
}
