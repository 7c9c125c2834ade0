import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { type FormEvent, useState } from "react";
import { v4 as uuid } from "uuid";
import { api, type RoundState, type Schemas, told } from "../../api/client";
import { useCheckChange } from "../../api/queries";
import { PadsFigure } from "../../figures/PadsFigure";
import { TargetFigure } from "../../figures/TargetFigure";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";

type Move = Schemas["Move"];

interface Props {
  round: RoundState;
  move: Move;
  first: boolean;
}

/** One move: what to do, where to bring the needle or which shims, and what should come of it. */
export function MoveCard({ round, move, first }: Props) {
  const { say } = useSettings();
  const [other, setOther] = useState(false);
  const made = useCheckChange(
    (v: { key: string | null; said: string; nipped: string; tight: string }) =>
      told(
        api.POST("/api/v1/rounds/{round_id}/move", {
          params: { path: { round_id: round.id } },
          body: {
            id: uuid(),
            next_round_id: uuid(),
            made_at: new Date().toISOString(),
            station: move.targets?.[0]?.station ?? null,
            ...v,
          },
        }),
      ),
  );
  const target = move.targets?.[0];
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const text = (key: string) => String(data.get(key) ?? "");
    made.mutate({
      key: other ? null : move.key,
      said: text("said"),
      nipped: text("nipped"),
      tight: text("tight"),
    });
  };
  const at = (field: string) => made.error?.errors.find((e) => e.field === field);
  const helper = (field: string) => {
    const found = at(field);
    return {
      error: found !== undefined,
      helperText: found ? `${found.message} ${found.expected}` : undefined,
    };
  };
  if (!first)
    return (
      <Typography sx={{ mt: 1 }}>
        <b>After that:</b> {say(move.title)}
      </Typography>
    );
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
        {target && round.instrument && (
          <TargetFigure
            instrument={round.instrument}
            from_mm={target.from_mm}
            to_mm={target.to_mm}
            label={`At ${target.label}, ${say(target.words)}`}
          />
        )}
        {move.stacks && move.stacks.length > 0 && <PadsFigure stacks={move.stacks} />}
        {target && (
          <Box sx={{ flex: 1, minWidth: 180 }}>
            {move.targets?.map((t, i) => (
              <Typography key={t.station} sx={{ fontSize: i === 0 ? "1.1rem" : ".95rem" }}>
                {i > 0 && "or "}at {t.label}: {say(t.words)}
              </Typography>
            ))}
          </Box>
        )}
      </Box>
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
          <b>{p.label} should then be</b> {say(p.words)}
        </Typography>
      ))}
      {move.needs && <Remark tone="look">{say(move.needs)}</Remark>}
      <Box component="form" noValidate onSubmit={submit} sx={{ mt: 2 }}>
        {!other && target && (
          <Box sx={{ display: "flex", gap: 1, mb: 1.5, maxWidth: 420 }}>
            <TextField
              name="nipped"
              id="nipped"
              label="Needle, bolts nipped"
              size="small"
              {...helper("nipped")}
            />
            <TextField
              name="tight"
              id="tight"
              label="Needle, bolts tight"
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
            <Button type="submit" variant="contained" disabled={made.isPending}>
              Done: measure again
            </Button>
          )}
          <Button onClick={() => setOther(!other)}>
            {other ? "Back to the advice" : "I did something else"}
          </Button>
        </Box>
      </Box>
    </Box>
  );
}
