import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import { v4 as uuid } from "uuid";
import { ApiProblem, api, type Schemas, told, type Words } from "../../api/client";
import { AnswerMark } from "../../parts/AnswerMark";
import { SchemaForm } from "../../parts/SchemaForm";
import {
  type Exactly,
  exactly,
  fieldsOf,
  initialValues,
  type JsonObject,
  payload,
  type Schema,
  type System,
} from "../../parts/schema";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { PartPicture } from "./PartPicture";
import {
  type Fit,
  type Job,
  useJob,
  useJobChange,
  useJobForms,
  useJobs,
  usePreview,
} from "./queries";

/** Describe a job: a new one, or one that is there. */
export default function JobForm() {
  const { jobId } = useParams();
  return jobId ? <Existing jobId={jobId} /> : <New />;
}

interface Piece {
  id: string;
  kind: string;
  /** As it is sent: texts with their units. */
  values: JsonObject;
  kept: Exactly;
}

interface Draft {
  name: string;
  material: string;
  machines: string[];
  features: Piece[];
}

type Forms = Schemas["JobForms"];

const schemaOf = (forms: Forms, kind: string): Schema =>
  (forms.features.find((f) => f.kind === kind)?.form_schema ?? {}) as Schema;

/** A feature as the form would send it, so that nothing changes by being looked at. */
function piece(
  forms: Forms,
  spec: JsonObject,
  shown: Record<string, Words>,
  at: string,
  system: System,
): Piece {
  const schema = schemaOf(forms, spec.kind);
  const own: Record<string, Words> = {};
  for (const [path, words] of Object.entries(shown))
    if (path.startsWith(at)) own[path.slice(at.length)] = words;
  const values = payload(schema, initialValues(schema, spec, own, system), system);
  return { id: uuid(), kind: spec.kind, values, kept: exactly(own) };
}

/** What is sent of a piece: what nobody touched as it stands in the record. */
const untouched = (f: Piece): JsonObject =>
  Object.fromEntries(
    Object.entries(f.values).map(([name, value]) => [name, f.kept[String(value)] ?? value]),
  );

function Existing({ jobId }: { jobId: string }) {
  const { system } = useSettings();
  const job = useJob(jobId, null);
  const forms = useJobForms();
  if (job.isPending || forms.isPending) return <Loading />;
  if (job.isError) return <Failed problem={job.error} />;
  if (forms.isError) return <Failed problem={forms.error} />;
  // who may only look is not asked for what would be refused
  if (!job.data.can_write) return <Navigate to={`/jobs/${jobId}`} replace />;
  const { spec, spec_shown, on, machines, workshop_id } = job.data;
  return (
    <Describe
      forms={forms.data}
      workshopId={workshop_id}
      machines={machines}
      job={job.data}
      start={{
        name: spec.name,
        material: spec.material ?? "",
        machines: on,
        features: spec.features.map((f, i) =>
          piece(forms.data, f as JsonObject, spec_shown, `features.${i}.`, system),
        ),
      }}
    />
  );
}

function New() {
  const { workshopId = "" } = useParams();
  const { system } = useSettings();
  const forms = useJobForms();
  const jobs = useJobs(workshopId);
  const [start, setStart] = useState<Draft | null>(null);
  if (forms.isPending || jobs.isPending) return <Loading />;
  if (forms.isError) return <Failed problem={forms.error} />;
  if (jobs.isError) return <Failed problem={jobs.error} />;
  if (!jobs.data.can_write) return <Navigate to={`/w/${workshopId}/jobs`} replace />;
  if (start)
    return (
      <Describe
        forms={forms.data}
        workshopId={workshopId}
        machines={jobs.data.machines}
        start={start}
      />
    );
  const from = (spec: Forms["starts"][number] | null): Draft => ({
    name: spec?.name ?? "",
    material: spec?.material ?? "",
    machines: [],
    features: (spec?.features ?? []).map((f) => piece(forms.data, f as JsonObject, {}, "", system)),
  });
  return (
    <Box sx={{ maxWidth: 900, mx: "auto", px: { xs: 2, md: 3 }, py: 3 }}>
      <Typography variant="h1" sx={{ mb: 1 }}>
        What do you make?
      </Typography>
      <Typography sx={{ mb: 2 }}>
        Begin with nothing, or with a part of the shed’s and change its figures.
      </Typography>
      <Box
        sx={{
          display: "grid",
          gap: 1.5,
          gridTemplateColumns: "repeat(auto-fill, minmax(220px, 1fr))",
        }}
      >
        <Button variant="contained" onClick={() => setStart(from(null))}>
          An empty one
        </Button>
        {forms.data.starts.map((s) => (
          <Button key={s.name} variant="outlined" onClick={() => setStart(from(s))}>
            {s.name}
          </Button>
        ))}
      </Box>
    </Box>
  );
}

