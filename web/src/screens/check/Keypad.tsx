import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { memo } from "react";

const KEYS = ["7", "8", "9", "4", "5", "6", "1", "2", "3", "±", "0", "."];

/** The other sign before what was typed. */
const turned = (text: string) =>
  /^[-−]/.test(text) ? `+${text.slice(1)}` : `-${text.replace(/^\+/, "")}`;

/** Big keys for oily fingers. */
export const Keypad = memo(function Keypad({
  type,
  enter,
  disabled,
}: {
  /** Takes what becomes of the text. */
  type: (change: (text: string) => string) => void;
  enter: () => void;
  disabled: boolean;
}) {
  return (
    <Box
      role="group"
      aria-label="Keys"
      sx={{ display: "grid", gridTemplateColumns: "repeat(3, 1fr)", gap: 0.75 }}
    >
      {KEYS.map((key) => (
        <Button
          key={key}
          variant="outlined"
          color="inherit"
          disabled={disabled}
          onClick={() => type(key === "±" ? turned : (text) => text + key)}
          aria-label={key === "±" ? "change the sign" : key}
          sx={{ minWidth: 0, minHeight: { xs: 52, md: 50 }, fontSize: "1.3rem" }}
        >
          {key}
        </Button>
      ))}
      <Button
        color="inherit"
        variant="outlined"
        disabled={disabled}
        onClick={() => type((text) => text.slice(0, -1))}
        sx={{ minWidth: 0, minHeight: 52 }}
        aria-label="Delete the last character"
      >
        ⌫
      </Button>
      <Button
        variant="contained"
        disabled={disabled}
        onClick={enter}
        sx={{ gridColumn: "span 2", minHeight: 52, fontSize: "1.15rem" }}
      >
        Enter
      </Button>
    </Box>
  );
});
