import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import FormHelperText from "@mui/material/FormHelperText";
import MenuItem from "@mui/material/MenuItem";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { createContext, memo, type ReactNode, useContext, useState } from "react";
import { get, useFieldArray, useFormContext, useWatch } from "react-hook-form";
import { useSettings } from "../settings";
import {
  type FieldSpec,
  fieldsOf,
  initialValues,
  isAsked,
  isBare,
  type JsonObject,
  type Schema,
  UNIT,
} from "./schema";

/** Which parts of a form that folds them away stand open, and how one is opened or closed. */
export const Folding = createContext<{
  open: string[];
  set: (name: string, open: boolean) => void;
} | null>(null);

/** What every field's id on the page begins with: several forms may ask for the same thing. */
export const FormId = createContext("");

/** A part of a form: folded away where the form folds, and open where something is wrong in it. */
function Folded({
  name,
  title,
  state,
  wrong,
  children,
}: {
  name: string;
  title: string;
  /** What is said of it while it is closed. */
  state: string;
  wrong: boolean;
  children: ReactNode;
}) {
  const folding = useContext(Folding);
  if (!folding || name.includes(".")) return children;
  return (
    <Box
      component="details"
      id={`part-${name}`}
      open={wrong || folding.open.includes(name)}
      onToggle={(e) => folding.set(name, (e.currentTarget as HTMLDetailsElement).open)}
      sx={(t) => ({ gridColumn: "1 / -1", borderTop: `1px solid ${t.palette.rule}` })}
    >
      <Box
        component="summary"
        sx={{ cursor: "pointer", minHeight: 48, alignContent: "center", fontWeight: 600 }}
      >
        {title}
        <Box component="span" sx={{ color: "text.secondary", fontWeight: 400 }}>
          {" "}
          · {state}
        </Box>
      </Box>
      <Box sx={{ pb: 2 }}>{children}</Box>
    </Box>
  );
}

interface FieldsProps {
  schema: Schema;
  inner?: Schema;
  path?: string;
  omit?: string[];
  has?: string[];
  disabled?: boolean;
}

/** Every field of a schema; those with sensible values fold away. */
export function Fields({
  schema,
  inner = schema,
  path = "",
  omit = [],
  has,
  disabled,
}: FieldsProps) {
  const here = (useWatch((path ? { name: path.slice(0, -1) } : {}) as { name: string }) ??
    {}) as JsonObject;
  const { formState } = useFormContext();
  const asked = fieldsOf(schema, inner).filter(
    (f) => !omit.includes(f.name) && isAsked(f, here, has),
  );
  const row = (f: FieldSpec) => (
    <Field key={f.name} schema={schema} spec={f} name={`${path}${f.name}`} disabled={disabled} />
  );
  const folding = useContext(Folding);
  // what it lacks when the form is opened stays where it is, also once it is switched on
  const [lacks] = useState(() =>
    folding && path === ""
      ? asked.filter((f) => f.kind === "part" && here[`has_${f.name}`] !== true).map((f) => f.name)
      : [],
  );
  const plain = asked.filter((f) => !f.advanced && !lacks.includes(f.name));
  const advanced = asked.filter((f) => f.advanced);
  const lacking = asked.filter((f) => lacks.includes(f.name));
  return (
    <Box sx={COLUMNS}>
      {plain.map(row)}
      {advanced.length > 0 && (
        <Box component="details" sx={{ gridColumn: "1 / -1" }}>
          <Box
            component="summary"
            sx={{ cursor: "pointer", minHeight: 32, color: "text.secondary" }}
          >
            More
          </Box>
          <Box sx={{ ...COLUMNS, pt: 1 }}>{advanced.map(row)}</Box>
        </Box>
      )}
      {lacking.length > 0 && (
        <Folded
          name="lacking"
          title="Parts it does not have"
          state={`${lacking.length}`}
          wrong={lacking.some((f) => get(formState.errors, f.name) !== undefined)}
        >
          <Box sx={COLUMNS}>{lacking.map(row)}</Box>
        </Folded>
      )}
    </Box>
  );
}

