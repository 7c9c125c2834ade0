import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, type Machine } from "../../api/queries";
import { Lines } from "../../parts/GuideText";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { useSymptoms } from "../symptoms/queries";
import { Left, Steps } from "./Steps";

const TIMES = [30, 60, 90, 120, 180];

/** How much time there is and what it is for; the plan follows at once. */
export function Making({ machine }: { machine: Machine }) {
  const { say } = useSettings();
  const [minutes, setMinutes] = useState(90);
  const [search] = useSearchParams();
  const asked = search.get("job");
  const symptom = search.get("symptom") ?? "";
  const [aim, setAim] = useState<Schemas["PlanIn"]["aim"]>(
    asked ? "job" : symptom ? "symptom" : "true",
  );
  const symptoms = useSymptoms();
  const sought = symptoms.data?.find((s) => s.key === symptom);
  const [job, setJob] = useState<string | null>(asked);
  const [skip, setSkip] = useState<string[]>([]);
  const client = useQueryClient();
  const path = { machine_id: machine.id };
  const body = { minutes, aim, job, symptom, skip };
  const made = useQuery({
    queryKey: ["plan", machine.id, body],
    queryFn: () => told(api.POST("/api/v1/machines/{machine_id}/plan", { params: { path }, body })),
    enabled: minutes >= 5,
    placeholderData: (before) => before,
  });
  const start = useMutation<Schemas["EveningOut"], ApiProblem, void>({
    mutationFn: () =>
      told(
        api.POST("/api/v1/machines/{machine_id}/evenings", {
          params: { path },
          body: { id: uuid(), ...body },
        }),
      ),
    onSuccess: (evening) => {
      client.setQueryData(keys.evening(evening.id), evening);
      void client.invalidateQueries({ queryKey: keys.machine(machine.id) });
    },
  });
  const plan = made.data?.plan;
  const problem = (made.error ?? start.error) as ApiProblem | null;
  return (
    <Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "flex-start", mb: 2 }}>
        <ToggleButtonGroup
          exclusive
          aria-label="Minutes there are"
          value={TIMES.includes(minutes) ? minutes : null}
          onChange={(_, value) => value && setMinutes(value)}
        >
          {TIMES.map((time) => (
            <ToggleButton key={time} value={time} sx={{ px: 2 }}>
              {time} min
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <TextField
          id="minutes"
          label="Minutes"
          value={minutes || ""}
          onChange={(e) => setMinutes(Math.min(1440, Number(e.target.value.replace(/\D/g, ""))))}
          slotProps={{ htmlInput: { inputMode: "numeric" } }}
          sx={{ maxWidth: 110 }}
        />
        <TextField
          select
          label="What it is for"
          value={aim === "job" && job ? job : aim}
          onChange={(e) => {
            const chosen = made.data?.jobs.find((j) => j.id === e.target.value);
            setJob(chosen?.id ?? null);
            setAim(chosen ? "job" : (e.target.value as typeof aim));
          }}
          sx={{ maxWidth: 420 }}
          slotProps={{
            select: { inputProps: { id: "aim" } },
            inputLabel: { htmlFor: "aim" },
          }}
        >
          {(made.data?.aims ?? [{ key: "true", title: "Bring it back to true" }]).map((a) => (
            <MenuItem key={a.key} value={a.key}>
              {a.title}
            </MenuItem>
          ))}
          {symptom && (
            <MenuItem value="symptom">
              {sought ? `What is behind it: ${sought.title}` : "What is behind it"}
            </MenuItem>
          )}
          {(made.data?.jobs ?? (job ? [{ id: job, name: "A job" }] : [])).map((j) => (
            <MenuItem key={j.id} value={j.id}>
              Good enough for “{j.name}”
            </MenuItem>
          ))}
        </TextField>
      </Box>
      {problem && (
        <Remark tone="error" role="alert">
          {problem.errors[0]?.message ?? problem.message}
        </Remark>
      )}
      {plan && (
        <>
          <Typography role="status" sx={{ fontSize: "1.15rem", mb: 1 }}>
            {say(plan.sentence)}
          </Typography>
          {plan.steps.length > 0 && (
            <Box
              sx={{
                display: "grid",
                columnGap: 5,
                gridTemplateColumns: { md: "minmax(0, 1.4fr) minmax(0, 1fr)" },
              }}
            >
              <Box>
                <Steps
                  steps={plan.steps}
                  action={(step) => (
                    <Button
                      size="small"
                      onClick={() => setSkip([...skip, step.kind])}
                      aria-label={`Leave out: ${step.title}`}
                    >
                      Leave out
                    </Button>
                  )}
                />
                {machine.can_write && (
                  <Button
                    variant="contained"
                    size="large"
                    disabled={start.isPending}
                    onClick={() => start.mutate()}
                    sx={{ mt: 2 }}
                  >
                    Start the evening
                  </Button>
                )}
              </Box>
              <Box>
                <Typography variant="h3" component="h2">
                  Lay out once
                </Typography>
                <Lines lines={plan.kit} />
                <Typography variant="h3" component="h2">
                  Mind
                </Typography>
                <Lines lines={plan.cautions} />
              </Box>
            </Box>
          )}
          <Left
            left={plan.left}
            action={(item) =>
              skip.includes(item.kind) && (
                <Button size="small" onClick={() => setSkip(skip.filter((k) => k !== item.kind))}>
                  Take in again
                </Button>
              )
            }
          />
        </>
      )}
    </Box>
  );
}
