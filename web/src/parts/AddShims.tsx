import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useId, useState } from "react";
import { type ApiProblem, api, inFull, type Schemas, told } from "../api/client";
import { keys } from "../api/queries";
import { useSettings } from "../settings";
import { LengthField } from "./LengthField";
import { whole, withUnit } from "./schema";
import { Remark } from "./Waiting";

/** Pieces of a thickness into the tin, from wherever they are missed; advice is then made anew. */
export function AddShims({ workshopId }: { workshopId: string }) {
  const { say, system } = useSettings();
  const client = useQueryClient();
  const id = useId();
  const [added, setAdded] = useState(0);
  const add = useMutation<Schemas["ShimOut"], ApiProblem, Schemas["ShimIn"]>({
    mutationFn: (body) =>
      told(
        api.POST("/api/v1/workshops/{workshop_id}/shims", {
          params: { path: { workshop_id: workshopId } },
          body,
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: keys.kit(workshopId) });
      void client.invalidateQueries({ queryKey: ["finding"] });
    },
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const data = new FormData(form);
    const text = (key: string) => String(data.get(key) ?? "");
    add.mutate(
      {
        thickness_mm: withUnit(text("thickness_mm"), system),
        count: whole(text("count")),
        material: text("material"),
        tolerance_mm: 0.003,
      },
      {
        onSuccess: () => {
          form.reset();
          setAdded((n) => n + 1);
        },
      },
    );
  };
  const at = (field: string) => {
    const found = add.error?.errors.find((e) => e.field === field);
    return {
      error: found !== undefined,
      helperText: found && inFull(found),
    };
  };
  return (
    <Box component="form" noValidate onSubmit={submit} aria-label="Shims into the tin">
      <Box sx={{ display: "grid", gap: 1.5, gridTemplateColumns: "1fr 1fr", mt: 1 }}>
        <LengthField
          key={added}
          name="thickness_mm"
          id={`${id}-thickness`}
          label="Thickness"
          {...at("thickness_mm")}
        />
        <TextField
          name="count"
          id={`${id}-count`}
          label="Pieces"
          defaultValue="1"
          {...at("count")}
        />
        <TextField name="material" id={`${id}-material`} label="Material" />
        <Button type="submit" variant="outlined" disabled={add.isPending}>
          Put in the tin
        </Button>
      </Box>
      <Box role="status">{add.isSuccess && `In the tin: ${say(add.data.words)}.`}</Box>
      {add.error?.errors.length === 0 && (
        <Remark tone="error" role="alert">
          {add.error.message}
        </Remark>
      )}
    </Box>
  );
}
