import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Link from "@mui/material/Link";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useCallback, useState } from "react";
import { Link as RouterLink } from "react-router";
import { ApiProblem, api, type CheckState, type RoundState, told } from "../../api/client";
import { type Kind, useCheckChange, useKit, useMachine } from "../../api/queries";
import { SchemaForm } from "../../parts/SchemaForm";
import type { JsonObject } from "../../parts/schema";
import { Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { useIsolated } from "./useIsolated";

/** How the round is read, with what; kit, cautions and steps beside it. */
export function SetUp({
  check,
  kind,
  round,
  done,
}: {
  check: CheckState;
  kind: Kind;
  round: RoundState;
  done: () => void;
}) {
  const { say, system } = useSettings();
  const kit = useKit(check.workshop_id);
  const machine = useMachine(check.machine_id);
  const values: JsonObject | null = round.setup ?? round.suggested ?? null;
  const [way, setWay] = useState<string>(values?.way ?? Object.keys(kind.takes)[0] ?? "");
  const [picked, setPicked] = useState<string | null>(round.instrument_id);
  const [isolated, setIsolated] = useIsolated();
  const [asked, setAsked] = useState(false);
  const change = useCheckChange((v: { instrument_id: string; setup: JsonObject }) =>
    told(
      api.PUT("/api/v1/rounds/{round_id}/setup", {
        params: { path: { round_id: round.id } },
        body: { version: round.version, ...v },
      }),
    ),
  );
  const follow = useCallback((all: JsonObject) => {
    if (typeof all.way === "string") setWay(all.way);
  }, []);
  if (kit.isPending || machine.isPending) return <Loading />;
  const suits = (kit.data?.instruments ?? []).filter((i) => kind.takes[way]?.includes(i.type));
  const instrument = suits.find((i) => i.id === picked) ?? suits[0];
  const has = Object.entries(machine.data?.spec ?? {})
    .filter(([, part]) => part !== null)
    .map(([name]) => name);
  const locked = round.settled_at !== null || !check.can_write;
  const instrumentError = change.error?.errors.find((e) => e.field === "instrument");
  const submit = (setup: JsonObject) => {
    if (!isolated) return setAsked(true);
    if (instrument) change.mutate({ instrument_id: instrument.id, setup }, { onSuccess: done });
  };
  const noKit =
    suits.length === 0
      ? new ApiProblem(422, "", "There is no instrument for this way of reading yet.")
      : null;
  return (
    <Box
      sx={{
        display: "grid",
        gap: 4,
        gridTemplateColumns: { md: "minmax(0, 1.15fr) minmax(0, 1fr)" },
      }}
    >
      <SchemaForm
        key={`${round.id}-${round.version}-${system}`}
        schema={kind.setup_schema}
        values={values}
        shown={round.setup ? round.setup_shown : round.suggested_shown}
        has={has}
        prefix="setup."
        problem={change.error}
        submit={round.readings.length ? "Keep and go on" : "Start reading"}
        busy={change.isPending || instrument === undefined}
        disabled={locked}
        onChange={follow}
        onSubmit={submit}
        before={
          <Box sx={{ mb: 2 }}>
            <TextField
              select
              label="Instrument"
              value={instrument?.id ?? ""}
              disabled={locked || suits.length === 0}
              onChange={(e) => setPicked(e.target.value)}
              error={instrumentError !== undefined || noKit !== null}
              helperText={
                instrumentError
                  ? `${instrumentError.message} ${instrumentError.expected}`
                  : (noKit?.message ?? `Reads ${say(instrument?.reads)}.`)
              }
              slotProps={{
                select: { inputProps: { id: "instrument" } },
                inputLabel: { htmlFor: "instrument" },
              }}
            >
              {suits.map((i) => (
                <MenuItem key={i.id} value={i.id}>
                  {i.name}
                </MenuItem>
              ))}
            </TextField>
            {noKit && (
              <Link component={RouterLink} to={`/w/${check.workshop_id}/kit`}>
                Add one under Kit
              </Link>
            )}
          </Box>
        }
        after={
          <Box sx={{ mt: 1 }}>
            <FormControlLabel
              control={
                <Checkbox
                  checked={isolated}
                  disabled={locked}
                  onChange={(e) => {
                    setIsolated(e.target.checked);
                    setAsked(false);
                  }}
                />
              }
              label="The machine is isolated, and the cutter is out."
            />
            {asked && !isolated && (
              <Remark tone="error" role="alert">
                Isolate the machine first, then tick this. It is asked once a sitting.
              </Remark>
            )}
            {round.expectation && (
              <Remark tone={round.expectation.enough ? "info" : "look"}>
                {say(round.expectation.text)}
              </Remark>
            )}
          </Box>
        }
      />
      <Guide kind={kind} cost={say(check.cost)} />
    </Box>
  );
}

function Guide({ kind, cost }: { kind: Kind; cost: string }) {
  const { guide } = kind;
  return (
    <Box>
      {cost && <Typography sx={{ mb: 2 }}>At the limit {cost}</Typography>}
      <Typography variant="h3">Before hands go in</Typography>
      <Lines lines={guide.cautions} />
      <Typography variant="h3">Steps</Typography>
      <Lines lines={guide.steps} ordered />
      <Box component="details">
        <Box component="summary" sx={{ cursor: "pointer", minHeight: 32 }}>
          Ways of reading, and their price
        </Box>
        {guide.schools.map((school) => (
          <Typography key={school.way} sx={{ mb: 1 }}>
            <b>{school.way}</b>: {school.gives}; {school.costs}.
          </Typography>
        ))}
      </Box>
      <Box component="details">
        <Box component="summary" sx={{ cursor: "pointer", minHeight: 32 }}>
          What this does not test, and when to stop
        </Box>
        <Lines lines={guide.not_tested} />
        <Typography>{guide.stop}</Typography>
      </Box>
    </Box>
  );
}

function Lines({ lines, ordered = false }: { lines: string[]; ordered?: boolean }) {
  return (
    <Box component={ordered ? "ol" : "ul"} sx={{ mt: 0.5, pl: 3 }}>
      {lines.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </Box>
  );
}
