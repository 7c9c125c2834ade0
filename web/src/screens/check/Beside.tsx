import Box from "@mui/material/Box";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useEffect } from "react";
import type { RoundState, Schemas } from "../../api/client";
import { useKit } from "../../api/queries";
import { PhotoButton } from "../../parts/Photos";

export interface BesideReading {
  x: string;
  y: string;
  instrument_id: string | null;
}

interface Props {
  workshopId: string;
  machineId: string;
  round: RoundState;
  station: Schemas["Station"];
  value: BesideReading;
  change: (part: Partial<BesideReading>) => void;
  disabled: boolean;
}

/** What a station wants beside its reading: a place, another instrument, a photo. */
export function Beside(props: Props) {
  const { round, station, value, change, disabled } = props;
  if (!station.where && station.takes.length === 0 && !station.wants_photo) return null;
  return (
    <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", mt: 1, alignItems: "start" }}>
      {station.where &&
        (["x", "y"] as const).map((axis) => (
          <TextField
            key={axis}
            id={`where-${axis}`}
            label={`${station.where}, ${axis.toUpperCase()}`}
            size="small"
            value={value[axis]}
            disabled={disabled}
            onChange={(e) => change({ [axis]: e.target.value })}
            sx={{ flex: 1, minWidth: 120 }}
          />
        ))}
      {station.takes.length > 0 && <Instrument {...props} />}
      {station.wants_photo && !disabled && (
        <PhotoButton machineId={props.machineId} roundId={round.id} text="Photograph it" />
      )}
    </Box>
  );
}

function Instrument({ workshopId, round, station, value, change, disabled }: Props) {
  const kit = useKit(workshopId);
  const suits = (kit.data?.instruments ?? []).filter(
    (i) => !i.archived && station.takes.includes(i.type),
  );
  const own = round.instrument !== null && station.takes.includes(round.instrument.type);
  const first = suits[0]?.id ?? null;
  useEffect(() => {
    if (!own && value.instrument_id === null && first) change({ instrument_id: first });
  }, [own, value.instrument_id, first, change]);
  if (kit.isPending) return null;
  return (
    <TextField
      select
      label="Read with"
      size="small"
      value={value.instrument_id ?? (own ? round.instrument_id : "") ?? ""}
      disabled={disabled || suits.length === 0}
      error={suits.length === 0 && !own}
      helperText={
        suits.length === 0 && !own ? "Nothing in the kit suits: add one under Kit." : undefined
      }
      onChange={(e) => change({ instrument_id: e.target.value })}
      sx={{ flex: 1, minWidth: 160 }}
      slotProps={{
        select: { inputProps: { id: "read-with" } },
        inputLabel: { htmlFor: "read-with" },
      }}
    >
      {suits.map((i) => (
        <MenuItem key={i.id} value={i.id}>
          {i.name}
        </MenuItem>
      ))}
    </TextField>
  );
}
