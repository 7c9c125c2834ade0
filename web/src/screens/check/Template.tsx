import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { Schemas } from "../../api/client";

/** Something to be cut out, to print at full size. */
export function Template({
  roundId,
  drawing,
}: {
  roundId: string;
  drawing: Schemas["DrawingOut"];
}) {
  const file = (format: string) => `/api/v1/rounds/${roundId}/drawing/${format}`;
  return (
    <Box sx={{ my: 2 }}>
      <Typography variant="h3">{drawing.title}</Typography>
      <Box
        component="img"
        src={file("svg")}
        alt={drawing.shows}
        sx={{ width: "100%", maxWidth: 560, bgcolor: "#fff", border: 1, borderColor: "divider" }}
      />
      <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
        {["pdf", "svg", "dxf"].map((format) => (
          <Button key={format} variant="outlined" href={file(format)} download>
            {format.toUpperCase()}
          </Button>
        ))}
      </Box>
      <Typography sx={{ color: "text.secondary" }}>{drawing.note}</Typography>
    </Box>
  );
}
