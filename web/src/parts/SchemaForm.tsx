/** A form drawn from a model's JSON schema and its hints; the server parses and checks every field. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type ReactNode, useEffect } from "react";
import { FormProvider, useForm } from "react-hook-form";
import type { ApiProblem, Words } from "../api/client";
import { useSettings } from "../settings";
import { Fields } from "./SchemaFields";
import { initialValues, type JsonObject, payload, type Schema } from "./schema";
import { Remark } from "./Waiting";

export interface SchemaFormProps {
  schema: Schema;
  values?: JsonObject | null;
  shown?: Record<string, Words>;
  omit?: string[];
  /** Parts that the machine has; fields that need another are not asked. */
  has?: string[];
  problem?: ApiProblem | null;
  /** What the server puts before a field's name, such as "setup.". */
  prefix?: string;
  submit: string;
  busy?: boolean;
  disabled?: boolean;
  onSubmit: (values: JsonObject) => void;
  onChange?: (values: JsonObject) => void;
  before?: ReactNode;
  after?: ReactNode;
}

export function SchemaForm(props: SchemaFormProps) {
  const { schema, values, shown, omit = [], has, problem, prefix = "", onChange } = props;
  const { system } = useSettings();
  const form = useForm<JsonObject>({
    defaultValues: initialValues(schema, values ?? {}, shown ?? {}, system, omit),
  });
  const { setError, clearErrors, watch } = form;
  const lost = (problem?.errors ?? []).filter((e) => !e.field.startsWith(prefix) || e.field === "");
  useEffect(() => {
    clearErrors();
    let first = true;
    for (const error of problem?.errors ?? []) {
      if (!error.field.startsWith(prefix)) continue;
      const name = error.field.slice(prefix.length);
      const message = [error.message, error.expected].filter(Boolean).join(" ");
      setError(name, { message }, { shouldFocus: first });
      first = false;
    }
  }, [problem, prefix, setError, clearErrors]);
  useEffect(() => {
    if (!onChange) return;
    const watching = watch((all) => onChange(payload(schema, all as JsonObject, system)));
    return () => watching.unsubscribe();
  }, [watch, onChange, schema, system]);
  return (
    <FormProvider {...form}>
      <Box
        component="form"
        noValidate
        onSubmit={form.handleSubmit((all) => props.onSubmit(payload(schema, all, system)))}
      >
        {props.before}
        <Fields schema={schema} omit={omit} has={has} disabled={props.disabled} />
        {props.after}
        {problem && (problem.errors.length === 0 || lost.length > 0) && (
          <Remark tone="error" role="alert">
            {lost[0] ? `${lost[0].message} ${lost[0].expected}` : problem.message}
          </Remark>
        )}
        <Button
          type="submit"
          variant="contained"
          size="large"
          disabled={props.busy || props.disabled}
          sx={{ mt: 2 }}
        >
          {props.submit}
        </Button>
      </Box>
    </FormProvider>
  );
}
