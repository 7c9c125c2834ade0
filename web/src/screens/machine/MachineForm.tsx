import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Navigate, useNavigate, useParams, useSearchParams } from "react-router";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, type Schemas, told, type Words } from "../../api/client";
import { keys, type Machine, useMachine, useMachineForms, useWorkshop } from "../../api/queries";
import { GhostFigure } from "../../figures/GhostFigure";
import { SchemaForm } from "../../parts/SchemaForm";
import { type JsonObject, payload, type Schema } from "../../parts/schema";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { Forms } from "./Forms";
import { asksFor, asText, Intervals, LimitFields, type Limits, standing } from "./Limits";

/** Describe a machine: a new one from a starting point, or one that is there. */
export default function MachineForm() {
  const { machineId } = useParams();
  return machineId ? <Existing machineId={machineId} /> : <New />;
}

function Existing({ machineId }: { machineId: string }) {
  const machine = useMachine(machineId);
  const forms = useMachineForms();
  if (machine.isPending || forms.isPending) return <Loading />;
  if (machine.isError) return <Failed problem={machine.error} />;
  if (forms.isError) return <Failed problem={forms.error} />;
  if (!machine.data.can_write) return <Navigate to={`/machines/${machineId}`} replace />;
  return (
    <Describe
      start={{
        name: machine.data.name,
        spec: machine.data.spec,
        shown: machine.data.spec_shown,
        ghost: machine.data.ghost,
      }}
      schema={forms.data.form_schema}
      machine={machine.data}
      workshopId={machine.data.workshop_id}
    />
  );
}

function New() {
  const { workshopId = "" } = useParams();
  const forms = useMachineForms();
  const [search, go] = useSearchParams();
  const workshop = useWorkshop(workshopId);
  if (forms.isPending || workshop.isPending) return <Loading />;
  if (workshop.isError) return <Failed problem={workshop.error} />;
  // who may only look is not asked for what would be refused
  if (workshop.data.role === "viewer") return <Navigate to={`/w/${workshopId}`} replace />;
  if (forms.isError) return <Failed problem={forms.error} />;
  const picked = forms.data.starts.find((form) => form.form === search.get("form"));
  if (picked)
    return (
      <Describe
        start={{
          name: "",
          spec: picked.spec,
          shown: picked.spec_shown,
          ghost: picked.ghost,
        }}
        schema={forms.data.form_schema}
        workshopId={workshopId}
      />
    );
  return (
    <Box sx={{ maxWidth: 1060, mx: "auto", p: 3 }}>
      <Typography variant="h1" sx={{ mb: 1 }}>
        What stands in the shed?
      </Typography>
      <Typography sx={{ mb: 3 }}>
        Start from the form that is nearest; every figure and part can be corrected.
      </Typography>
      <Forms starts={forms.data.starts} pick={(form) => go({ form: form.form })} />
    </Box>
  );
}

interface Start {
  name: string;
  spec: JsonObject;
  shown: Record<string, Words>;
  ghost: Schemas["Ghost"];
}

