import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

/** One of the three panes of a check: open and large, or one line. */
export function Pane({
  name,
  title,
  summary,
  open,
  last = false,
  show,
  children,
}: {
  name: string;
  title: string;
  summary: ReactNode;
  open: boolean;
  /** On a narrow screen it gives way to the others. */
  last?: boolean;
  show: () => void;
  children: ReactNode;
}) {
  return (
    <Box
      component="section"
      aria-labelledby={`pane-${name}`}
      sx={(t) => ({
        order: { xs: last ? 1 : 0, md: 0 },
        borderTop: `1px solid ${open ? t.palette.ink : t.palette.rule}`,
      })}
    >
      <Typography variant="h2" component="h2">
        <ButtonBase
          id={`pane-${name}`}
          aria-expanded={open}
          onClick={show}
          sx={{
            width: "100%",
            minHeight: 48,
            justifyContent: "flex-start",
            gap: 2,
            fontSize: "inherit",
            fontWeight: "inherit",
            fontFamily: "inherit",
            display: { xs: open && name === "read" ? "none" : "flex", md: "flex" },
          }}
        >
          <Box component="span" sx={{ minWidth: 64, textAlign: "left" }}>
            {title}
          </Box>
          {!open && (
            <Box
              component="span"
              sx={{ fontSize: "1rem", fontWeight: 400, color: "text.secondary" }}
            >
              {summary}
            </Box>
          )}
        </ButtonBase>
      </Typography>
      {open && <Box sx={{ pb: 2 }}>{children}</Box>}
    </Box>
  );
}
