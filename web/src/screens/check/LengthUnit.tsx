import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { memo } from "react";
import type { ReadingUnit } from "../../api/client";

/** The unit that a bare number is in. */
export const LengthUnit = memo(function LengthUnit({
  units,
  value,
  change,
  disabled,
  label = "Unit of the reading",
}: {
  units: readonly ReadingUnit[];
  value: ReadingUnit;
  change: (unit: ReadingUnit) => void;
  disabled: boolean;
  label?: string;
}) {
  return (
    <TextField
      select
      value={value}
      onChange={(e) => change(e.target.value as ReadingUnit)}
      disabled={disabled}
      sx={{ width: 104, flex: "none", "& .MuiInputBase-root": { height: "100%" } }}
      slotProps={{ select: { inputProps: { "aria-label": label } } }}
    >
      {units.map((u) => (
        <MenuItem key={u} value={u}>
          {u}
        </MenuItem>
      ))}
    </TextField>
  );
});
