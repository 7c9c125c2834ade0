import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useParams } from "react-router";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, useKit } from "../../api/queries";
import { SchemaForm } from "../../parts/SchemaForm";
import { type JsonObject, withUnit } from "../../parts/schema";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";

type Kit = Schemas["KitOut"];
type Instrument = Schemas["InstrumentOut"];

export default function KitScreen() {
  const { workshopId = "" } = useParams();
  const kit = useKit(workshopId);
  if (kit.isPending) return <Loading />;
  if (kit.isError) return <Failed problem={kit.error} again={() => void kit.refetch()} />;
  return (
    <Box
      sx={{
        maxWidth: 1100,
        mx: "auto",
        px: 2,
        py: 3,
        display: "grid",
        gap: 5,
        gridTemplateColumns: { md: "1.3fr 1fr" },
      }}
    >
      <Instruments kit={kit.data} workshopId={workshopId} />
      <Shims kit={kit.data} workshopId={workshopId} />
    </Box>
  );
}

function Instruments({ kit, workshopId }: { kit: Kit; workshopId: string }) {
  const { say } = useSettings();
  const [adding, setAdding] = useState<string | null>(null);
  const [changing, setChanging] = useState<Instrument | null>(null);
  const form = kit.forms.find((f) => f.type === (changing?.type ?? adding));
  const stop = () => {
    setAdding(null);
    setChanging(null);
  };
  return (
    <Box component="section" aria-labelledby="instruments">
      <Typography id="instruments" variant="h1" sx={{ mb: 1 }}>
        Instruments
      </Typography>
      {kit.instruments.map((instrument) => (
        <Box
          key={instrument.id}
          sx={(t) => ({
            borderTop: `1px solid ${t.palette.rule}`,
            py: 1,
            display: "flex",
            gap: 2,
            alignItems: "center",
          })}
        >
          <Box sx={{ flex: 1 }}>
            <b>{instrument.name}</b>
            <Box sx={{ color: "text.secondary" }}>{instrument.type_title}</Box>
          </Box>
          <Box sx={{ fontFamily: mono }}>reads {say(instrument.reads)}</Box>
          {kit.can_write && (
            <Button
              size="small"
              onClick={() => setChanging(instrument)}
              aria-label={`Change ${instrument.name}`}
            >
              Change
            </Button>
          )}
        </Box>
      ))}
      {kit.can_write && !form && (
        <Box sx={{ mt: 2, display: "flex", flexWrap: "wrap", gap: 1 }}>
          {kit.forms.map((f) => (
            <Button key={f.type} variant="outlined" size="small" onClick={() => setAdding(f.type)}>
              Add: {f.title.toLowerCase()}
            </Button>
          ))}
        </Box>
      )}
      {form && (
        <InstrumentForm
          key={changing?.id ?? form.type}
          form={form}
          workshopId={workshopId}
          instrument={changing}
          done={stop}
        />
      )}
    </Box>
  );
}

function InstrumentForm({
  form,
  workshopId,
  instrument,
  done,
}: {
  form: Schemas["InstrumentForm"];
  workshopId: string;
  instrument: Instrument | null;
  done: () => void;
}) {
  const [name, setName] = useState(instrument?.name ?? "");
  const client = useQueryClient();
  const save = useMutation<Instrument, ApiProblem, JsonObject>({
    mutationFn: (fields) => {
      const body = { name, spec: { ...fields, type: form.type } };
      return instrument
        ? told(
            api.PUT("/api/v1/instruments/{instrument_id}", {
              params: { path: { instrument_id: instrument.id } },
              body,
            }),
          )
        : told(
            api.POST("/api/v1/workshops/{workshop_id}/instruments", {
              params: { path: { workshop_id: workshopId } },
              body,
            }),
          );
    },
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: keys.kit(workshopId) });
      done();
    },
  });
  const nameError = save.error?.errors.find((e) => e.field === "name");
  return (
    <Box sx={{ mt: 3 }}>
      <Typography variant="h2" sx={{ mb: 2 }}>
        {instrument ? `Change ${instrument.name}` : form.title}
      </Typography>
      <SchemaForm
        schema={form.form_schema}
        values={instrument?.spec}
        shown={instrument?.shown ?? form.shown}
        prefix="spec."
        problem={save.error}
        busy={save.isPending}
        submit={instrument ? "Keep the changes" : "Add it"}
        onSubmit={(fields) => save.mutate(fields)}
        before={
          <TextField
            id="instrument-name"
            label="Name"
            value={name}
            onChange={(e) => setName(e.target.value)}
            error={nameError !== undefined}
            helperText={nameError?.message}
            sx={{ mb: 2 }}
          />
        }
      />
      <Button onClick={done}>Leave it</Button>
    </Box>
  );
}

