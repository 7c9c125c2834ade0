import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { type FormEvent, useState } from "react";
import { v4 as uuid } from "uuid";
import { api, inFull, type RoundState, type Schemas, told } from "../../api/client";
import { useCheckChange } from "../../api/queries";
import { Figure } from "../../figures/Figure";
import { PadsFigure } from "../../figures/PadsFigure";
import { SketchFigure } from "../../figures/SketchFigure";
import { TargetFigure } from "../../figures/TargetFigure";
import { AddShims } from "../../parts/AddShims";
import { PhotoButton } from "../../parts/Photos";
import { ToBuy } from "../../parts/ToBuy";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";
import { keepNote } from "./noteDraft";

type Move = Schemas["Move"];

const STATES = ["nipped", "tight"] as const;

interface Props {
  workshopId: string;
  machineId: string;
  round: RoundState;
  /** The advice that the move is of. */
  advice: string;
  move: Move;
  /** It is the first thing to do; further passes come before it otherwise. */
  main: boolean;
}

/** Says what was done after a round, and begins the next. */
function useMade(round: RoundState, advice: string) {
  return useCheckChange(
    async (v: { key: string | null; said: string; needle: Schemas["NeedleIn"][] }) => {
      await keepNote(round.id);
      return told(
        api.POST("/api/v1/rounds/{round_id}/move", {
          params: { path: { round_id: round.id } },
          body: {
            id: uuid(),
            next_round_id: uuid(),
            made_at: new Date().toISOString(),
            advice,
            ...v,
          },
        }),
      );
    },
  );
}

/** Where nothing is advised: what somebody did all the same, so that the next reading tells. */
export function OwnMove({ round, advice }: Pick<Props, "round" | "advice">) {
  const made = useMade(round, advice);
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const said = String(new FormData(event.currentTarget).get("said") ?? "");
    made.mutate({ key: null, said, needle: [] });
  };
  const wrong = made.error?.errors.find((e) => e.field === "said");
  return (
    <Box
      component="form"
      noValidate
      onSubmit={submit}
      sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "flex-start", mt: 1.5 }}
    >
      <TextField
        name="said"
        id="said"
        label="What did you do about it?"
        size="small"
        error={made.error !== null}
        helperText={wrong ? inFull(wrong) : made.error?.message}
        sx={{ flex: "1 1 220px" }}
      />
      <Button type="submit" variant="outlined" disabled={made.isPending}>
        Done: measure again
      </Button>
    </Box>
  );
}

