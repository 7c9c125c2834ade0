import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useState } from "react";
import type { Words } from "../api/client";
import { useSettings } from "../settings";
import { useOpenCheck } from "./useOpenCheck";
import { Remark } from "./Waiting";

/** Told once a sitting for each machine and kind: going on all the same needs no second telling. */
const told = new Set<string>();

/** Opens a check; where something it rests on is amiss, it first says once what that costs. */
export function OpenCheck({
  machineId,
  kind,
  subject,
  text,
  title,
  detour,
  main = false,
}: {
  machineId: string;
  kind: string;
  /** The part to begin with; else the one that calls for attention. */
  subject?: string;
  text: string;
  /** Which check, for whoever hears the button without seeing the line it stands in. */
  title?: string;
  detour?: Words | null;
  main?: boolean;
}) {
  const { say } = useSettings();
  const open = useOpenCheck(machineId);
  const [asking, setAsking] = useState(false);
  const key = `${machineId} ${kind}`;
  const press = () => {
    if (detour && !told.has(key) && !asking) {
      told.add(key);
      return setAsking(true);
    }
    open.mutate({ kind, subject });
  };
  return (
    <Box>
      <Button
        variant={main ? "contained" : "outlined"}
        disabled={open.isPending}
        onClick={press}
        aria-label={title && `${asking ? "Measure it all the same" : text}: ${title}`}
        sx={{ whiteSpace: "nowrap" }}
      >
        {asking ? "Measure it all the same" : text}
      </Button>
      {asking && (
        <Remark tone="look" role="status">
          {say(detour)}
        </Remark>
      )}
      {open.error && (
        <Remark tone="error" role="alert">
          {open.error.message}
        </Remark>
      )}
    </Box>
  );
}
