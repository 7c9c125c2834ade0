import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";
import { visuallyHidden } from "./hidden";

type Station = Schemas["Station"];

export interface StationValue {
  /** What was read there, newest pass last. */
  texts: string[];
  waiting: boolean;
}

interface Props {
  stations: Station[];
  values: Record<string, StationValue>;
  at: string | null;
  pick: (key: string) => void;
  disabled?: boolean;
  /** What the values are in, where they do not say. */
  unit?: string;
  /** Stations stand on a circle about the spindle: on the table, or on what turns. */
  round?: "round" | "turn";
}

/** What a place on a plan is called: its unit is told where it is prompted for. */
const bare = (label: string) => (label.split(",")[0] ?? "").replace(/ (mm|in)(?= |$)/, "");

/** The stations seen from above, the one in hand lit; each is a place to press. */
export function StationPlan({ stations, values, at, pick, disabled, unit, round }: Props) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const group = say(stations.find((s) => s.key === at)?.group ?? stations[0]?.group);
  const shown = stations.filter((s) => say(s.group) === group);
  const reach = round
    ? Math.max(...shown.map((s) => Math.hypot(s.x_mm, s.y_mm)), 1)
    : Math.max(...shown.flatMap((s) => [Math.abs(s.x_mm), Math.abs(s.y_mm)]), 1);
  const spread = round ? 33.3 : 29;
  const groups = [...new Set(stations.map((s) => say(s.group)))];
  // bolts of a bar share a place: set them side by side
  const beside = (s: Station) => shown.filter((o) => o.x_mm === s.x_mm && o.y_mm === s.y_mm);
  return (
    <Box>
      {groups.length > 1 && (
        <Box sx={{ mb: 1, fontWeight: 600 }}>
          {group} ({groups.indexOf(group) + 1} of {groups.length} places)
        </Box>
      )}
      <Box
        sx={{ position: "relative", width: "100%", maxWidth: 340, aspectRatio: "1", mx: "auto" }}
      >
        <svg
          viewBox="-150 -150 300 300"
          aria-hidden="true"
          style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }}
        >
          {round !== "turn" && (
            <rect
              x="-146"
              y="-120"
              width="292"
              height="240"
              fill="none"
              stroke={palette.rule}
              strokeWidth="1.5"
            />
          )}
          {round === "turn" && <circle r="46" fill="none" stroke={palette.ink} strokeWidth="1.5" />}
          {round && (
            <>
              {round === "round" && (
                <path d="M-146 -40H146M-146 40H146" stroke={palette.rule} strokeDasharray="2 6" />
              )}
              <circle r="100" fill="none" stroke={palette.pencil} strokeDasharray="4 5" />
            </>
          )}
          <path d="M-8 0H8M0 -8V8" stroke={palette.ink} strokeWidth="1.5" />
          <text y="145" fontSize="12" textAnchor="middle" fill={palette.pencil}>
            {round === "turn" ? "the marks of the spindle" : "you stand here"}
            {unit ? ` · as read, in ${unit}` : ""}
          </text>
        </svg>
        {shown.map((s) => {
          const peers = beside(s);
          const shift = (peers.indexOf(s) - (peers.length - 1) / 2) * 72;
          const lit = s.key === at;
          const value = values[s.key];
          const last = value?.texts.at(-1);
          return (
            <ButtonBase
              key={s.key}
              disabled={disabled}
              onClick={() => pick(s.key)}
              aria-pressed={lit}
              sx={{
                position: "absolute",
                left: `calc(${50 + (s.x_mm / reach) * spread}% + ${shift}px)`,
                top: `${50 - (s.y_mm / reach) * spread}%`,
                transform: "translate(-50%, -50%)",
                minWidth: 62,
                minHeight: 52,
                px: 0.5,
                borderRadius: "3px",
                border: `2px ${value?.waiting ? "dashed" : "solid"} ${lit ? palette.primary.main : last ? palette.ink : palette.rule}`,
                bgcolor: lit ? palette.primary.main : palette.background.paper,
                color: lit ? palette.primary.contrastText : palette.ink,
                flexDirection: "column",
                lineHeight: 1.15,
              }}
            >
              <Box component="span" sx={{ fontSize: ".8rem" }}>
                {bare(say(s.label))}
              </Box>
              <Box component="span" sx={visuallyHidden}>
                {last ? "read" : "not read"}
              </Box>
              <Box component="span" sx={{ fontFamily: mono, fontWeight: 600 }} aria-hidden={!last}>
                {last ?? "·"}
              </Box>
            </ButtonBase>
          );
        })}
      </Box>
    </Box>
  );
}