const COLUMNS = {
  display: "grid",
  gap: 2,
  gridTemplateColumns: "repeat(auto-fill, minmax(220px, 1fr))",
};

interface FieldProps {
  schema: Schema;
  spec: FieldSpec;
  name: string;
  disabled?: boolean;
}

/** One field, and what is in it. What is typed in another draws it anew no more. */
const Field = memo((props: FieldProps) => {
  const { spec, name, disabled } = props;
  const { register, formState, setValue, clearErrors } = useFormContext();
  const set = (to: unknown) => {
    setValue(name, to);
    clearErrors(name);
  };
  const value = useWatch({ name });
  const by = `${name.slice(0, name.length - spec.name.length)}${spec.only?.by ?? spec.name}`;
  const beside = useWatch({ name: by }) as string;
  const { system, say } = useSettings();
  const id = `${useContext(FormId)}${name}`;
  const error = (get(formState.errors, name) as { message?: string } | undefined)?.message;
  if (spec.kind === "part") return <Part {...props} error={error} />;
  if (spec.kind === "rows") return <Rows {...props} error={error} />;
  if (spec.kind === "switch")
    return (
      <Box>
        <FormControlLabel
          label={spec.title}
          control={
            <Switch
              checked={value === true}
              disabled={disabled}
              onChange={(e) => set(e.target.checked)}
              slotProps={{
                input: { "aria-describedby": `${id}-said`, "aria-invalid": error !== undefined },
              }}
            />
          }
        />
        <FormHelperText id={`${id}-said`} error={error !== undefined}>
          {error ?? say(spec.prompt)}
        </FormHelperText>
      </Box>
    );
  const shared = {
    label: spec.title,
    disabled,
    error: error !== undefined,
    helperText: error ?? say(spec.prompt),
  };
  if (spec.kind === "choices") {
    const picked = (value ?? []) as string[];
    const offered = spec.only ? (spec.only.keys[beside] ?? []) : Object.keys(spec.labels);
    return (
      <Box component="fieldset" sx={{ gridColumn: "1 / -1", border: 0, p: 0, m: 0, minWidth: 0 }}>
        <Box component="legend" sx={{ color: "text.secondary", p: 0 }}>
          {spec.title}
        </Box>
        {offered.length === 0 && <Typography>Nothing of the sort in the kit yet.</Typography>}
        <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2 }}>
          {offered.map((key) => (
            <FormControlLabel
              key={key}
              label={spec.labels[key]}
              control={
                <Checkbox
                  checked={picked.includes(key)}
                  disabled={disabled}
                  onChange={(e) =>
                    // in the order in which they stand, whichever was ticked first
                    set(offered.filter((k) => (k === key ? e.target.checked : picked.includes(k))))
                  }
                />
              }
            />
          ))}
        </Box>
        <FormHelperText error={error !== undefined} role={error ? "alert" : undefined}>
          {error ?? say(spec.prompt)}
        </FormHelperText>
      </Box>
    );
  }
  if (spec.kind === "choice")
    return (
      <TextField
        {...shared}
        select
        value={value ?? ""}
        onChange={(e) => {
          set(e.target.value);
          const beside = name.slice(0, name.length - spec.name.length);
          for (const [field, text] of Object.entries(spec.fills?.[e.target.value] ?? {})) {
            setValue(`${beside}${field}`, typeof text === "string" ? text : text[system]);
            clearErrors(`${beside}${field}`);
          }
        }}
        slotProps={{
          select: { inputProps: { id }, displayEmpty: "" in spec.labels },
          inputLabel: { htmlFor: id, shrink: "" in spec.labels || undefined },
        }}
      >
        {Object.entries(spec.labels).map(([key, label]) => (
          <MenuItem key={key} value={key}>
            {label}
          </MenuItem>
        ))}
      </TextField>
    );
  // beside a bare number stands the unit that it takes; a typed one speaks for itself
  const bare = (spec.kind === "length" || spec.kind === "lengths") && isBare(value ?? "");
  const unit = bare ? UNIT[system] : "";
  return (
    <TextField
      {...shared}
      {...register(name)}
      id={id}
      type={spec.kind === "date" ? "date" : "text"}
      autoComplete="off"
      multiline={spec.kind === "lines"}
      minRows={spec.kind === "lines" ? 2 : undefined}
      sx={spec.kind === "lines" ? { gridColumn: "1 / -1" } : undefined}
      slotProps={{
        htmlInput: { inputMode: spec.kind === "integer" ? "numeric" : undefined },
        input: unit
          ? { endAdornment: <Box sx={{ color: "text.secondary" }}>{unit}</Box> }
          : undefined,
        inputLabel: { shrink: true },
      }}
    />
  );
});

