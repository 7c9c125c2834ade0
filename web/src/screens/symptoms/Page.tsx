import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

export function Page({ children }: { children: ReactNode }) {
  return <Box sx={{ maxWidth: 1060, mx: "auto", px: { xs: 2, md: 3 }, py: 3 }}>{children}</Box>;
}

export function Asked() {
  return (
    <>
      <Typography variant="h1" sx={{ mb: 0.5 }}>
        What brings you here?
      </Typography>
      <Typography sx={{ mb: 2, maxWidth: 720 }}>
        Press what you see. It leads to what can be behind it, likeliest first, and to the check
        that finds it soonest.
      </Typography>
    </>
  );
}