function Describe({
  forms,
  workshopId,
  machines,
  start,
  job,
}: {
  forms: Forms;
  workshopId: string;
  machines: readonly Schemas["MachineName"][];
  start: Draft;
  job?: Job;
}) {
  const { say } = useSettings();
  const [draft, setDraft] = useState(start);
  const [open, setOpen] = useState<string | null>(null);
  const [id] = useState<string>(() => uuid());
  // what others change while this page is open is no part of what is typed on it
  const [was] = useState(() => ({ spec: job?.spec ?? {}, machines: job?.on ?? [] }));
  const go = useNavigate();
  const spec = {
    name: draft.name,
    material: draft.material,
    features: draft.features.map((f) => ({ kind: f.kind, ...untouched(f) })),
  };
  const looked = usePreview(workshopId, { ...spec, name: spec.name || "…" }, draft.machines);
  const save = useJobChange<void, Job>(() => {
    const body = { spec, machines: draft.machines };
    return job
      ? told(
          api.PUT("/api/v1/jobs/{job_id}", {
            params: { path: { job_id: job.id } },
            body: { ...body, was },
          }),
        )
      : told(
          api.POST("/api/v1/workshops/{workshop_id}/jobs", {
            params: { path: { workshop_id: workshopId } },
            body: { id, ...body },
          }),
        );
  });
  const add = (kind: string) => {
    const next = { id: uuid(), kind, values: {}, kept: {} };
    setDraft((d) => ({ ...d, features: [...d.features, next] }));
    setOpen(next.id);
  };
  const change = (of: string, to: (p: Piece) => Piece[]) =>
    setDraft((d) => ({ ...d, features: d.features.flatMap((f) => (f.id === of ? to(f) : [f])) }));
  const refused = save.error ?? looked.error;
  const named = save.error?.errors.find((e) => e.field === "spec.name");
  const elsewhere = (save.error?.errors ?? []).filter(
    (e) => e.field !== "spec.name" && !e.field.startsWith("spec.features."),
  );
  const fit = looked.data;
  const on = machines.find((m) => m.id === fit?.machine_id)?.name;
  return (
    <Box sx={{ maxWidth: 1060, mx: "auto", px: { xs: 2, md: 3 }, py: 3 }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        {job ? `Change ${job.name}` : "Describe a job"}
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, mb: 1 }}>
        <TextField
          id="job-name"
          label="Job"
          value={draft.name}
          onChange={(e) => setDraft({ ...draft, name: e.target.value })}
          error={named !== undefined}
          helperText={named && "Give it a name."}
          sx={{ maxWidth: 320 }}
        />
        <TextField
          id="material"
          label="Material"
          value={draft.material}
          onChange={(e) => setDraft({ ...draft, material: e.target.value })}
          sx={{ maxWidth: 260 }}
        />
      </Box>
      {machines.length > 1 && (
        <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, mb: 1 }}>
          <Box component="legend" sx={{ color: "text.secondary", p: 0 }}>
            Made on (none chosen: on any)
          </Box>
          {machines.map((m) => (
            <FormControlLabel
              key={m.id}
              label={m.name}
              control={
                <Checkbox
                  checked={draft.machines.includes(m.id)}
                  onChange={(e) => {
                    const rest = draft.machines.filter((x) => x !== m.id);
                    setDraft({ ...draft, machines: e.target.checked ? [...rest, m.id] : rest });
                  }}
                />
              }
            />
          ))}
        </Box>
      )}
      <Box
        sx={{
          display: "grid",
          gap: 3,
          gridTemplateColumns: { md: "minmax(0, 1fr) minmax(0, 1.3fr)" },
        }}
      >
        <Box>
          <PartPicture kinds={forms.features} pick={add} />
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
            {forms.features.map((f) => (
              <Button
                key={f.kind}
                size="small"
                variant="outlined"
                disabled={draft.features.length >= forms.most_features}
                onClick={() => add(f.kind)}
              >
                {f.title}
              </Button>
            ))}
          </Box>
          <Box aria-live="polite" sx={{ mt: 2 }}>
            {fit && !looked.error && (
              <>
                <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
                  <AnswerMark answer={fit.answer} />
                  {on && <span>on {on}</span>}
                </Box>
                <Typography>{say(fit.sentence)}</Typography>
              </>
            )}
            {draft.features.length === 0 && (
              <Typography>No feature yet: press what your part has.</Typography>
            )}
          </Box>
        </Box>
        <Box>
          {draft.features.map((f, i) => (
            <One
              key={f.id}
              piece={f}
              i={i}
              form={forms.features.find((k) => k.kind === f.kind)}
              fit={fit}
              problem={refused}
              open={open === f.id}
              toggle={() => setOpen(open === f.id ? null : f.id)}
              follow={(values) => change(f.id, (p) => [{ ...p, values }])}
              copy={() => change(f.id, (p) => [p, { ...p, id: uuid() }])}
              remove={() => change(f.id, () => [])}
            />
          ))}
        </Box>
      </Box>
      {save.error && (elsewhere.length > 0 || save.error.errors.length === 0) && (
        <Remark tone="error" role="alert">
          {elsewhere[0]?.message ?? save.error.message}
        </Remark>
      )}
      {save.error?.errors.some((e) => e.field.startsWith("spec.features.")) && (
        <Remark tone="error" role="alert">
          A feature cannot be used as it is; it says why.
        </Remark>
      )}
      <Box sx={{ display: "flex", gap: 1, mt: 2 }}>
        <Button
          variant="contained"
          size="large"
          disabled={save.isPending}
          onClick={() => save.mutate(undefined, { onSuccess: (j) => go(`/jobs/${j.id}`) })}
        >
          {job ? "Keep the changes" : "Keep the job"}
        </Button>
        <Button onClick={() => go(job ? `/jobs/${job.id}` : `/w/${workshopId}/jobs`)}>
          Leave it
        </Button>
      </Box>
    </Box>
  );
}

