import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { AxisFigure } from "./AxisFigure";
import { BesideFigure } from "./BesideFigure";
import { ChainFigure } from "./ChainFigure";
import { ContourFigure } from "./ContourFigure";
import { CurveFigure } from "./CurveFigure";
import { LadderFigure } from "./LadderFigure";
import { PlanFigure } from "./PlanFigure";
import { PolarFigure } from "./PolarFigure";
import { RankedFigure } from "./RankedFigure";
import { RidgesFigure } from "./RidgesFigure";
import { WarpFigure } from "./WarpFigure";
import { WaterfallFigure } from "./WaterfallFigure";

export type FigureData = NonNullable<Schemas["Move"]["figures"]>[number];

/** A figure of a result, whichever it is, with its title and how often errors are magnified. */
export function Figure({ figure }: { figure: FigureData }) {
  const { say } = useSettings();
  const factor = "factor" in figure ? figure.factor : null;
  return (
    <Box component="figure" sx={{ m: 0, my: 2, maxWidth: 640 }}>
      <Typography component="figcaption" sx={{ color: "text.secondary", mb: 0.5 }}>
        {say(figure.title)}
        {factor && factor > 1 ? `, errors ×${factor}` : ""}
      </Typography>
      <Drawn figure={figure} />
    </Box>
  );
}

function Drawn({ figure }: { figure: FigureData }) {
  switch (figure.type) {
    case "warp":
      return <WarpFigure figure={figure} />;
    case "curve":
      return <CurveFigure figure={figure} />;
    case "waterfall":
      return <WaterfallFigure figure={figure} />;
    case "plan":
      return <PlanFigure figure={figure} />;
    case "ladder":
      return <LadderFigure figure={figure} />;
    case "polar":
      return <PolarFigure figure={figure} />;
    case "contour":
      return <ContourFigure figure={figure} />;
    case "chain":
      return <ChainFigure figure={figure} />;
    case "ranked":
      return <RankedFigure figure={figure} />;
    case "axis":
      return <AxisFigure figure={figure} />;
    case "beside":
      return <BesideFigure figure={figure} />;
    case "ridges":
      return <RidgesFigure figure={figure} />;
  }
}
