import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { v4 as uuid } from "uuid";
import { type ApiProblem, api, type RoundState, type Schemas, told } from "../../api/client";
import { keepNews } from "../../api/queries";
import { Remark } from "../../parts/Waiting";
import { LengthUnit } from "./LengthUnit";

/** Of what is sent: each line's end takes a letter more there. */
const MOST_BYTES = 4_000_000;

/** A log of many points, opened from a file or pasted, and kept as one reading. */
export function LogFile({
  round,
  station,
  supersedes,
  disabled,
}: {
  round: RoundState;
  station: Schemas["Station"];
  supersedes: string | null;
  disabled: boolean;
}) {
  const file = useRef<HTMLInputElement>(null);
  const [tooLarge, setTooLarge] = useState(false);
  const [unit, setUnit] = useState<Schemas["LogIn"]["unit"]>("mm");
  const client = useQueryClient();
  const keep = useMutation<Schemas["NewsOut"], ApiProblem, string>({
    mutationFn: (text) =>
      told(
        api.PUT("/api/v1/rounds/{round_id}/logs/{reading_id}", {
          params: { path: { round_id: round.id, reading_id: uuid() } },
          body: {
            station: station.key,
            text,
            unit,
            supersedes,
            read_at: new Date().toISOString(),
          },
        }),
      ),
    onSuccess: (news) => keepNews(client, news),
  });
  const send = (text: string, sent?: () => void) => {
    const large = JSON.stringify(text).length > MOST_BYTES;
    setTooLarge(large);
    if (!large) keep.mutate(text, { onSuccess: sent });
  };
  const open = async (chosen: File | undefined) => {
    if (!chosen) return;
    if (chosen.size > MOST_BYTES) setTooLarge(true);
    else send(await chosen.text());
  };
  const [pasted, setPasted] = useState("");
  return (
    <Box>
      <Typography sx={{ color: "text.secondary", mb: 1 }}>
        Lines of figures, one point a line; a line with names may stand before them.
      </Typography>
      <Box sx={{ display: "flex", gap: 1, alignItems: "stretch", flexWrap: "wrap" }}>
        <Button
          variant={pasted.trim() ? "outlined" : "contained"}
          disabled={disabled || keep.isPending}
          onClick={() => file.current?.click()}
        >
          {supersedes ? "Open another log" : "Open the log"}
        </Button>
        <LengthUnit
          units={["mm", "µm", "in", "thou"]}
          value={unit}
          change={setUnit}
          disabled={disabled}
          label="Unit of the log"
        />
      </Box>
      <Box
        component="form"
        onSubmit={(event) => {
          event.preventDefault();
          send(pasted, () => setPasted(""));
        }}
        sx={{ mt: 1.5, maxWidth: 560 }}
      >
        <TextField
          id="log-text"
          label="Or paste it here"
          multiline
          minRows={3}
          maxRows={8}
          value={pasted}
          disabled={disabled}
          onChange={(e) => setPasted(e.target.value)}
          placeholder={"x z\n-300 -40.12\n300 -40.31"}
          slotProps={{ htmlInput: { spellCheck: false, autoComplete: "off" } }}
        />
        <Button
          type="submit"
          variant={pasted.trim() ? "contained" : "outlined"}
          disabled={disabled || keep.isPending || pasted.trim() === ""}
          sx={{ mt: 1 }}
        >
          Take what is pasted
        </Button>
      </Box>
      <input
        ref={file}
        type="file"
        hidden
        accept=".csv,.txt,.tsv,.log,text/*"
        aria-label="Log file"
        onChange={(e) => {
          void open(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
      {tooLarge && (
        <Remark tone="error" role="alert">
          A log of up to 4 MB is read. Open one with fewer points: every second line says nearly as
          much.
        </Remark>
      )}
      {keep.error && (
        <Remark tone="error" role="alert">
          {keep.error.whole}
        </Remark>
      )}
    </Box>
  );
}
