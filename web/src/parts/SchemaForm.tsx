/** A form drawn from a model's JSON schema and its hints; the server parses and checks every field. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import {
  type ContextType,
  type ReactNode,
  useEffect,
  useId,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { FormProvider, useForm } from "react-hook-form";
import { type ApiProblem, type FieldError, inFull, type Words } from "../api/client";
import { useSettings } from "../settings";
import { Fields, Folding, FormId } from "./SchemaFields";
import {
  carried,
  drawnAt,
  exactly,
  fieldsOf,
  initialValues,
  type JsonObject,
  payload,
  type Schema,
} from "./schema";
import { Remark } from "./Waiting";

export interface SchemaFormProps {
  schema: Schema;
  values?: JsonObject | null;
  /** When the values become others, whatever nobody has touched becomes what they are. */
  follows?: boolean;
  shown?: Record<string, Words>;
  /** Nobody has stated these: what is sent is what is read, round as it is. */
  proposed?: boolean;
  omit?: string[];
  /** Parts that the machine has; fields that need another are not asked. */
  has?: string[];
  problem?: ApiProblem | null;
  /** What the server puts before a field's name, such as "setup.". */
  prefix?: string;
  /** Fields that whoever draws this form shows the refusal of. */
  mine?: (field: string) => boolean;
  /** Without it there is no button: whoever draws this form follows its changes. */
  submit?: string;
  /** Beside another form's button, which is the one to press. */
  aside?: boolean;
  busy?: boolean;
  disabled?: boolean;
  onSubmit: (values: JsonObject) => void;
  onChange?: (values: JsonObject) => void;
  before?: ReactNode;
  after?: ReactNode;
  /** Rows that come from elsewhere, such as drawn ones; each is put in once, after what stands there. */
  more?: { at: string; rows: JsonObject[] };
  /** Parts that stand open, where the form folds its parts away; without it they are all open. */
  folding?: ContextType<typeof Folding>;
}

export function SchemaForm(props: SchemaFormProps) {
  const { schema, values, shown, omit = [], has, problem, prefix = "", mine, onChange } = props;
  const { system } = useSettings();
  const id = useId();
  const begun = () => initialValues(schema, values ?? {}, shown ?? {}, system, omit);
  const given = props.follows ? JSON.stringify(values) : "";
  const [stood, setStood] = useState(() => ({ system, given, values: begun() }));
  const form = useForm<JsonObject>({ defaultValues: stood.values });
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each change of the units or of what is followed
  useLayoutEffect(() => {
    if (stood.system === system && stood.given === given) return;
    const anew = begun();
    const from = stood.system === system ? null : stood.system;
    form.reset(carried(schema, form.getValues(), stood.values, anew, from), { keepErrors: true });
    setStood({ system, given, values: anew });
  }, [system, given]);
  const { setError, clearErrors, watch } = form;
  const put = useRef(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each row that comes
  useEffect(() => {
    const { at = "", rows = [] } = props.more ?? {};
    const inner = fieldsOf(schema).find((f) => f.name === at)?.inner;
    const fresh = rows.slice(put.current);
    put.current = rows.length;
    if (!inner || fresh.length === 0) return;
    const stand = fresh.map((row) => initialValues(schema, row, {}, system, [], inner));
    form.setValue(at, [...(form.getValues(at) ?? []), ...stand]);
  }, [props.more?.rows]);
  const [lost, setLost] = useState<FieldError[]>([]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each answer of the server
  useEffect(() => {
    clearErrors();
    const nowhere: FieldError[] = [];
    let first = true;
    for (const error of problem?.errors ?? []) {
      const path = error.field.startsWith(prefix) ? error.field.slice(prefix.length) : "";
      const name = path && drawnAt(schema, path, form.getValues(), { omit, has });
      if (!name) {
        if (!mine?.(error.field)) nowhere.push(error);
        continue;
      }
      setError(name, { message: inFull(error) }, { shouldFocus: first });
      first = false;
    }
    setLost(nowhere);
  }, [problem]);
  const kept = useMemo(() => (props.proposed ? {} : exactly(shown ?? {})), [shown, props.proposed]);
  useEffect(() => {
    if (!onChange) return;
    const watching = watch((all) => onChange(payload(schema, all as JsonObject, system, kept)));
    return () => watching.unsubscribe();
  }, [watch, onChange, schema, system, kept]);
  return (
    <FormProvider {...form}>
      <Box
        component="form"
        noValidate
        onSubmit={(event) => {
          // what the server said of the last try must not stand in the way of this one
          clearErrors();
          void form.handleSubmit((all) => props.onSubmit(payload(schema, all, system, kept)))(
            event,
          );
        }}
      >
        {props.before}
        <FormId value={id}>
          <Folding value={props.folding ?? null}>
            <Fields schema={schema} omit={omit} has={has} disabled={props.disabled} />
          </Folding>
        </FormId>
        {props.after}
        {problem && (problem.errors.length === 0 || lost.length > 0) && (
          <Remark tone="error" role="alert">
            {lost.length > 0 ? lost.map(inFull).join(" ") : problem.message}
          </Remark>
        )}
        {props.submit && (
          <Button
            type="submit"
            variant={props.aside ? "outlined" : "contained"}
            size={props.aside ? "medium" : "large"}
            disabled={props.busy || props.disabled}
            sx={{ mt: 2 }}
          >
            {props.submit}
          </Button>
        )}
      </Box>
    </FormProvider>
  );
}
