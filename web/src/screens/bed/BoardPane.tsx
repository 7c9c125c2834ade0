import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { api, told } from "../../api/client";
import { SchemaForm } from "../../parts/SchemaForm";
import type { JsonObject, Schema } from "../../parts/schema";
import { useSettings } from "../../settings";
import { type BedState, useBedChange } from "./queries";

/** What was drawn and is not kept yet; how often the board was kept. */
export interface Drawn {
  rows: JsonObject[];
  kept: number;
}

/** The board: where it lies, how thick it is, and what a cutter must not meet. */
export function BoardPane({
  bed,
  drawing,
  setDrawing,
  drawn,
  changed,
}: {
  bed: BedState;
  drawing: boolean;
  setDrawing: (on: boolean) => void;
  drawn: Drawn;
  changed: () => void;
}) {
  const { say } = useSettings();
  // the page follows what others change; what is typed was typed over what stood here then
  const [began, setBegan] = useState(bed.board_values);
  const save = useBedChange(bed.machine_id, (board: JsonObject | null) =>
    told(
      api.PUT("/api/v1/machines/{machine_id}/board", {
        params: { path: { machine_id: bed.machine_id } },
        body: { board, was: began },
      }),
    ),
  );
  return (
    <Box>
      {bed.board_words.map((w) => (
        <Typography key={w.metric}>{say(w)}</Typography>
      ))}
      {bed.keep_outs.map((k) => (
        <Typography key={k.name} sx={{ color: "text.secondary" }}>
          {k.name}: {say(k.words)}
        </Typography>
      ))}
      {bed.may_change && (
        <>
          <Button
            variant="outlined"
            aria-pressed={drawing}
            onClick={() => setDrawing(!drawing)}
            sx={{ mt: 1, mb: 2 }}
          >
            {drawing ? "Stop drawing" : "Draw what is in the way"}
          </Button>
          {drawing && (
            <Typography>
              Draw a rectangle on the picture, with a finger or the mouse; its figures can be typed
              below.
            </Typography>
          )}
          <SchemaForm
            // what was typed stays while more is drawn, until it is kept
            key={drawn.kept}
            schema={bed.board_schema as Schema}
            values={bed.board_values as JsonObject}
            follows
            more={{ at: "keep_outs", rows: drawn.rows }}
            shown={bed.board_shown}
            prefix="board."
            problem={save.error}
            busy={save.isPending}
            submit="Keep the board"
            onSubmit={(board) =>
              save.mutate(board, {
                onSuccess: (kept) => {
                  setBegan(kept.board_values);
                  changed();
                },
              })
            }
          />
        </>
      )}
    </Box>
  );
}
