import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { SymptomFigure } from "../../figures/SymptomFigure";
import type { Symptom } from "./queries";

/** What somebody can come with, drawn; one of them is pressed. */
export function Tiles({
  symptoms,
  picked,
  pick,
  small = false,
}: {
  symptoms: Symptom[];
  /** One of several things on its page. */
  small?: boolean;
  /** The one that was pressed, where it stays so. */
  picked?: string | null;
  pick: (key: string) => void;
}) {
  return (
    <Box
      component="ul"
      sx={{
        listStyle: "none",
        p: 0,
        m: 0,
        display: "grid",
        gap: { xs: 1, sm: 1.5 },
        gridTemplateColumns: {
          xs: `repeat(${small ? 3 : 2}, minmax(0, 1fr))`,
          sm: `repeat(auto-fill, minmax(${small ? 132 : 168}px, 1fr))`,
        },
      }}
    >
      {symptoms.map((symptom) => (
        <Box component="li" key={symptom.key} sx={{ display: "flex" }}>
          <ButtonBase
            onClick={() => pick(symptom.key)}
            aria-pressed={picked === undefined ? undefined : picked === symptom.key}
            focusRipple
            sx={(t) => ({
              flex: 1,
              flexDirection: "column",
              justifyContent: "flex-start",
              gap: 0.5,
              p: 1,
              border: `1px solid ${t.palette.rule}`,
              outline: picked === symptom.key ? `2px solid ${t.palette.primary.main}` : "none",
              font: "inherit",
              textAlign: "center",
              fontSize: small ? { xs: ".8rem", sm: ".9rem" } : undefined,
              lineHeight: small ? 1.3 : undefined,
              "&:hover": { borderColor: t.palette.primary.main },
            })}
          >
            <Box
              aria-hidden
              sx={{ width: "100%", maxWidth: small ? 110 : 150, aspectRatio: "3 / 2" }}
            >
              <SymptomFigure figure={symptom.drawing} />
            </Box>
            {symptom.title}
          </ButtonBase>
        </Box>
      ))}
    </Box>
  );
}
