import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, useWanted } from "../../api/queries";
import { AddShims } from "../../parts/AddShims";
import { useDay } from "../../parts/useWhen";
import { Remark } from "../../parts/Waiting";
import { Usual } from "./Usual";

type Item = Schemas["WantedOut"];

/** What checks and advice lacked, and what else somebody wants: ticked off into the kit. */
export function Wanted({ workshopId, write }: { workshopId: string; write: boolean }) {
  const wanted = useWanted(workshopId);
  const client = useQueryClient();
  const change = useMutation<Item[], ApiProblem, () => Promise<Item[]>>({
    mutationFn: (send) => send(),
    onSuccess: (list) => client.setQueryData(keys.wanted(workshopId), list),
  });
  const day = useDay();
  const rows = wanted.data ?? [];
  const add = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const what = String(new FormData(form).get("what") ?? "").trim();
    if (!what) return;
    const body = { id: uuid(), what, why: "", sort: "other" as const, types: [] };
    change.mutate(
      () =>
        told(
          api.POST("/api/v1/workshops/{workshop_id}/wanted", {
            params: { path: { workshop_id: workshopId } },
            body,
          }),
        ),
      { onSuccess: () => form.reset() },
    );
  };
  return (
    <Box component="section" aria-labelledby="to-buy">
      <Typography id="to-buy" variant="h1" sx={{ mb: 1 }}>
        To buy
      </Typography>
      {rows.length === 0 && (
        <Typography sx={{ color: "text.secondary" }}>
          Nothing is missed. Where a check lacks something, it is put here with a press.
        </Typography>
      )}
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {rows.map((item) => (
          <Row
            key={item.id}
            item={item}
            workshopId={workshopId}
            write={write}
            busy={change.isPending}
            day={day}
            change={change.mutate}
          />
        ))}
      </Box>
      {change.error && (
        <Remark tone="error" role="alert">
          {change.error.errors[0]?.message ?? change.error.message}
        </Remark>
      )}
      {write && (
        <Box component="form" noValidate onSubmit={add} sx={{ display: "flex", gap: 1, mt: 1.5 }}>
          <TextField
            name="what"
            id="wanted-what"
            label="Something else"
            slotProps={{ htmlInput: { maxLength: 120 } }}
            sx={{ maxWidth: 360 }}
          />
          <Button
            type="submit"
            variant="outlined"
            disabled={change.isPending}
            sx={{ whiteSpace: "nowrap" }}
          >
            Put it down
          </Button>
        </Box>
      )}
    </Box>
  );
}

function Row({
  item,
  workshopId,
  write,
  busy,
  day,
  change,
}: {
  item: Item;
  workshopId: string;
  write: boolean;
  busy: boolean;
  day: (at: string) => string;
  change: (send: () => Promise<Item[]>) => void;
}) {
  const [just, setJust] = useState(false);
  const path = { wanted_id: item.id };
  const got = item.got_at !== null;
  return (
    <Box
      component="li"
      sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, py: 1, display: "flex", gap: 1 })}
    >
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <FormControlLabel
          control={
            <Checkbox
              checked={got}
              disabled={busy || !write}
              onChange={(e) => {
                const on = e.target.checked;
                setJust(on);
                change(() =>
                  told(
                    api.PUT("/api/v1/wanted/{wanted_id}/got", {
                      params: { path },
                      body: { got: on },
                    }),
                  ),
                );
              }}
            />
          }
          label={item.what}
          sx={{ "& .MuiFormControlLabel-label": { fontWeight: got ? 400 : 600 } }}
        />
        <Box sx={{ color: "text.secondary", pl: 4 }}>
          {[item.why, item.machine && `For ${item.machine}.`, `${item.by}, ${day(item.made_at)}.`]
            .filter(Boolean)
            .join(" ")}
        </Box>
        {just && got && (
          <Remark>
            {item.sort === "instrument"
              ? "Into the kit with it: press what it is, and correct its figures."
              : item.sort === "shim"
                ? "Into the tin with them, so that advice reckons with them."
                : "Add it to the kit on this page, so that checks know of it."}
            {item.types.length > 0 && <Usual workshopId={workshopId} types={item.types} />}
            {item.sort === "shim" && <AddShims workshopId={workshopId} />}
          </Remark>
        )}
      </Box>
      {write && (
        <Button
          size="small"
          disabled={busy}
          aria-label={`Take off the list: ${item.what}`}
          onClick={() =>
            change(() => told(api.DELETE("/api/v1/wanted/{wanted_id}", { params: { path } })))
          }
        >
          Take off
        </Button>
      )}
    </Box>
  );
}
