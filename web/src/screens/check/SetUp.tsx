import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Link from "@mui/material/Link";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link as RouterLink } from "react-router";
import {
  ApiProblem,
  api,
  type CheckState,
  inFull,
  type RoundState,
  type Schemas,
  told,
} from "../../api/client";
import { type Kind, useCheckChange, useKit, useMachine, useSketches } from "../../api/queries";
import { SketchFigure } from "../../figures/SketchFigure";
import { AsDescribed } from "../../parts/AsDescribed";
import { GuideText } from "../../parts/GuideText";
import { SchemaForm } from "../../parts/SchemaForm";
import { type JsonObject, payload } from "../../parts/schema";
import { ToBuy } from "../../parts/ToBuy";
import { Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { AddHere } from "../kit/AddHere";
import { Usual } from "../kit/Usual";
import { useIsolated } from "./useIsolated";
import { useSuggestion } from "./useSuggestion";

/** Another instrument is worth a word when what it leaves open is so much less. */
const WORTH_IT = 0.8;

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
  const [proposed, setProposed] = useState<string | null>(null);
  const [isolated, setIsolated] = useIsolated(check.machine_id, check.powered);
  const [asked, setAsked] = useState(false);
  const change = useCheckChange((v: { instrument_id: string | null; setup: JsonObject }) =>
    told(
      api.PUT("/api/v1/rounds/{round_id}/setup", {
        params: { path: { round_id: round.id } },
        body: { version: round.version, ...v },
      }),
    ),
  );
  const [typed, setTyped] = useState<JsonObject | null>(values);
  const schema = check.setup_schema as JsonObject;
  const follow = useCallback(
    (all: JsonObject) => {
      if (typeof all.way === "string") setWay(all.way);
      setTyped(payload(schema, all, system));
    },
    [schema, system],
  );
  // until enough is filled in, the usual way of reading it
  const usual = useSketches(check.machine_id, kind.key, true).data?.[0];
  const [waiting, setWaiting] = useState<JsonObject | null>(null);
  const { ranked, known } = useSuggestion(round.id, typed, kit.dataUpdatedAt);
  const begin = useRef<(setup: JsonObject) => void>(() => undefined);
  useEffect(() => {
    if (!waiting || !known) return;
    setWaiting(null);
    begin.current(waiting);
  }, [waiting, known]);
  if (kit.isPending || machine.isPending) return <Loading />;
  const takes = kind.takes[way] ?? kind.takes[""] ?? [];
  const suits = (kit.data?.instruments ?? []).filter(
    (i) => (!i.archived || i.id === picked) && takes.includes(i.type),
  );
  // where nothing turns on how fine it is, and until that is known, the usual one comes first
  suits.sort((a, b) => takes.indexOf(a.type) - takes.indexOf(b.type));
  const best = ranked?.choices[0]?.id;
  // what stands there stays, whatever is typed: another may be finer for it, and that is said
  const standing = suits.find((i) => i.id === picked) ?? suits.find((i) => i.id === proposed);
  const finest = known ? suits.find((i) => i.id === best) : undefined;
  if (!standing && finest) setProposed(finest.id);
  const instrument = standing ?? finest ?? (suits.length === 1 ? suits[0] : undefined);
  const expected = (id: string | undefined) => ranked?.choices.find((c) => c.id === id);
  const has = Object.entries(machine.data?.spec ?? {})
    .filter(([, part]) => part !== null)
    .map(([name]) => name);
  const share = (id: string | undefined) => expected(id)?.share ?? 0;
  const finer =
    instrument !== undefined &&
    finest !== undefined &&
    share(finest.id) < WORTH_IT * share(instrument.id) &&
    round.readings.length === 0;
  const locked = round.settled_at !== null || !check.can_write;
  const instrumentError = change.error?.errors.find((e) => e.field === "instrument");
  begin.current = (setup) => {
    // where they could not be told apart, the usual one
    const taken = instrument ?? suits[0];
    if (taken || !kind.needs_instrument)
      change.mutate({ instrument_id: taken?.id ?? null, setup }, { onSuccess: done });
  };
  const submit = (setup: JsonObject) => {
    if (!isolated) return setAsked(true);
    // a moment, until the finest is known: nobody means the one that happens to come first
    if (picked === null && !known) return setWaiting(setup);
    begin.current(setup);
  };
  const noKit =
    suits.length === 0 && kind.needs_instrument
      ? new ApiProblem(422, "", "There is no instrument for this way of reading yet.")
      : null;
  const titles = takes.map((type) => kit.data?.forms.find((f) => f.type === type)?.title ?? type);
  const labels: Record<string, string> = schema.properties.way?.["x-form"]?.labels ?? {};
  const owned = new Set(kit.data?.instruments.filter((i) => !i.archived).map((i) => i.type));
  // another way of reading it, for which something lies in the kit
  const instead = Object.entries(kind.takes)
    .filter(([name, types]) => name !== way && types.some((type) => owned.has(type)))
    .map(([name]) => labels[name])
    .filter(Boolean);
  return (
    <Box
      sx={{
        display: "grid",
        gap: 4,
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "minmax(0, 1.15fr) minmax(0, 1fr)" },
      }}
    >
      <Box>
        <SchemaForm
          key={`${round.id}-${round.version}`}
          schema={schema}
          values={values}
          shown={round.setup ? round.setup_shown : round.suggested_shown}
          proposed={!round.setup}
          has={has}
          prefix="setup."
          problem={change.error}
          mine={(field) => field === "instrument"}
          submit={round.readings.length ? "Keep and go on" : "Start reading"}
          busy={
            change.isPending || (suits.length === 0 && kind.needs_instrument) || waiting !== null
          }
          disabled={locked}
          onChange={follow}
          onSubmit={submit}
          before={
            <Box
              sx={{
                mb: 2,
                display: suits.length === 0 && !kind.needs_instrument ? "none" : "block",
              }}
            >
              <TextField
                select
                label="Instrument"
                value={instrument?.id ?? ""}
                disabled={locked || suits.length === 0}
                onChange={(e) => setPicked(e.target.value)}
                error={instrumentError !== undefined || noKit !== null}
                helperText={
                  instrumentError
                    ? inFull(instrumentError)
                    : (noKit?.message ??
                      [
                        instrument
                          ? `Reads ${say(instrument.reads)}.`
                          : "The finest you have is put here once the rest is filled in.",
                        say(expected(instrument?.id)?.words) &&
                          `Expect ${say(expected(instrument?.id)?.words)}.`,
                        instrument &&
                          instrument.id === best &&
                          suits.length > 1 &&
                          "The finest you have for this.",
                      ]
                        .filter(Boolean)
                        .join(" "))
                }
                slotProps={{
                  select: { inputProps: { id: "instrument" } },
                  inputLabel: { htmlFor: "instrument" },
                  // what can be expected of it is told a moment later, in a line more
                  formHelperText: { sx: { minHeight: { xs: "2lh", sm: 0 } } },
                }}
              >
                {suits.map((i) => (
                  <MenuItem key={i.id} value={i.id}>
                    {i.name}
                    {expected(i.id) && (
                      <Box component="span" sx={{ ml: 2, color: "text.secondary" }}>
                        {say(expected(i.id)?.words)}
                      </Box>
                    )}
                  </MenuItem>
                ))}
              </TextField>
              {noKit && (
                <>
                  <Box sx={{ my: 1 }}>
                    It takes one of these: {titles.join("; ").toLowerCase()}. Press what you have;
                    it comes with its usual figures. What you typed stays.
                  </Box>
                  {instead.length > 0 && (
                    <Box sx={{ mb: 1 }}>
                      With what is in the kit it can be read otherwise: {instead.join("; ")}.
                    </Box>
                  )}
                  <Usual workshopId={check.workshop_id} types={takes} />
                  {check.can_write && (
                    <ToBuy
                      workshopId={check.workshop_id}
                      machineId={check.machine_id}
                      what={titles.join(" or ")}
                      why={`To read “${kind.title}”${labels[way] ? `: ${labels[way]}` : ""}.`}
                      sort="instrument"
                      types={takes}
                    />
                  )}
                  <Link component={RouterLink} to={`/w/${check.workshop_id}/kit`}>
                    Another, under Kit
                  </Link>
                </>
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
                label={
                  check.powered
                    ? "The spindle is off and the cutter out; hands clear of what moves, one on the stop."
                    : "The machine is isolated, and the cutter is out."
                }
              />
              {asked && !isolated && (
                <Remark tone="error" role="alert">
                  {check.powered ? "See to that first" : "Isolate the machine first"}, then tick
                  this. It is asked once a sitting.
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
        {/* they come while somebody reaches for the button, which stays where it is */}
        {finer && finest && (
          <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1, mt: 1 }}>
            <Box component="span" sx={{ color: "text.secondary" }}>
              {finest.name} is finer for this: {say(expected(finest.id)?.words)}.
            </Box>
            <Button size="small" onClick={() => setPicked(finest.id)}>
              Take {finest.name}
            </Button>
          </Box>
        )}
        {ranked?.doubts?.map((doubt) => (
          <Remark key={doubt.metric} tone="look" role="status">
            {say(doubt)}
          </Remark>
        ))}
        {ranked?.none && !round.expectation && <Remark tone="look">{say(ranked.none)}</Remark>}
      </Box>
      <Guide
        check={check}
        kind={kind}
        way={way}
        cost={say(check.cost)}
        sketch={ranked?.sketch ?? usual}
      />
      <AsDescribed check={check} />
      {check.can_write && !locked && (
        <AddHere
          workshopId={check.workshop_id}
          instruments={noKit ? [] : takes}
          pieces={askedPieces(schema)}
        />
      )}
    </Box>
  );
}

/** The types of piece that a set-up asks for by name. */
function askedPieces(schema: JsonObject): string[] {
  const fields = Object.values(schema.properties ?? {}) as JsonObject[];
  return [...new Set(fields.flatMap((f) => f["x-form"]?.pieces ?? []))] as string[];
}

function Guide({
  check,
  kind,
  way,
  cost,
  sketch,
}: {
  check: CheckState;
  kind: Kind;
  way: string;
  cost: string;
  sketch?: Schemas["SketchFigure"] | null;
}) {
  const { say } = useSettings();
  return (
    <Box>
      {sketch && (
        <Box sx={{ mb: 2 }}>
          <SketchFigure figure={sketch} wide={330} />
        </Box>
      )}
      {cost && <Typography sx={{ mb: 2 }}>At the limit {cost}</Typography>}
      {check.limits.length > 0 && (
        <Typography sx={{ mb: 2, color: "text.secondary" }}>
          {check.limits.map((l) => `${l.title}: ${say(l.words)}`).join(" · ")}
          {check.limits_for && `, the limits for “${check.limits_for}”`}
        </Typography>
      )}
      {check.letters && (
        <Typography sx={{ mb: 2, color: "text.secondary" }}>{check.letters}</Typography>
      )}
      <GuideText guide={kind.guide} cautions={check.cautions} way={way} />
    </Box>
  );
}
