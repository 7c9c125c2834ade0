import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { useKinds } from "../../api/queries";
import { ToBuy } from "../../parts/ToBuy";
import { Square } from "../../parts/VerdictMark";
import { Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { type Job, type Limits, useJobChange, type Weight } from "./queries";

const MORE = 1.5;
const MOST = 5;

/** The limits that each check needs so that the job fits; one press judges the machine by them. */
export function LimitsPane({ job, machineId }: { job: Job; machineId: string }) {
  const [open, setOpen] = useState(false);
  return (
    <Box
      component="details"
      open={open}
      onToggle={(e) => setOpen((e.currentTarget as unknown as HTMLDetailsElement).open)}
      sx={{ mb: 3 }}
    >
      <Box component="summary" sx={{ cursor: "pointer", minHeight: 48, alignContent: "center" }}>
        <Typography variant="h2" component="span">
          Limits that this job needs
        </Typography>
      </Box>
      {open && <Needed job={job} machineId={machineId} />}
    </Box>
  );
}

function Needed({ job, machineId }: { job: Job; machineId: string }) {
  const { say } = useSettings();
  const [weights, setWeights] = useState<Weight[]>([]);
  const path = { job_id: job.id };
  const body = { machine_id: machineId, weights };
  const limits = useQuery<Limits, ApiProblem>({
    queryKey: ["job-limits", job.id, body],
    queryFn: () => told(api.POST("/api/v1/jobs/{job_id}/limits", { params: { path }, body })),
    placeholderData: (before) => before,
  });
  const apply = useJobChange<void, Limits>(() =>
    told(api.POST("/api/v1/jobs/{job_id}/limits/apply", { params: { path }, body })),
  );
  const back = useJobChange<void, unknown>(() =>
    told(
      api.DELETE("/api/v1/machines/{machine_id}/job-limits", {
        params: { path: { machine_id: machineId } },
      }),
    ),
  );
  if (limits.isPending) return <Loading />;
  if (limits.isError)
    return (
      <Remark tone="error" role="alert">
        {limits.error.message}
      </Remark>
    );
  const found = limits.data;
  const weigh = (of: Schemas["ToldLimit"], by: number) => {
    const rest = weights.filter((w) => w.kind !== of.kind || w.tolerance !== of.tolerance);
    const weight = Math.min(MOST, Math.max(1 / MOST, of.weight * by));
    setWeights([...rest, { kind: of.kind, tolerance: of.tolerance, weight }]);
  };
  const problem = apply.error ?? back.error;
  return (
    <Box>
      <Typography sx={{ maxWidth: 720, mb: 1 }}>
        With every error anywhere inside these, each feature comes out within its tolerance. What is
        good already gives its room to the others.
      </Typography>
      {found.beyond.map((text) => (
        <Remark key={text.metric} tone="look">
          {say(text)}
        </Remark>
      ))}
      {found.limits.map((x) => (
        <Limit
          key={`${x.kind}${x.tolerance}`}
          limit={x}
          job={job}
          machineId={machineId}
          weigh={weigh}
        />
      ))}
      {found.fixed.length > 0 && (
        <Box component="details">
          <Box
            component="summary"
            sx={{ cursor: "pointer", minHeight: 40, alignContent: "center" }}
          >
            {found.fixed.length} that no adjustment mends
          </Box>
          {found.fixed.map((text) => (
            <Typography key={text.metric}>{say(text)}</Typography>
          ))}
        </Box>
      )}
      {job.can_write && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
          <Button
            variant={found.on ? "outlined" : "contained"}
            disabled={apply.isPending}
            onClick={() => apply.mutate()}
          >
            {found.on ? "Set them anew" : "Judge the machine by them"}
          </Button>
          {found.on && (
            <Button disabled={back.isPending} onClick={() => back.mutate()}>
              Take them back
            </Button>
          )}
          {weights.length > 0 && <Button onClick={() => setWeights([])}>Even room for all</Button>}
        </Box>
      )}
      {found.on && (
        <Typography role="status" sx={{ mt: 1 }}>
          The machine is judged by limits for “{job.name}” now, without reading anything again.
        </Typography>
      )}
      {problem && (
        <Remark tone="error" role="alert">
          {problem.message}
        </Remark>
      )}
    </Box>
  );
}

function Limit({
  limit,
  job,
  machineId,
  weigh,
}: {
  limit: Schemas["ToldLimit"];
  job: Job;
  machineId: string;
  weigh: (of: Schemas["ToldLimit"], by: number) => void;
}) {
  const { say } = useSettings();
  const write = job.can_write;
  return (
    <Box
      sx={(t) => ({
        display: "flex",
        flexWrap: "wrap",
        columnGap: 2,
        alignItems: "center",
        borderTop: `1px solid ${t.palette.rule}`,
        py: 0.5,
      })}
    >
      <Square status={limit.is_met ? "true" : "unmeasured"} size={18} />
      <Box sx={{ flex: "1 1 260px" }}>
        <b>{limit.kind_title}</b>: {limit.title}
        <Box sx={{ color: "text.secondary" }}>
          {say(limit.text)}
          {limit.decided_by.length > 0 && ` Decided by ${limit.decided_by.join(", ")}.`}
        </Box>
        {limit.too_fine && write && <Finer limit={limit} job={job} machineId={machineId} />}
      </Box>
      <Box sx={{ textAlign: "right" }}>
        <b>{say(limit.words)}</b>
        <Box sx={{ color: "text.secondary" }}>usually {say(limit.usual)}</Box>
      </Box>
      {write && (
        <Box sx={{ display: "flex" }}>
          <Button
            size="small"
            sx={{ minWidth: 48, px: 0 }}
            aria-label={`Less room: ${limit.title}`}
            onClick={() => weigh(limit, 1 / MORE)}
          >
            −
          </Button>
          <Button
            size="small"
            sx={{ minWidth: 48, px: 0 }}
            aria-label={`More room: ${limit.title}`}
            onClick={() => weigh(limit, MORE)}
          >
            +
          </Button>
        </Box>
      )}
    </Box>
  );
}

/** What the job lacks: an instrument that decides this limit. */
function Finer({
  limit,
  job,
  machineId,
}: {
  limit: Schemas["ToldLimit"];
  job: Job;
  machineId: string;
}) {
  const { say } = useSettings();
  const kinds = useKinds();
  const takes = kinds.data?.find((k) => k.key === limit.kind)?.takes ?? {};
  return (
    <ToBuy
      workshopId={job.workshop_id}
      machineId={machineId}
      what={`Something finer for “${limit.kind_title}”`}
      why={`“${job.name}” leaves ${say(limit.words)} for ${limit.title}; nothing in the kit decides that little.`}
      sort="instrument"
      types={[...new Set(Object.values(takes).flat())]}
    />
  );
}
