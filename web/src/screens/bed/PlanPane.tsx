import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import useMediaQuery from "@mui/material/useMediaQuery";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, inFull, told } from "../../api/client";
import { SchemaForm } from "../../parts/SchemaForm";
import type { JsonObject, Schema } from "../../parts/schema";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { PlanResult } from "./PlanResult";
import { as, type BedState, bedKey, type PlanState } from "./queries";

/** What is wished, what it comes to, and the file. */
export function PlanPane({
  bed,
  plan,
  problem,
  wish,
  change,
}: {
  bed: BedState;
  plan: PlanState | undefined;
  problem: ApiProblem | null;
  wish: JsonObject;
  change: (wish: JsonObject) => void;
}) {
  const { say } = useSettings();
  // on a phone: picture, sentence, file; the figures when they are asked for
  const wide = useMediaQuery("(min-width: 900px)");
  const client = useQueryClient();
  const [kept, setKept] = useState<{ plan: PlanState; of: JsonObject } | null>(null);
  const keep = useMutation<PlanState, ApiProblem, JsonObject>({
    mutationFn: (now) =>
      as<PlanState>(
        told(
          api.POST("/api/v1/machines/{machine_id}/surfacing-plans", {
            params: { path: { machine_id: bed.machine_id } },
            body: { id: uuid(), wish: now },
          }),
        ),
      ),
    onSuccess: (now, of) => {
      setKept({ plan: now, of });
      void client.invalidateQueries({ queryKey: bedKey(bed.machine_id) });
    },
  });
  const refused = problem ?? keep.error;
  const sure = plan && !problem && plan.plan.program !== "";
  return (
    <Box>
      {bed.before.length > 0 && (
        <Box component="details" sx={{ mb: 1 }}>
          <Box component="summary" sx={{ cursor: "pointer", minHeight: 40 }}>
            Before it is surfaced:{" "}
            {bed.before.length === 1 ? "one check" : `${bed.before.length} checks`} should be fresh
          </Box>
          {bed.before.map((w) => (
            <Remark key={w.metric} tone="look">
              {say(w)}
            </Remark>
          ))}
        </Box>
      )}
      <Box aria-live="polite">
        {!plan && !problem && <Typography>Planning…</Typography>}
        {plan && !problem && <PlanResult bed={bed} plan={plan.plan} />}
        {problem && (
          <Remark tone="look">{problem.errors.map(inFull).join(" ") || problem.message}</Remark>
        )}
      </Box>
      {bed.may_change && sure && (
        <Button
          variant="contained"
          size="large"
          disabled={keep.isPending}
          onClick={() => keep.mutate(wish)}
          sx={{ my: 1 }}
        >
          Keep it and make the program
        </Button>
      )}
      {keep.error && !problem && <Remark tone="error">{keep.error.message}</Remark>}
      {kept && JSON.stringify(kept.of) === JSON.stringify(wish) && (
        <Files id={kept.plan.id ?? ""} name={kept.plan.plan.file_name} />
      )}
      <Box component="details" open={wide} sx={{ mt: 1 }}>
        <Box component="summary" sx={{ cursor: "pointer", minHeight: 40 }}>
          Work, cutter and zero
        </Box>
        <SchemaForm
          schema={bed.wish_schema as Schema}
          values={bed.wish as JsonObject}
          shown={bed.wish_shown}
          prefix="wish."
          problem={refused}
          onChange={change}
          onSubmit={change}
        />
      </Box>
      <Cautions bed={bed} />
    </Box>
  );
}

export function Cautions({ bed }: { bed: BedState }) {
  return (
    <Box sx={{ mt: 3 }}>
      <Typography variant="h3" component="h2">
        Before it runs
      </Typography>
      <Box component="ul" sx={{ mt: 0.5, pl: 2.5 }}>
        {bed.cautions.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </Box>
    </Box>
  );
}

/** Both programs of a plan. */
export function Files({ id, name }: { id: string; name: string }) {
  const at = `/api/v1/surfacing-plans/${id}/program`;
  return (
    <Box sx={{ my: 1 }}>
      <Typography>
        <strong>{name}</strong> was read back by the checker, which found nothing. Run it in the air
        first.
      </Typography>
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", mt: 1 }}>
        <Button variant="outlined" component="a" href={`${at}?run=air`} download>
          The air run
        </Button>
        <Button variant="outlined" component="a" href={at} download>
          The program
        </Button>
      </Box>
    </Box>
  );
}
