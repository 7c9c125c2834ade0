import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { api, told } from "../../api/client";
import { PhotoButton } from "../../parts/Photos";
import { SchemaForm } from "../../parts/SchemaForm";
import type { JsonObject, Schema } from "../../parts/schema";
import { useWhen } from "../../parts/useWhen";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { Files } from "./PlanPane";
import { type BedState, useBedChange } from "./queries";

/** Plans that were kept: their files, and what was found after surfacing by them. */
export function KeptPlans({ bed }: { bed: BedState }) {
  const { say } = useSettings();
  const when = useWhen();
  const [open, setOpen] = useState<string | null>(null);
  if (bed.plans.length === 0)
    return <Typography>No plan has been kept for this bed yet.</Typography>;
  return (
    <Box>
      {bed.plans.map((plan) => (
        <Box key={plan.id} sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, py: 1.5 })}>
          <Typography sx={{ fontWeight: 700 }}>{say(plan.sentence)}</Typography>
          <Typography sx={{ color: "text.secondary" }}>
            {when(plan.at)}, {plan.by}
            {plan.done_at && ` · done ${when(plan.done_at)}: `}
            {plan.done_words && say(plan.done_words)}
          </Typography>
          <Button onClick={() => setOpen(open === plan.id ? null : plan.id)}>
            {open === plan.id
              ? "Close"
              : plan.done_at
                ? "Its program"
                : "Its program, and after it"}
          </Button>
          {plan.stale && !plan.done_at && <Remark tone="look">{say(plan.stale)}</Remark>}
          {open === plan.id && (
            <>
              {plan.stale ? (
                <Typography>Its program is kept, and no longer given out.</Typography>
              ) : (
                <Files id={plan.id} name={plan.file_name} />
              )}
              {!plan.done_at && bed.may_change && <After bed={bed} planId={plan.id} />}
            </>
          )}
        </Box>
      ))}
    </Box>
  );
}

function After({ bed, planId }: { bed: BedState; planId: string }) {
  const [photo, setPhoto] = useState<string | null>(null);
  const save = useBedChange(bed.machine_id, (done: JsonObject) =>
    told(
      api.POST("/api/v1/surfacing-plans/{plan_id}/done", {
        params: { path: { plan_id: planId } },
        body: { done, photo_id: photo },
      }),
    ),
  );
  return (
    <Box sx={{ mt: 1 }}>
      <Typography variant="h3" component="h2">
        After it has run
      </Typography>
      <Typography sx={{ mb: 1 }}>
        The board gets thinner here too, and what was read on its face before is stale.
      </Typography>
      <SchemaForm
        schema={bed.done_schema as Schema}
        prefix="done."
        problem={save.error}
        busy={save.isPending}
        submit="It is surfaced"
        onSubmit={(done) => save.mutate(done)}
        after={
          <Box sx={{ mt: 1 }}>
            {photo ? (
              <Typography>The photo is kept.</Typography>
            ) : (
              <PhotoButton
                machineId={bed.machine_id}
                text="Add a photo"
                kept={(p) => setPhoto(p.id)}
              />
            )}
          </Box>
        }
      />
    </Box>
  );
}
