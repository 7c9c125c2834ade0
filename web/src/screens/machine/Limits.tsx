/** What a machine is judged by, and how soon it is looked at again: set once, and folded away. */
import Box from "@mui/material/Box";
import TextField from "@mui/material/TextField";
import { type ReactNode, useEffect, useRef } from "react";
import { type ApiProblem, inFull, type Words } from "../../api/client";
import type { Machine } from "../../api/queries";
import { isBare, whole } from "../../parts/schema";
import { useSettings } from "../../settings";

/** A limit as it is typed, with the unit that a bare number took when it was. */
interface Typed {
  text: string;
  unit: string;
}

/** Limits that were changed: kind of check → limit → what was typed. */
export type Limits = Record<string, Record<string, Typed>>;

/** To be sent: each with its unit; the server knows what it comes to. */
export const asText = (limits: Limits): Record<string, Record<string, string>> =>
  Object.fromEntries(
    Object.entries(limits).map(([kind, own]) => [
      kind,
      Object.fromEntries(
        Object.entries(own).map(([key, { text, unit }]) => [
          key,
          text.trim() && isBare(text) ? `${text.trim()} ${unit}` : text.trim(),
        ]),
      ),
    ]),
  );

/** Limits as a machine is judged by them. */
export const standing = ({ limits }: Pick<Machine, "limits">) =>
  Object.fromEntries(
    Object.entries(limits).map(([kind, own]) => [
      kind,
      Object.fromEntries(own.map(({ key, value }) => [key, value])),
    ]),
  );

const limitField = (kind: string, key: string) => `tolerances.${kind}.${key}`;
const intervalField = (kind: string) => `intervals.${kind}`;

/** Whether a refusal of that field is shown here, at what it is about. */
export const asksFor = (
  { checks, limits, intervals }: Pick<Machine, "checks" | "limits" | "intervals">,
  field: string,
): boolean =>
  checks.some(
    ({ kind }) =>
      (kind in intervals && field === intervalField(kind)) ||
      (limits[kind] ?? []).some(({ key }) => field === limitField(kind, key)),
  );

/** What is set once and seldom looked at again, folded away; it opens where something is refused. */
function Later({
  title,
  problem,
  children,
}: {
  title: string;
  problem: ApiProblem | null;
  children: ReactNode;
}) {
  const box = useRef<HTMLDetailsElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each answer of the server
  useEffect(() => {
    const refused = box.current?.querySelector<HTMLElement>("[aria-invalid=true]");
    if (!box.current || !refused) return;
    box.current.open = true;
    refused.focus();
  }, [problem]);
  return (
    <Box component="details" ref={box} sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}` })}>
      <Box
        component="summary"
        sx={{ cursor: "pointer", minHeight: 48, alignContent: "center", fontWeight: 600 }}
      >
        {title}
      </Box>
      <Box sx={{ pb: 2 }}>{children}</Box>
    </Box>
  );
}

/** The limits of every check that this machine calls for, in the reader's units. */
export function LimitFields({
  machine,
  limits,
  change,
  problem,
}: {
  machine: Pick<Machine, "checks" | "limits">;
  limits: Limits;
  change: (limits: Limits) => void;
  problem: ApiProblem | null;
}) {
  const { say } = useSettings();
  const rows = machine.checks.flatMap((c) =>
    (machine.limits[c.kind] ?? []).map((limit) => ({ kind: c.kind, check: c.title, limit })),
  );
  if (rows.length === 0) return null;
  const unitOf = (typed: Typed | undefined, unit: Words) => typed?.unit ?? say(unit);
  return (
    <Later title="Limits" problem={problem}>
      <Box
        sx={{
          display: "grid",
          gap: 2,
          gridTemplateColumns: "repeat(auto-fill, minmax(250px, 1fr))",
        }}
      >
        {rows.map(({ kind, check, limit }) => {
          const error = problem?.errors.find((e) => e.field === limitField(kind, limit.key));
          const typed = limits[kind]?.[limit.key];
          const text = typed?.text ?? say(limit.words);
          return (
            <TextField
              key={`${kind}.${limit.key}`}
              id={`limit-${kind}-${limit.key}`}
              label={limit.title}
              value={text}
              autoComplete="off"
              error={error !== undefined}
              helperText={error ? inFull(error) : check}
              onChange={(e) => {
                const now = { text: e.target.value, unit: unitOf(typed, limit.unit) };
                change({ ...limits, [kind]: { ...limits[kind], [limit.key]: now } });
              }}
              slotProps={{
                inputLabel: { shrink: true },
                input: isBare(text)
                  ? {
                      endAdornment: (
                        <Box sx={{ color: "text.secondary", whiteSpace: "nowrap" }}>
                          {unitOf(typed, limit.unit)}
                        </Box>
                      ),
                    }
                  : undefined,
              }}
            />
          );
        })}
      </Box>
    </Later>
  );
}

/** After how many days each check is due again. */
export function Intervals({
  machine,
  intervals,
  change,
  problem,
}: {
  machine: Machine;
  intervals: Record<string, number>;
  change: (intervals: Record<string, number>) => void;
  problem: ApiProblem | null;
}) {
  const rows = machine.checks.filter((c) => c.kind in intervals);
  if (rows.length === 0) return null;
  return (
    <Later title="Look again after" problem={problem}>
      <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap" }}>
        {rows.map(({ kind, title }) => {
          const error = problem?.errors.find((e) => e.field === intervalField(kind));
          return (
            <TextField
              key={kind}
              id={`interval-${kind}`}
              label={`${title} (days)`}
              defaultValue={intervals[kind]}
              error={error !== undefined}
              helperText={error?.message ?? "0 for never."}
              onChange={(e) => change({ ...intervals, [kind]: whole(e.target.value) })}
              slotProps={{ htmlInput: { inputMode: "numeric" } }}
              sx={{ maxWidth: 240 }}
            />
          );
        })}
      </Box>
    </Later>
  );
}
