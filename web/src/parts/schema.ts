/** Reading a JSON schema with form hints: which fields there are, and what to send. */
import type { Words } from "../api/client";

// biome-ignore lint/suspicious/noExplicitAny: JSON of any model
export type JsonObject = Record<string, any>;
export type Schema = JsonObject;

export interface FieldSpec {
  name: string;
  title: string;
  prompt: Words;
  kind:
    | "length"
    | "lengths"
    | "clocks"
    | "degrees"
    | "integer"
    | "number"
    | "choice"
    | "choices"
    | "switch"
    | "text"
    | "lines"
    | "date"
    | "rows"
    | "hidden"
    | "part";
  labels: Record<string, string>;
  /** What other fields are filled in with when one of the choice is picked. */
  fills?: Record<string, Record<string, Words | string>>;
  /** Which of the labels are offered while another field has a value. */
  only?: { by: string; keys: Record<string, string[]> };
  when?: Record<string, string[]>;
  needs?: string;
  advanced: boolean;
  fallback: unknown;
  /** Of a choice, what people who read in inches mostly take. */
  inch?: string;
  /** The schema of a part, or of one row. */
  inner?: Schema;
}

export function resolve(root: Schema, schema: Schema): Schema {
  if (typeof schema.$ref !== "string") return schema;
  return root.$defs?.[schema.$ref.split("/").pop() ?? ""] ?? {};
}

/** The fields of an object schema, in its order. */
export function fieldsOf(root: Schema, schema: Schema = root): FieldSpec[] {
  const known = drawn.get(root) ?? new WeakMap<Schema, FieldSpec[]>();
  drawn.set(root, known);
  const found = known.get(schema) ?? described(root, schema);
  known.set(schema, found);
  return found;
}

/** The fields of schemas, once made out: the same ones each time, so that a field that stays as it
 *  is need not be drawn anew. */
const drawn = new WeakMap<Schema, WeakMap<Schema, FieldSpec[]>>();

function described(root: Schema, schema: Schema): FieldSpec[] {
  return Object.entries<JsonObject>(schema.properties ?? {}).flatMap(([name, raw]) => {
    if (raw.const !== undefined) return [];
    const form: JsonObject = raw["x-form"] ?? {};
    const part = (raw.anyOf ?? []).find((option: JsonObject) => option.$ref);
    const kind: FieldSpec["kind"] = form.field ?? (part ? "part" : "text");
    const inner = part ? resolve(root, part) : raw.items ? resolve(root, raw.items) : undefined;
    return [
      {
        name,
        title: raw.title ?? name,
        prompt: { metric: form.prompt ?? "", inch: form.prompt_inch ?? form.prompt ?? "" },
        kind,
        labels: form.labels ?? {},
        fills: form.fills,
        only: form.only ? { by: form.sorted_by, keys: form.only } : undefined,
        when: form.when,
        needs: form.needs,
        advanced: form.advanced ?? false,
        fallback: raw.default,
        inch: form.inch,
        inner,
      },
    ];
  });
}

export type System = "metric" | "inch";

function text(value: unknown, field: FieldSpec, shown: Words | undefined, system: System): unknown {
  if (field.kind === "hidden") return value ?? field.fallback;
  if (field.kind === "switch") return value ?? field.fallback ?? false;
  if (field.kind === "choices") return value ?? field.fallback ?? [];
  if (field.kind === "choice") {
    const usual = system === "inch" ? field.inch : undefined;
    return value ?? usual ?? field.fallback ?? Object.keys(field.labels)[0];
  }
  if (shown) return shown[system];
  const given = value ?? field.fallback;
  if (given === undefined || given === null) return "";
  // defaults of the schema are in mm whatever the reader's system is, so they say so
  if (field.kind === "length") return typeof given === "string" ? given : `${given} mm`;
  if (Array.isArray(given)) return given.join(", ");
  return String(given);
}

/** What the form starts with; lengths as text in the reader's system. */
export function initialValues(
  root: Schema,
  values: JsonObject,
  shown: Record<string, Words>,
  system: System,
  omit: string[] = [],
  schema: Schema = root,
  path = "",
): JsonObject {
  const found: JsonObject = {};
  for (const field of fieldsOf(root, schema)) {
    if (omit.includes(field.name)) continue;
    const at = `${path}${field.name}`;
    const value = values[field.name];
    if (field.kind === "part" && field.inner) {
      found[`has_${field.name}`] = value !== null && value !== undefined;
      found[field.name] = initialValues(
        root,
        value ?? {},
        shown,
        system,
        [],
        field.inner,
        `${at}.`,
      );
    } else if (field.kind === "rows" && field.inner) {
      const inner = field.inner;
      found[field.name] = (value ?? []).map((row: JsonObject, i: number) =>
        initialValues(root, row, shown, system, [], inner, `${at}.${i}.`),
      );
    } else found[field.name] = text(value, field, shown[at], system);
  }
  return found;
}

/** Whether a form asks this now: for what the machine has, and for how the rest is filled in. */
export const isAsked = (f: FieldSpec, here: JsonObject, has?: string[]): boolean =>
  f.kind !== "hidden" &&
  (!f.needs || !has || has.includes(f.needs)) &&
  Object.entries(f.when ?? {}).every(([name, values]) => values.includes(here[name]));

/**
 * The drawn field that a server's dotted path is about, which may go deeper than any field does;
 * null where the form asks nothing of the sort.
 */
