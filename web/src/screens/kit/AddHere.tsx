import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import { keys, useKit } from "../../api/queries";
import { ItemForm } from "./Shelf";
import { Usual } from "./Usual";

/**
 * What lies on the bench and is not in the kit yet, put into it from where it is wanted: usual
 * instruments by a press, pieces by their form. What was typed beside it stays.
 */
export function AddHere({
  workshopId,
  instruments,
  pieces,
}: {
  workshopId: string;
  /** Types of instrument that will do. */
  instruments: string[];
  /** Types of piece that are asked for. */
  pieces: string[];
}) {
  const kit = useKit(workshopId);
  const client = useQueryClient();
  const [looked, setLooked] = useState(false);
  const [adding, setAdding] = useState<string | null>(null);
  const forms = kit.data?.piece_forms.filter((f) => pieces.includes(f.type)) ?? [];
  const form = forms.find((f) => f.type === adding);
  return (
    <Box
      component="details"
      onToggle={(e) => (e.currentTarget as HTMLDetailsElement).open && setLooked(true)}
      sx={{ gridColumn: "1 / -1" }}
    >
      <Box component="summary" sx={{ cursor: "pointer", minHeight: 40, alignContent: "center" }}>
        Something that lies here is not in the kit yet
      </Box>
      {looked && instruments.length > 0 && <Usual workshopId={workshopId} types={instruments} />}
      {forms.length > 0 && !form && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1 }}>
          {forms.map((f) => (
            <Button key={f.type} variant="outlined" onClick={() => setAdding(f.type)}>
              Add: {f.title.toLowerCase()}
            </Button>
          ))}
        </Box>
      )}
      {form && (
        <ItemForm
          key={form.type}
          id="piece-here"
          form={form}
          item={null}
          aside
          keep={(body) =>
            told(
              api.POST("/api/v1/workshops/{workshop_id}/pieces", {
                params: { path: { workshop_id: workshopId } },
                body,
              }),
            )
          }
          kept={() => {
            void client.invalidateQueries({ queryKey: keys.kit(workshopId) });
            // the set-up names the pieces of the kit
            void client.invalidateQueries({ queryKey: ["check"] });
            setAdding(null);
          }}
          leave={() => setAdding(null)}
        />
      )}
    </Box>
  );
}