function Describe({
  start,
  schema,
  workshopId,
  machine,
}: {
  start: Start;
  schema: Schema;
  workshopId: string;
  machine?: Machine;
}) {
  const [name, setName] = useState(start.name);
  // what others change while this page is open is no part of what is typed on it
  const [began] = useState(() => ({
    name: start.name,
    spec: start.spec,
    intervals: machine?.intervals,
    tolerances: machine ? standing(machine) : {},
  }));
  const [limits, setLimits] = useState<Limits>({});
  const [intervals, setIntervals] = useState(machine?.intervals);
  const go = useNavigate();
  const [search] = useSearchParams();
  const client = useQueryClient();
  const [id] = useState<string>(() => uuid());
  const drawing = useDrawing(schema);
  const [open, setOpen] = useState<string[]>([]);
  const fold = useCallback(
    (part: string, on: boolean) =>
      setOpen((all) =>
        on ? [...all.filter((p) => p !== part), part] : all.filter((p) => p !== part),
      ),
    [],
  );
  const folding = useMemo(() => ({ open, set: fold }), [open, fold]);
  /** A part that is pressed on the drawing opens where it is described. */
  const press = (part: string) => {
    fold(part, true);
    const there = document.getElementById(`part-${part}`);
    there?.scrollIntoView({ block: "start" });
    there?.querySelector("summary")?.focus();
  };
  const keep = (kept: Machine) => {
    client.setQueryData(keys.machine(kept.id), kept);
    void client.invalidateQueries({ queryKey: ["workshop"] });
    void client.invalidateQueries({ queryKey: ["check"] });
    void client.invalidateQueries({ queryKey: ["calendar"] });
  };
  const save = useMutation<Machine, ApiProblem, JsonObject>({
    mutationFn: (spec) =>
      machine
        ? told(
            api.PUT("/api/v1/machines/{machine_id}", {
              params: { path: { machine_id: machine.id } },
              body: { name, spec, tolerances: asText(limits), intervals, was: began },
            }),
          )
        : told(
            api.POST("/api/v1/workshops/{workshop_id}/machines", {
              params: { path: { workshop_id: workshopId } },
              body: { id, name, spec, tolerances: {} },
            }),
          ),
    onSuccess: (kept) => {
      keep(kept);
      const symptom = machine ? null : search.get("symptom");
      go(`/machines/${kept.id}${symptom ? `/symptoms/${symptom}` : ""}`);
    },
  });
  const archive = useMutation<Machine, ApiProblem, boolean>({
    mutationFn: (archived) =>
      told(
        api.PUT("/api/v1/machines/{machine_id}/archived", {
          params: { path: { machine_id: machine?.id ?? "" } },
          body: { archived },
        }),
      ),
    onSuccess: (kept) => {
      keep(kept);
      go(kept.archived ? `/w/${workshopId}` : `/machines/${kept.id}`);
    },
  });
  const nameError = save.error?.errors.find((e) => e.field === "name");
  return (
    <Box
      sx={{
        maxWidth: 1240,
        mx: "auto",
        p: { xs: 2, md: 3 },
        display: "grid",
        gap: 4,
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "minmax(0, 1.7fr) minmax(0, 1fr)" },
      }}
    >
      <Box>
        <Typography variant="h1" sx={{ mb: 2 }}>
          {machine ? `Describe ${start.name}` : "Describe the machine"}
        </Typography>
        <SchemaForm
          schema={schema}
          values={start.spec}
          shown={start.shown}
          proposed={!machine}
          prefix="spec."
          problem={save.error}
          mine={(field) => field === "name" || (machine ? asksFor(machine, field) : false)}
          busy={save.isPending}
          submit={machine ? "Keep the changes" : "Add it"}
          folding={folding}
          onChange={drawing.follow}
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
          after={
            machine && (
              <>
                <LimitFields
                  machine={machine}
                  limits={limits}
                  change={setLimits}
                  problem={save.error}
                />
                <Intervals
                  machine={machine}
                  intervals={intervals ?? {}}
                  change={setIntervals}
                  problem={save.error}
                />
              </>
            )
          }
        />
        {machine && (
          <Box sx={{ mt: 4 }}>
            <Button
              variant="outlined"
              disabled={archive.isPending}
              onClick={() => archive.mutate(!machine.archived)}
            >
              {machine.archived ? `Take ${start.name} out again` : `Put ${start.name} away`}
            </Button>
            <Typography sx={{ color: "text.secondary", mt: 0.5 }}>
              Put away, it leaves the workshop's page; its logbook stays whole.
            </Typography>
          </Box>
        )}
      </Box>
      <Box
        sx={{
          position: { md: "sticky" },
          top: 16,
          alignSelf: "start",
          gridRow: { xs: 1, md: "auto" },
        }}
      >
        <Box sx={{ height: { xs: 150, md: 280 } }}>
          <GhostFigure
            ghost={drawing.ghost ?? start.ghost}
            factor={1}
            name={name || "The machine"}
            views={["front", "plan"]}
            press={press}
          />
        </Box>
        <Box role="status" sx={{ minHeight: 48 }}>
          {drawing.error ? (
            <Remark tone="look">{drawing.error}</Remark>
          ) : (
            <Typography sx={{ color: "text.secondary" }}>
              It follows the figures as you type. Press a part to describe it; what is not asked
              here can wait until a check needs it.
            </Typography>
          )}
        </Box>
      </Box>
    </Box>
  );
}

/** The drawing of what is typed; while that cannot be, the last one stays and the reason is told. */
function useDrawing(schema: Schema) {
  const { system } = useSettings();
  const [typed, setTyped] = useState<JsonObject | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const follow = useCallback(
    (all: JsonObject) => {
      clearTimeout(timer.current);
      timer.current = setTimeout(() => setTyped(payload(schema, all, system)), 250);
    },
    [schema, system],
  );
  const drawn = useQuery({
    queryKey: ["drawing", typed],
    queryFn: () => told(api.POST("/api/v1/machine-drawing", { body: { spec: typed ?? {} } })),
    enabled: typed !== null,
    placeholderData: (before) => before,
  });
  const [ghost, setGhost] = useState<Schemas["Ghost"] | null>(null);
  useEffect(() => {
    if (drawn.data?.ghost) setGhost(drawn.data.ghost);
  }, [drawn.data]);
  return { follow, ghost, error: drawn.data?.errors[0]?.message };
}