export function drawnAt(
  root: Schema,
  path: string,
  values: JsonObject,
  { omit = [], has }: { omit?: string[]; has?: string[] } = {},
  schema: Schema = root,
): string | null {
  const [name = "", ...deeper] = path.split(".");
  const field = fieldsOf(root, schema).find((f) => f.name === name && !omit.includes(name));
  if (!field || !isAsked(field, values, has)) return null;
  const inner = field.inner;
  const row = field.kind === "rows" ? deeper.slice(0, 1) : [];
  const rest = deeper.slice(row.length).join(".");
  if (!inner || rest === "" || (field.kind !== "part" && field.kind !== "rows")) return name;
  const below = row[0] === undefined ? values[name] : values[name]?.[row[0]];
  const found = drawnAt(root, rest, below ?? {}, {}, inner);
  return found === null ? name : [name, ...row, found].join(".");
}

/** What a bare length is in. */
export const UNIT: Record<System, string> = { metric: "mm", inch: "in" };

/** Whether what was typed names no unit. */
export const isBare = (typed: string): boolean => !/[a-zµ"″']/i.test(typed);

/** A bare length takes the unit that stands beside its field. */
export function withUnit(typed: string, system: System): string {
  const text = typed.trim();
  return text === "" || !isBare(text) ? text : `${text} ${UNIT[system]}`;
}

/**
 * What stands in a form when what it began with becomes something else, in its reader's other units
 * or because somebody else changed it: what was typed stays, with the unit that it was typed in,
 * `from`, where the units changed, and whatever is as it stood at first is told anew.
 */
export function carried(
  root: Schema,
  now: JsonObject,
  stood: JsonObject,
  anew: JsonObject,
  from: System | null,
  schema: Schema = root,
): JsonObject {
  const found: JsonObject = {};
  for (const { name, kind, inner } of fieldsOf(root, schema)) {
    const [typed, was, next] = [now[name], stood[name], anew[name]];
    if (typed === undefined) continue;
    if (kind === "part" && inner) {
      const has = `has_${name}`;
      found[has] = now[has] === stood[has] ? anew[has] : now[has];
      found[name] = carried(root, typed, was ?? {}, next ?? {}, from, inner);
    } else if (kind === "rows" && inner && from === null) {
      found[name] = together(typed, was ?? [], next ?? []);
    } else if (kind === "rows" && inner) {
      // of rows that came or went nobody knows which is which: all count as typed
      const same = typed.length === was?.length && typed.length === next?.length;
      found[name] = typed.map((row: JsonObject, i: number) =>
        carried(root, row, same ? was[i] : {}, same ? next[i] : {}, from, inner),
      );
    } else if (JSON.stringify(typed) === JSON.stringify(was)) found[name] = next;
    else if (from && (kind === "length" || kind === "lengths"))
      found[name] = withUnit(String(typed), from);
    else found[name] = typed;
  }
  return found;
}

/**
 * Rows that two have changed since they stood as they did: what either added is there, what either
 * took off is not, and one that was changed here stays, whatever became of it there.
 */
function together(now: JsonObject[], stood: JsonObject[], anew: JsonObject[]): JsonObject[] {
  const told = (rows: JsonObject[]) => new Set(rows.map((row) => JSON.stringify(row)));
  const [before, after] = [told(stood), told(anew)];
  const isIn = (rows: Set<string>, row: JsonObject) => rows.has(JSON.stringify(row));
  return [
    ...now.filter((row) => !isIn(before, row) || isIn(after, row)),
    ...anew.filter((row) => !isIn(before, row)),
  ];
}

/** A whole number that was typed; −1, which the server refuses at its field, for what is none. */
export const whole = (text: string): number => (/^\d+$/.test(text.trim()) ? Number(text) : -1);

/** Lengths as they stand in the record, by the rounded text that a form shows of them. */
export type Exactly = Record<string, string>;

/** To be sent for what nobody touched: a length does not change by being looked at in inches. */
export const exactly = (shown: Record<string, Words>): Exactly =>
  Object.fromEntries(Object.values(shown).map((words) => [words.inch, words.metric]));

/** What to send: texts with their unit, numbers as numbers, parts only where they are there. */
export function payload(
  root: Schema,
  values: JsonObject,
  system: System,
  kept: Exactly = {},
  schema: Schema = root,
): JsonObject {
  const sent: JsonObject = {};
  for (const field of fieldsOf(root, schema)) {
    const value = values[field.name];
    if (value === undefined) continue;
    if (field.kind === "part" && field.inner) {
      sent[field.name] = values[`has_${field.name}`]
        ? payload(root, value, system, kept, field.inner)
        : null;
    } else if (field.kind === "rows" && field.inner) {
      const inner = field.inner;
      sent[field.name] = value.map((row: JsonObject) => payload(root, row, system, kept, inner));
    } else if (field.kind === "length" || field.kind === "lengths") {
      const typed = withUnit(String(value), system);
      // an empty field is left out, so that the server names it if it is needed
      if (typed !== "") sent[field.name] = kept[typed] ?? typed;
      else if (field.kind === "lengths") sent[field.name] = [];
    } else if (field.kind === "integer" || field.kind === "number") {
      if (String(value).trim() !== "") sent[field.name] = String(value).trim().replace(",", ".");
    } else if (field.kind === "switch") {
      // one that is not asked for is off, whatever it was while it was
      sent[field.name] = value && isAsked(field, values);
    } else sent[field.name] = value;
  }
  return sent;
}
