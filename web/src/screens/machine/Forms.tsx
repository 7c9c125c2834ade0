import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { Schemas } from "../../api/client";
import { GhostFigure } from "../../figures/GhostFigure";

/** The forms that a machine can have, drawn: the nearest one is where its description begins. */
export function Forms({
  starts,
  pick,
}: {
  starts: Schemas["StartingPoint"][];
  pick: (form: Schemas["StartingPoint"]) => void;
}) {
  return (
    <Box
      sx={{
        display: "grid",
        gap: 2,
        gridTemplateColumns: {
          xs: "repeat(2, minmax(0, 1fr))",
          sm: "repeat(auto-fill, minmax(220px, 1fr))",
        },
      }}
    >
      {starts.map((form) => (
        <Button
          key={form.form}
          variant="outlined"
          onClick={() => pick(form)}
          sx={{ flexDirection: "column", p: 1.5 }}
        >
          <Box aria-hidden sx={{ height: 130, width: "100%", color: "text.primary" }}>
            <GhostFigure ghost={form.ghost} factor={1} name={form.title} views={["front"]} />
          </Box>
          {form.title}
        </Button>
      ))}
    </Box>
  );
}
