import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import type { ApiProblem, Schemas, Words } from "../../api/client";
import { SchemaForm } from "../../parts/SchemaForm";
import type { JsonObject } from "../../parts/schema";
import { Remark } from "../../parts/Waiting";

interface Item {
  id: string;
  name: string;
  type: string;
  type_title: string;
  spec: JsonObject;
  shown: Record<string, Words>;
  archived: boolean;
}

interface Body {
  name: string;
  spec: JsonObject;
}

/** One sort of kit: what there is, what was put away, and the forms to add and to correct. */
export function Shelf<T extends Item>(props: {
  title: string;
  id: string;
  items: T[];
  forms: Schemas["KitForm"][];
  write: boolean;
  detail: (item: T) => ReactNode;
  keep: (item: T | null, body: Body) => Promise<unknown>;
  archive: (item: T) => Promise<unknown>;
  changed: () => void;
}) {
  const { items, forms, write } = props;
  const [adding, setAdding] = useState<string | null>(null);
  const [changing, setChanging] = useState<T | null>(null);
  const archive = useMutation<unknown, ApiProblem, T>({
    mutationFn: props.archive,
    onSuccess: props.changed,
  });
  const form = forms.find((f) => f.type === (changing?.type ?? adding));
  const stop = () => {
    setAdding(null);
    setChanging(null);
  };
  return (
    <Box component="section" aria-labelledby={props.id} sx={{ mb: 5 }}>
      <Typography id={props.id} variant="h1" sx={{ mb: 1 }}>
        {props.title}
      </Typography>
      {items.length === 0 && <Typography>Nothing here yet.</Typography>}
      {items.map((item) => (
        <Box
          key={item.id}
          sx={(t) => ({
            borderTop: `1px solid ${t.palette.rule}`,
            py: 1,
            display: "grid",
            columnGap: 2,
            alignItems: "center",
            color: item.archived ? "text.secondary" : "text.primary",
            gridTemplateColumns: { xs: "1fr auto", sm: "minmax(0, 1fr) minmax(0, 1.1fr) auto" },
          })}
        >
          <Box>
            <b>{item.name}</b>
            <Box sx={{ color: "text.secondary" }}>
              {item.type_title}
              {item.archived && ", put away"}
            </Box>
          </Box>
          <Box sx={{ gridRow: { xs: 2, sm: "auto" } }}>{props.detail(item)}</Box>
          {write && (
            <Box sx={{ display: "flex" }}>
              {!item.archived && (
                <Button
                  size="small"
                  onClick={() => setChanging(item)}
                  aria-label={`Change ${item.name}`}
                >
                  Change
                </Button>
              )}
              <Button
                size="small"
                disabled={archive.isPending}
                onClick={() => archive.mutate(item)}
                aria-label={`${item.archived ? "Take out again" : "Put away"}: ${item.name}`}
              >
                {item.archived ? "Take out again" : "Put away"}
              </Button>
            </Box>
          )}
        </Box>
      ))}
      {archive.error && (
        <Remark tone="error" role="alert">
          {archive.error.message}
        </Remark>
      )}
      {write && !form && (
        <Box sx={{ mt: 2, display: "flex", flexWrap: "wrap", gap: 1 }}>
          {forms.map((f) => (
            <Button key={f.type} variant="outlined" size="small" onClick={() => setAdding(f.type)}>
              Add: {f.title.toLowerCase()}
            </Button>
          ))}
        </Box>
      )}
      {form && (
        <ItemForm
          key={changing?.id ?? form.type}
          id={props.id}
          form={form}
          item={changing}
          keep={(body) => props.keep(changing, body)}
          kept={() => {
            props.changed();
            stop();
          }}
          leave={stop}
        />
      )}
    </Box>
  );
}

export function ItemForm({
  id,
  form,
  item,
  keep,
  kept,
  leave,
  aside,
}: {
  id: string;
  form: Schemas["KitForm"];
  item: Item | null;
  keep: (body: Body) => Promise<unknown>;
  kept: () => void;
  leave: () => void;
  /** Beside another form, whose button is the one to press. */
  aside?: boolean;
}) {
  const [name, setName] = useState(item?.name ?? "");
  const save = useMutation<unknown, ApiProblem, JsonObject>({
    mutationFn: (fields) => keep({ name, spec: { ...fields, type: form.type } }),
    onSuccess: kept,
  });
  const nameError = save.error?.errors.find((e) => e.field === "name");
  return (
    <Box sx={{ mt: 3 }}>
      <Typography variant="h2" sx={{ mb: 2 }}>
        {item ? `Change ${item.name}` : form.title}
      </Typography>
      <SchemaForm
        schema={form.form_schema}
        values={item?.spec}
        shown={item?.shown ?? form.shown}
        proposed={!item}
        prefix="spec."
        problem={save.error}
        busy={save.isPending}
        submit={item ? "Keep the changes" : "Add it"}
        aside={aside}
        onSubmit={(fields) => save.mutate(fields)}
        before={
          <TextField
            id={`${id}-name`}
            label="Name"
            value={name}
            onChange={(e) => setName(e.target.value)}
            error={nameError !== undefined}
            helperText={nameError?.message}
            sx={{ mb: 2 }}
          />
        }
      />
      <Button onClick={leave}>Leave it</Button>
    </Box>
  );
}