/** Sizes that were emptied are sent as that, so that the server asks for them; a tolerance that is
 * emptied asks for nothing. */
function emptied(schema: Schema): JsonObject {
  const found: JsonObject = {};
  for (const field of fieldsOf(schema))
    if (field.kind === "length" && !field.name.endsWith("_tol_mm")) found[field.name] = "";
  return found;
}

function One({
  piece: f,
  i,
  form,
  fit,
  problem,
  open,
  toggle,
  follow,
  copy,
  remove,
}: {
  piece: Piece;
  i: number;
  form?: Schemas["FeatureForm"];
  fit?: Fit | null;
  problem: ApiProblem | null;
  open: boolean;
  toggle: () => void;
  follow: (values: JsonObject) => void;
  copy: () => void;
  remove: () => void;
}) {
  const [start] = useState(f.values);
  // once opened it stays, with what is typed in it
  const [seen, setSeen] = useState(open);
  if (open && !seen) setSeen(true);
  const at = `spec.features.${i}`;
  const errors = (problem?.errors ?? []).filter(
    (e) => e.field === at || e.field.startsWith(`${at}.`),
  );
  const own = errors.length ? new ApiProblem(422, "", problem?.message ?? "", errors) : null;
  const told = own ? undefined : fit?.features[i];
  const schema = form?.form_schema as Schema;
  const typed = (values: JsonObject) => follow({ ...emptied(schema), ...values });
  const name = String(f.values.name ?? "").trim() || form?.title || f.kind;
  return (
    <Box
      component="section"
      aria-label={name}
      sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, py: 0.5 })}
    >
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, flexWrap: "wrap" }}>
        <Button
          color="inherit"
          onClick={toggle}
          aria-expanded={open}
          sx={{ flex: 1, justifyContent: "flex-start", textAlign: "left", px: 0.5 }}
        >
          {open ? "▾" : "▸"} {name}
        </Button>
        {own ? <span>{own.errors[0]?.message}</span> : told && <AnswerMark answer={told.answer} />}
      </Box>
      {seen && form && (
        <Box sx={{ pb: 1.5, display: open ? "block" : "none" }}>
          <Typography sx={{ color: "text.secondary", mb: 1.5 }}>{form.says}</Typography>
          <SchemaForm
            schema={form.form_schema as Schema}
            values={start}
            prefix={`${at}.`}
            problem={own}
            mine={(field) => field === at}
            onChange={typed}
            onSubmit={typed}
          />
          <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
            <Button size="small" onClick={copy}>
              Another like it
            </Button>
            <Button size="small" onClick={remove}>
              Take it off
            </Button>
          </Box>
        </Box>
      )}
    </Box>
  );
}