function Part({ schema, spec, name, disabled, error }: FieldProps & { error?: string }) {
  const { setValue, formState } = useFormContext();
  const cut = name.lastIndexOf(".") + 1;
  const has = `${name.slice(0, cut)}has_${name.slice(cut)}`;
  const on = useWatch({ name: has }) === true;
  if (!spec.inner) return null;
  return (
    <Folded
      name={name}
      title={spec.title}
      state={on ? "as described" : "it has none"}
      wrong={get(formState.errors, name) !== undefined}
    >
      <Box component="fieldset" sx={{ gridColumn: "1 / -1", border: 0, p: 0, m: 0, minWidth: 0 }}>
        <FormControlLabel
          label={
            <Typography variant="h3" component="span">
              {spec.title}
            </Typography>
          }
          control={
            <Switch
              checked={on}
              disabled={disabled}
              onChange={(e) => setValue(has, e.target.checked)}
            />
          }
        />
        {error && (
          <Typography role="alert" sx={{ color: "error.main" }}>
            {error}
          </Typography>
        )}
        {on && (
          <Box sx={(t) => ({ borderLeft: `2px solid ${t.palette.rule}`, pl: 2, pt: 1 })}>
            <Fields schema={schema} inner={spec.inner} path={`${name}.`} disabled={disabled} />
          </Box>
        )}
      </Box>
    </Folded>
  );
}

function Rows({ schema, spec, name, disabled, error }: FieldProps & { error?: string }) {
  const { fields, append, remove } = useFieldArray({ name });
  const { formState } = useFormContext();
  const folded = useContext(Folding) !== null;
  const { system } = useSettings();
  const inner = spec.inner;
  if (!inner) return null;
  return (
    <Folded
      name={name}
      title={spec.title}
      state={fields.length ? `${fields.length}` : "none"}
      wrong={get(formState.errors, name) !== undefined}
    >
      <Box sx={{ gridColumn: "1 / -1" }}>
        {!folded && (
          <Typography variant="h3" component="h2" sx={{ mb: 1 }}>
            {spec.title}
          </Typography>
        )}
        {error && (
          <Typography role="alert" sx={{ color: "error.main" }}>
            {error}
          </Typography>
        )}
        {fields.map((row, i) => (
          <Box
            key={row.id}
            sx={(t) => ({
              display: "flex",
              gap: 1,
              mb: 2,
              pt: 2,
              alignItems: "start",
              borderTop: `1px solid ${t.palette.rule}`,
            })}
          >
            <Box sx={{ flex: 1 }}>
              <Fields schema={schema} inner={inner} path={`${name}.${i}.`} disabled={disabled} />
            </Box>
            <Button
              disabled={disabled}
              onClick={() => remove(i)}
              aria-label={`Remove ${spec.title.toLowerCase()} ${i + 1}`}
            >
              Remove
            </Button>
          </Box>
        ))}
        <Button
          variant="outlined"
          disabled={disabled}
          onClick={() => append(initialValues(schema, {}, {}, system, [], inner))}
        >
          Add
        </Button>
      </Box>
    </Folded>
  );
}
