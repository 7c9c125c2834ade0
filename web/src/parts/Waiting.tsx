import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";

export function Loading() {
  return (
    <Box role="status" sx={{ p: 4, color: "text.secondary" }}>
      Fetching…
    </Box>
  );
}

export function Failed({ problem, again }: { problem: Error; again?: () => void }) {
  return (
    <Box role="alert" sx={{ p: 4, maxWidth: 560 }}>
      <Typography variant="h1" sx={{ mb: 1 }}>
        This page could not be shown
      </Typography>
      <Typography sx={{ mb: 2 }}>{problem.message}</Typography>
      {again && (
        <Button variant="outlined" onClick={again}>
          Try again
        </Button>
      )}
    </Box>
  );
}

/** Records that cannot be shown, by name; the rest of the page stands. */
export function Faults({ faults }: { faults: readonly Schemas["Fault"][] }) {
  return (
    <>
      {faults.map((fault) => (
        <Remark key={fault.text} tone="error" role="alert">
          {fault.text}
        </Remark>
      ))}
    </>
  );
}

/** A line that asks for attention without shouting: a rule at its side, ink for words. */
export function Remark({
  tone = "info",
  children,
  role,
}: {
  tone?: "info" | "look" | "error";
  children: ReactNode;
  role?: "alert" | "status";
}) {
  return (
    <Box
      role={role}
      sx={(t) => ({
        borderLeft: `4px solid ${
          { info: t.palette.rule, look: t.palette.status.too_close, error: t.palette.status.out }[
            tone
          ]
        }`,
        pl: 1.5,
        py: 0.5,
        my: 1,
      })}
    >
      {children}
    </Box>
  );
}
