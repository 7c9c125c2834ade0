import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, type Schemas, told, type Words } from "../../api/client";
import { keys, type Machine, useMachine, useMachineForms } from "../../api/queries";
import { SchemaForm } from "../../parts/SchemaForm";
import type { JsonObject, Schema } from "../../parts/schema";
import { Failed, Loading } from "../../parts/Waiting";
import { useSettings } from "../../settings";

/** Describe a machine: a new one from a starting point, or one that is there. */
export default function MachineForm() {
  const { machineId } = useParams();
  return machineId ? <Existing machineId={machineId} /> : <New />;
}

function Existing({ machineId }: { machineId: string }) {
  const machine = useMachine(machineId);
  if (machine.isPending) return <Loading />;
  if (machine.isError) return <Failed problem={machine.error} />;
  const { name, spec, spec_shown, spec_schema, tolerances, workshop_id } = machine.data;
  return (
    <Describe
      start={{ name, spec, shown: spec_shown, schema: spec_schema, limits: tolerances }}
      machineId={machineId}
      workshopId={workshop_id}
    />
  );
}

function New() {
  const { workshopId = "" } = useParams();
  const forms = useMachineForms();
  const [picked, setPicked] = useState<Schemas["StartingPoint"] | null>(null);
  if (forms.isPending) return <Loading />;
  if (forms.isError) return <Failed problem={forms.error} />;
  if (picked)
    return (
      <Describe
        start={{
          name: "",
          spec: picked.spec,
          shown: picked.spec_shown,
          schema: picked.form_schema,
          limits: {},
        }}
        workshopId={workshopId}
      />
    );
  return (
    <Box sx={{ maxWidth: 720, mx: "auto", p: 3 }}>
      <Typography variant="h1" sx={{ mb: 1 }}>
        What stands in the shed?
      </Typography>
      <Typography sx={{ mb: 3 }}>
        Start from the form that is nearest; every figure can be corrected.
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2 }}>
        {forms.data.map((form) => (
          <Button key={form.form} variant="outlined" size="large" onClick={() => setPicked(form)}>
            {form.title}
          </Button>
        ))}
      </Box>
    </Box>
  );
}

interface Start {
  name: string;
  spec: JsonObject;
  shown: Record<string, Words>;
  schema: Schema;
  limits: Record<string, Record<string, number>>;
}

function Describe({
  start,
  workshopId,
  machineId,
}: {
  start: Start;
  workshopId: string;
  machineId?: string;
}) {
  const [name, setName] = useState(start.name);
  const [limits, setLimits] = useState(start.limits);
  const { system } = useSettings();
  const go = useNavigate();
  const client = useQueryClient();
  const [id] = useState<string>(() => uuid());
  const save = useMutation<Machine, ApiProblem, JsonObject>({
    mutationFn: (spec) =>
      machineId
        ? told(
            api.PUT("/api/v1/machines/{machine_id}", {
              params: { path: { machine_id: machineId } },
              body: { name, spec, tolerances: limits },
            }),
          )
        : told(
            api.POST("/api/v1/workshops/{workshop_id}/machines", {
              params: { path: { workshop_id: workshopId } },
              body: { id, name, spec, tolerances: {} },
            }),
          ),
    onSuccess: (machine) => {
      client.setQueryData(keys.machine(machine.id), machine);
      void client.invalidateQueries({ queryKey: ["workshop"] });
      void client.invalidateQueries({ queryKey: ["check"] });
      go(`/machines/${machine.id}`);
    },
  });
  const nameError = save.error?.errors.find((e) => e.field === "name");
  return (
    <Box sx={{ maxWidth: 860, mx: "auto", p: 3 }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        {machineId ? `Describe ${start.name}` : "Describe the machine"}
      </Typography>
      <SchemaForm
        key={system}
        schema={start.schema}
        values={start.spec}
        shown={start.shown}
        prefix="spec."
        problem={save.error}
        busy={save.isPending}
        submit={machineId ? "Keep the changes" : "Add it"}
        onSubmit={(spec) => save.mutate(spec)}
        before={
          <TextField
            id="name"
            label="Name"
            value={name}
            onChange={(e) => setName(e.target.value)}
            error={nameError !== undefined}
            helperText={nameError?.message ?? "What you call it in the shed."}
            sx={{ mb: 2, maxWidth: 360 }}
          />
        }
        after={<Limits limits={limits} change={setLimits} problem={save.error} />}
      />
    </Box>
  );
}

const LIMIT_NAMES: Record<string, string> = {
  lean_x: "Lean, side to side",
  nod: "Nod, front to back",
};

function Limits({
  limits,
  change,
  problem,
}: {
  limits: Record<string, Record<string, number>>;
  change: (limits: Record<string, Record<string, number>>) => void;
  problem: ApiProblem | null;
}) {
  const rows = Object.entries(limits).flatMap(([kind, own]) =>
    Object.entries(own).map(([key, value]) => ({ kind, key, value })),
  );
  if (rows.length === 0) return null;
  return (
    <Box sx={{ mt: 3 }}>
      <Typography variant="h3" component="h2" sx={{ mb: 1 }}>
        Limits
      </Typography>
      <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap" }}>
        {rows.map(({ kind, key, value }) => {
          const error = problem?.errors.find((e) => e.field === `tolerances.${kind}.${key}`);
          return (
            <TextField
              key={`${kind}.${key}`}
              id={`limit-${kind}-${key}`}
              label={`${LIMIT_NAMES[key] ?? key} (mm/m)`}
              type="number"
              defaultValue={value}
              error={error !== undefined}
              helperText={error?.message ?? "0.1 suits metal, 0.3 board."}
              onChange={(e) =>
                change({ ...limits, [kind]: { ...limits[kind], [key]: Number(e.target.value) } })
              }
              slotProps={{ htmlInput: { step: "any" } }}
              sx={{ maxWidth: 240 }}
            />
          );
        })}
      </Box>
    </Box>
  );
}
