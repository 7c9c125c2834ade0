import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { type ApiProblem, api, type CheckState, told } from "../api/client";
import { keys, type Machine, useMachine, useMachineForms } from "../api/queries";
import { GhostFigure } from "../figures/GhostFigure";
import { SchemaForm } from "./SchemaForm";
import type { JsonObject, Schema } from "./schema";
import { Failed, Loading } from "./Waiting";

/**
 * What of the machine's description this check reckons with, folded away: opened, its figures stand
 * beside the drawing of the part and are corrected there, without leaving the check.
 */
export function AsDescribed({ check }: { check: CheckState }) {
  const [looked, setLooked] = useState(false);
  if (check.goes_by.length === 0) return null;
  const named = check.goes_by.map((p) => `${p.title}${p.has ? "" : " (not described)"}`);
  return (
    <Box
      component="details"
      onToggle={(e) => (e.currentTarget as HTMLDetailsElement).open && setLooked(true)}
      sx={{ gridColumn: "1 / -1" }}
    >
      <Box component="summary" sx={{ cursor: "pointer", minHeight: 40, alignContent: "center" }}>
        What it goes by: {named.join(" · ")}
      </Box>
      {looked && <Parts check={check} />}
    </Box>
  );
}

function Parts({ check }: { check: CheckState }) {
  const machine = useMachine(check.machine_id);
  const forms = useMachineForms();
  if (machine.isPending || forms.isPending) return <Loading />;
  if (machine.isError) return <Failed problem={machine.error} />;
  if (forms.isError) return <Failed problem={forms.error} />;
  return <Correct check={check} machine={machine.data} whole={forms.data.form_schema} />;
}

function Correct({
  check,
  machine,
  whole,
}: {
  check: CheckState;
  machine: Machine;
  whole: Schema;
}) {
  const client = useQueryClient();
  // what others change while it is open is no part of what is typed in it
  const [began, setBegan] = useState<JsonObject>(machine.spec);
  const parts = check.goes_by.map((p) => p.key).join(" ");
  const schema = useMemo(() => only(whole, parts.split(" ")), [whole, parts]);
  const save = useMutation<Machine, ApiProblem, JsonObject>({
    mutationFn: (typed) =>
      told(
        api.PUT("/api/v1/machines/{machine_id}", {
          params: { path: { machine_id: machine.id } },
          body: {
            name: machine.name,
            spec: { ...began, ...typed },
            tolerances: {},
            was: { name: machine.name, spec: began, tolerances: {} },
          },
        }),
      ),
    onSuccess: (kept) => {
      // what is corrected next is corrected from here
      setBegan(kept.spec);
      client.setQueryData(keys.machine(kept.id), kept);
      for (const key of ["workshop", "check", "finding", "calendar"])
        void client.invalidateQueries({ queryKey: [key] });
      void client.invalidateQueries({ queryKey: [...keys.machine(kept.id), "sketches"] });
    },
  });
  return (
    <Box
      sx={{
        display: "grid",
        gap: 3,
        py: 1,
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "minmax(0, 1.6fr) minmax(0, 1fr)" },
      }}
    >
      <SchemaForm
        schema={schema}
        values={began}
        shown={machine.spec_shown}
        prefix="spec."
        problem={save.error}
        busy={save.isPending}
        disabled={!check.can_write}
        submit={check.can_write ? "Correct the description" : undefined}
        aside
        onSubmit={(typed) => save.mutate(typed)}
        after={
          <Box role="status">
            {save.isSuccess && <Typography>Corrected; figures and advice go by it now.</Typography>}
          </Box>
        }
      />
      <Box sx={{ height: { xs: 150, md: 240 }, gridRow: { xs: 1, md: "auto" } }}>
        <GhostFigure
          ghost={machine.ghost}
          factor={1}
          name={machine.name}
          views={["front", "plan"]}
          lit={parts.split(" ")}
        />
      </Box>
    </Box>
  );
}

/** The form of some parts of a machine alone. */
function only(whole: Schema, parts: string[]): Schema {
  const properties = (whole as JsonObject).properties as JsonObject;
  return {
    ...whole,
    properties: Object.fromEntries(parts.map((p) => [p, properties[p]])),
    required: [],
  } as Schema;
}
