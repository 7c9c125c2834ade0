import Box from "@mui/material/Box";
import TextField from "@mui/material/TextField";
import { type ComponentProps, useLayoutEffect, useState } from "react";
import { useSettings } from "../settings";
import { isBare, UNIT, withUnit } from "./schema";

/**
 * One length in a form of its own, with the unit that a bare number takes beside it. What was typed
 * stays what it was when the reader's units change.
 */
export function LengthField(props: Omit<ComponentProps<typeof TextField>, "value" | "onChange">) {
  const { system } = useSettings();
  const [typed, setTyped] = useState({ text: "", system });
  useLayoutEffect(() => {
    setTyped((now) =>
      now.system === system ? now : { text: withUnit(now.text, now.system), system },
    );
  }, [system]);
  return (
    <TextField
      {...props}
      value={typed.text}
      onChange={(e) => setTyped({ text: e.target.value, system })}
      autoComplete="off"
      slotProps={{
        htmlInput: { inputMode: "decimal" },
        inputLabel: { shrink: true },
        input: isBare(typed.text)
          ? { endAdornment: <Box sx={{ color: "text.secondary" }}>{UNIT[system]}</Box> }
          : undefined,
      }}
    />
  );
}