/** One move: what to do, where to bring the needle or which shims, and what should come of it. */
export function MoveCard({ workshopId, machineId, round, advice, move, main }: Props) {
  const { say, system } = useSettings();
  const [other, setOther] = useState(false);
  const made = useMade(round, advice);
  const target = move.targets?.[0];
  // a pad that stays bare wants nothing
  const wanted = (move.wanted ?? []).filter((w) => w.amount_mm);
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const text = (key: string) => String(data.get(key) ?? "");
    made.mutate({
      key: other ? null : move.key,
      said: text("said"),
      needle: STATES.map((state) => ({
        state,
        station: target?.station ?? "",
        text: text(state),
      })),
    });
  };
  const named = (field: string) => {
    const at = (STATES as readonly string[]).indexOf(field);
    return at < 0 ? field : `needle.${at}.text`;
  };
  const at = (field: string) => made.error?.errors.find((e) => e.field === named(field));
  const helper = (field: string) => {
    const found = at(field);
    return {
      error: found !== undefined,
      helperText: found && inFull(found),
    };
  };
  return (
    <Box component="section" aria-label="What to do">
      <Typography variant="h2" sx={{ mb: 1 }}>
        {say(move.title)}
      </Typography>
      {move.cautions && move.cautions.length > 0 && (
        <Remark tone="look">
          {move.cautions.map((caution) => (
            <div key={caution}>{caution}</div>
          ))}
        </Remark>
      )}
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", my: 1.5, flexWrap: "wrap" }}>
        {move.sketch && <SketchFigure figure={move.sketch} wide={280} />}
        {target && round.instrument && (
          <TargetFigure
            instrument={round.instrument}
            from_mm={target.from_mm}
            to_mm={target.to_mm}
            label={`At ${say(target.label)}, ${say(target.words)}`}
          />
        )}
        {move.stacks && move.stacks.length > 1 && !move.figures?.length && (
          <PadsFigure stacks={move.stacks} />
        )}
        {target && (
          <Box sx={{ flex: 1, minWidth: 180 }}>
            {move.targets?.map((t, i) => (
              <Typography key={t.station} sx={{ fontSize: i === 0 ? "1.1rem" : ".95rem" }}>
                {i > 0 && "or "}at {say(t.label)}: {say(t.words)}
              </Typography>
            ))}
          </Box>
        )}
      </Box>
      {move.figures?.map((figure) => (
        <Figure key={figure.title.metric} figure={figure} />
      ))}
      {move.entries?.map((entry) => (
        <Box key={entry.setting} sx={{ my: 1.5 }}>
          <Box component="span" sx={{ color: "text.secondary" }}>
            {entry.setting}:{" "}
          </Box>
          <Box component="span" sx={{ fontFamily: mono, fontSize: "1.6rem", fontWeight: 600 }}>
            {say(entry.words)}
          </Box>
        </Box>
      ))}
      {move.stacks?.length === 1 && (
        <Typography sx={{ my: 1, fontSize: "1.1rem" }}>
          {say(move.stacks[0]?.called)}:{" "}
          <Box component="span" sx={{ fontFamily: mono, fontWeight: 600 }}>
            {say(move.stacks[0]?.words)}
          </Box>
        </Typography>
      )}
      {move.amounts && move.amounts.length > 0 && <Amounts amounts={move.amounts} />}
      <Box component="ol" sx={{ pl: 3, my: 1 }}>
        {move.steps.map((step) => (
          <li key={step.metric}>{say(step)}</li>
        ))}
      </Box>
      {move.notes?.map((note) => (
        <Remark key={note.metric}>{say(note)}</Remark>
      ))}
      {move.predicted.map((p) => (
        <Typography key={p.quantity}>
          <b>{say(p.label)} should then be</b> {say(p.words)}
        </Typography>
      ))}
      {move.needs && (
        <Remark tone="look">
          {say(move.needs)}
          {wanted.length > 0 && (
            <>
              <Box sx={{ mt: 1 }}>Each stack should come to:</Box>
              <Amounts amounts={wanted} named />
            </>
          )}
          <ToBuy
            workshopId={workshopId}
            machineId={machineId}
            what={
              wanted.length > 0
                ? `Shims: ${wanted.map((w) => `${say(w.called)} ${say(w.words)}`).join(", ")}`
                : `For “${say(move.title)}”`
            }
            why={say(move.needs)}
            sort={wanted.length > 0 ? "shim" : "other"}
          />
          {wanted.length > 0 && (
            <Box component="details">
              <Box component="summary" sx={{ cursor: "pointer", minHeight: 32 }}>
                Some lie here all the same
              </Box>
              <AddShims workshopId={workshopId} />
            </Box>
          )}
        </Remark>
      )}
      {move.wants_photo && !move.needs && round.photos.length === 0 && (
        <Remark>
          What lies there now is gone afterwards.{" "}
          <PhotoButton machineId={machineId} roundId={round.id} text="Photograph it first" />
        </Remark>
      )}
      <Box component="form" noValidate onSubmit={submit} sx={{ mt: 2 }}>
        {!other && target && (
          <Box sx={{ display: "flex", gap: 1, mb: 1.5, maxWidth: 420 }}>
            <TextField
              name="nipped"
              id="nipped"
              label="Nipped, it reads"
              size="small"
              {...helper("nipped")}
            />
            <TextField
              name="tight"
              id="tight"
              label="Tight, it reads"
              size="small"
              {...helper("tight")}
            />
          </Box>
        )}
        {other && (
          <TextField
            name="said"
            id="said"
            label="What did you do instead?"
            sx={{ mb: 1.5 }}
            {...helper("said")}
          />
        )}
        {made.error && made.error.errors.length === 0 && (
          <Remark tone="error" role="alert">
            {made.error.message}
          </Remark>
        )}
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
          {(other || !move.needs) && (
            <Button
              type="submit"
              variant={main ? "contained" : "outlined"}
              disabled={made.isPending}
            >
              Done: measure again
            </Button>
          )}
          <Button onClick={() => setOther(!other)}>
            {other ? "Back to the advice" : "I did something else"}
          </Button>
          {!other && !move.needs && (
            <Button
              href={`/api/v1/rounds/${round.id}/sheet?move=${encodeURIComponent(move.key)}&system=${system}`}
              download
            >
              On paper
            </Button>
          )}
        </Box>
      </Box>
    </Box>
  );
}

/** Feet, screws or bolts with what each is moved by; those that stay are left to the figure. */
function Amounts({
  amounts,
  named = false,
}: {
  amounts: Schemas["Amount"][];
  /** Each by its place, also where all are alike. */
  named?: boolean;
}) {
  const { say } = useSettings();
  const moved = amounts.filter((a) => a.turns || a.amount_mm);
  const same = !named && new Set(moved.map((a) => a.words.metric)).size === 1 && moved.length > 1;
  const shown = same ? moved.slice(0, 1) : moved;
  return (
    <Box component="ul" sx={{ listStyle: "none", p: 0, my: 1 }}>
      {shown.map((a) => (
        <Box component="li" key={a.place} sx={{ display: "flex", gap: 1.5, flexWrap: "wrap" }}>
          <Box sx={{ minWidth: 110 }}>{same ? `each of the ${moved.length}` : say(a.called)}</Box>
          <Box sx={{ fontFamily: mono, fontWeight: 600 }}>{say(a.words)}</Box>
          {a.detail && <Box sx={{ color: "text.secondary" }}>{say(a.detail)}</Box>}
        </Box>
      ))}
    </Box>
  );
}