function Shims({ kit, workshopId }: { kit: Kit; workshopId: string }) {
  const { say, system } = useSettings();
  const client = useQueryClient();
  const fresh = () => client.invalidateQueries({ queryKey: keys.kit(workshopId) });
  const add = useMutation<Schemas["ShimOut"], ApiProblem, Schemas["ShimIn"]>({
    mutationFn: (body) =>
      told(
        api.POST("/api/v1/workshops/{workshop_id}/shims", {
          params: { path: { workshop_id: workshopId } },
          body,
        }),
      ),
    onSuccess: fresh,
  });
  const change = useMutation<
    Schemas["ShimOut"],
    ApiProblem,
    { id: string; body: Schemas["ShimIn"] }
  >({
    mutationFn: ({ id, body }) =>
      told(api.PUT("/api/v1/shims/{shim_id}", { params: { path: { shim_id: id } }, body })),
    onSuccess: fresh,
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const data = new FormData(form);
    const text = (key: string) => String(data.get(key) ?? "");
    add.mutate(
      {
        thickness_mm: withUnit(text("thickness_mm"), system),
        count: Number(text("count")) || 0,
        material: text("material"),
        tolerance_mm: 0.003,
      },
      { onSuccess: () => form.reset() },
    );
  };
  const at = (field: string) => {
    const found = add.error?.errors.find((e) => e.field === field);
    return {
      error: found !== undefined,
      helperText: found ? `${found.message} ${found.expected}` : undefined,
    };
  };
  return (
    <Box component="section" aria-labelledby="shims">
      <Typography id="shims" variant="h1" sx={{ mb: 1 }}>
        Shim stock
      </Typography>
      {kit.shims.map((shim) => {
        const count = (to: number) =>
          change.mutate({
            id: shim.id,
            body: {
              thickness_mm: shim.thickness_mm,
              count: to,
              material: shim.material,
              tolerance_mm: 0.003,
            },
          });
        return (
          <Box
            key={shim.id}
            sx={(t) => ({
              borderTop: `1px solid ${t.palette.rule}`,
              display: "flex",
              gap: 1,
              alignItems: "center",
              minHeight: 52,
            })}
          >
            <Box sx={{ fontFamily: mono, minWidth: 96 }}>{say(shim.words)}</Box>
            <Box sx={{ flex: 1, color: "text.secondary" }}>{shim.material}</Box>
            {kit.can_write && (
              <Button
                size="small"
                disabled={shim.count === 0}
                onClick={() => count(shim.count - 1)}
                aria-label={`One less of ${say(shim.words)}`}
              >
                −
              </Button>
            )}
            <Box sx={{ minWidth: 64, textAlign: "center" }}>{shim.count} pcs</Box>
            {kit.can_write && (
              <Button
                size="small"
                onClick={() => count(shim.count + 1)}
                aria-label={`One more of ${say(shim.words)}`}
              >
                +
              </Button>
            )}
          </Box>
        );
      })}
      {kit.can_write && (
        <Box
          component="form"
          noValidate
          onSubmit={submit}
          sx={{ mt: 2, display: "grid", gap: 1.5, gridTemplateColumns: "1fr 1fr" }}
        >
          <TextField
            name="thickness_mm"
            id="thickness"
            label={`Thickness (${system === "metric" ? "mm" : "in"})`}
            {...at("thickness_mm")}
          />
          <TextField name="count" id="count" label="Pieces" defaultValue="1" {...at("count")} />
          <TextField name="material" id="material" label="Material" />
          <Button type="submit" variant="outlined" disabled={add.isPending}>
            Put in the tin
          </Button>
        </Box>
      )}
      {(change.error ?? (add.error?.errors.length === 0 ? add.error : null)) && (
        <Remark tone="error" role="alert">
          {(change.error ?? add.error)?.message}
        </Remark>
      )}
    </Box>
  );
}
