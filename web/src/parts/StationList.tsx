import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import type { Schemas } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";
import { visuallyHidden } from "./hidden";
import type { StationValue } from "./StationPlan";

type Station = Schemas["Station"];

/** The stations in their order, one under the other or side by side; each is a place to press. */
export function StationList({
  stations,
  values,
  at,
  pick,
  disabled,
  narrow,
}: {
  stations: Station[];
  values: Record<string, StationValue>;
  at: string | null;
  pick: (key: string) => void;
  disabled?: boolean;
  /** Side by side, for places along a line. */
  narrow?: boolean;
}) {
  const { palette } = useTheme();
  const { say } = useSettings();
  const groups = [...new Set(stations.map((s) => say(s.group)))];
  return (
    <Box sx={{ maxHeight: { md: 520 }, overflowY: "auto", pr: 0.5 }}>
      {groups.map((group) => (
        <Box key={group} sx={{ mb: 1 }}>
          {group && groups.length > 1 && (
            <Box sx={{ color: "text.secondary", fontSize: ".85rem", mb: 0.25 }}>{group}</Box>
          )}
          <Box
            sx={{
              display: "grid",
              gap: 0.5,
              gridTemplateColumns: narrow ? "repeat(auto-fill, minmax(104px, 1fr))" : "1fr",
            }}
          >
            {stations
              .filter((s) => say(s.group) === group)
              .map((s) => {
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
                      minHeight: 48,
                      px: 1,
                      py: 0.25,
                      borderRadius: "3px",
                      border: `2px ${value?.waiting ? "dashed" : "solid"} ${lit ? palette.primary.main : last ? palette.ink : palette.rule}`,
                      bgcolor: lit ? palette.primary.main : palette.background.paper,
                      color: lit ? palette.primary.contrastText : palette.ink,
                      display: "flex",
                      flexDirection: narrow ? "column" : "row",
                      alignItems: narrow ? "flex-start" : "center",
                      justifyContent: "space-between",
                      columnGap: 1,
                      lineHeight: 1.2,
                      textAlign: "left",
                    }}
                  >
                    <Box component="span" sx={{ fontSize: ".85rem" }}>
                      {say(s.label)}
                    </Box>
                    <Box component="span" sx={visuallyHidden}>
                      {last ? "read" : "not read"}
                    </Box>
                    <Box
                      component="span"
                      sx={{
                        fontFamily: s.reads === "length" ? mono : undefined,
                        fontWeight: 600,
                        textAlign: narrow ? "left" : "right",
                        overflowWrap: "anywhere",
                      }}
                      aria-hidden={!last}
                    >
                      {last ?? "·"}
                    </Box>
                  </ButtonBase>
                );
              })}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
