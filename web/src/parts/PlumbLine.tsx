import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import { useTheme } from "@mui/material/styles";
import { Link as RouterLink } from "react-router";
import type { Schemas } from "../api/client";
import { visuallyHidden } from "./hidden";
import { Square, STATUS_WORDS } from "./VerdictMark";

type Stage = Schemas["StageStatus"];

/** The stages of the work as knots on a string, the bob at the one in hand. */
export function PlumbLine({
  machineId,
  stages,
  at,
}: {
  machineId: string;
  stages: Stage[];
  at?: string;
}) {
  const { palette } = useTheme();
  return (
    <Box
      component="nav"
      aria-label="Stages of the work"
      tabIndex={0}
      sx={{
        width: { md: 148 },
        flex: "none",
        overflowX: "auto",
        py: { xs: 0.5, md: 2 },
        pl: { xs: 1, md: 2 },
      }}
    >
      <Box
        component="ol"
        sx={{
          listStyle: "none",
          m: 0,
          p: 0,
          display: "flex",
          flexDirection: { xs: "row", md: "column" },
          position: "relative",
          "&::before": {
            content: '""',
            position: "absolute",
            bgcolor: palette.pencil,
            left: { xs: 0, md: 10.25 },
            top: { xs: 13, md: 0 },
            width: { xs: "100%", md: 1.5 },
            height: { xs: "1.5px", md: "calc(100% - 14px)" },
          },
        }}
      >
        {stages.map((stage) => (
          <Knot key={stage.key} machineId={machineId} stage={stage} here={stage.key === at} />
        ))}
      </Box>
    </Box>
  );
}

function Knot({ machineId, stage, here }: { machineId: string; stage: Stage; here: boolean }) {
  const { palette } = useTheme();
  return (
    <Box
      component="li"
      aria-current={here ? "step" : undefined}
      title={stage.settles}
      sx={{
        display: "flex",
        flexDirection: { xs: "column", md: "row" },
        alignItems: "center",
        gap: { xs: 0, md: 1.25 },
        minHeight: { md: 40 },
        px: { xs: 1, md: 0 },
        position: "relative",
        flex: "none",
      }}
    >
      <Box
        sx={{
          bgcolor: here || stage.status ? "background.default" : "transparent",
          lineHeight: 0,
          width: 22,
          textAlign: "center",
        }}
      >
        {here ? (
          <Bob />
        ) : stage.status ? (
          <Square status={stage.status} />
        ) : (
          <svg width="22" height="22" viewBox="0 0 22 22" aria-hidden="true">
            <circle cx="11" cy="11" r="3" fill={palette.pencil} />
          </svg>
        )}
      </Box>
      <Link
        component={RouterLink}
        to={`/machines/${machineId}/stages/${stage.key}`}
        underline="hover"
        sx={{
          fontSize: { xs: ".8rem", md: ".95rem" },
          fontWeight: here ? 700 : 400,
          color: stage.status ? "text.primary" : "text.secondary",
          minHeight: { xs: 32, md: 40 },
          display: "inline-flex",
          alignItems: "center",
          // the whole knot can be pressed, not only its word
          "&::after": { content: '""', position: "absolute", inset: 0 },
        }}
      >
        {stage.title}
        {here && stage.status && (
          <Box component="span" sx={{ ml: 1, lineHeight: 0 }}>
            <Square status={stage.status} size={20} />
          </Box>
        )}
        {stage.status && (
          <Box component="span" sx={visuallyHidden}>
            : {STATUS_WORDS[stage.status]}
            {stage.left && ", left as it is"}
          </Box>
        )}
      </Link>
    </Box>
  );
}

function Bob() {
  const { palette } = useTheme();
  return (
    <svg width="22" height="26" viewBox="0 0 22 26" aria-hidden="true">
      <path
        d="M11 0v5M6 5h10l-1 9-4 11-4-11z"
        fill={palette.primary.main}
        stroke={palette.primary.main}
      />
    </svg>
  );
}
