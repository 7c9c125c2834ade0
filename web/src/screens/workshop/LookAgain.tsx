import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link as RouterLink } from "react-router";
import { type ApiProblem, api, type Schemas, told } from "../../api/client";
import { keys, useCalendar } from "../../api/queries";
import { useDay } from "../../parts/useWhen";
import { Remark } from "../../parts/Waiting";
import { mono } from "../../theme";

/** When each check falls due or was made stale, and an address for a calendar to read it. */
export function LookAgain({ workshopId, write }: { workshopId: string; write: boolean }) {
  const calendar = useCalendar(workshopId);
  const day = useDay();
  const client = useQueryClient();
  const address = useMutation<Schemas["CalendarOut"], ApiProblem, void>({
    mutationFn: () =>
      told(
        api.POST("/api/v1/workshops/{workshop_id}/calendar", {
          params: { path: { workshop_id: workshopId } },
        }),
      ),
    onSuccess: (made) => client.setQueryData(keys.calendar(workshopId), made),
  });
  if (!calendar.data) return null;
  const { entries, path } = calendar.data;
  if (entries.length === 0) return null;
  return (
    <Box component="section" sx={{ mt: 5, maxWidth: 820 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        When to look again
      </Typography>
      {entries.map((entry) => (
        <Box
          key={`${entry.machine_id}-${entry.kind}`}
          sx={(t) => ({
            borderTop: `1px solid ${t.palette.rule}`,
            py: 1,
            display: "grid",
            columnGap: 2,
            gridTemplateColumns: { sm: "130px 200px 1fr" },
          })}
        >
          <Box sx={{ fontFamily: mono }}>{day(entry.day)}</Box>
          <Link component={RouterLink} to={`/machines/${entry.machine_id}`} color="inherit">
            {entry.machine}: {entry.title.toLowerCase()}
          </Link>
          <Box sx={{ color: "text.secondary" }}>{entry.reason}</Box>
        </Box>
      ))}
      {path && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, mt: 1.5, alignItems: "flex-start" }}>
          <TextField
            id="calendar-address"
            label="Address for your calendar"
            value={`${window.location.origin}${path}`}
            slotProps={{ htmlInput: { readOnly: true } }}
            helperText="Subscribe to it. Whoever has it can read these dates, and nothing else."
            onFocus={(e) => e.target.select()}
            sx={{ flex: 1, minWidth: 260 }}
          />
          <Button variant="outlined" href={path} download="calm-square.ics">
            Download
          </Button>
        </Box>
      )}
      {write && (
        <Button onClick={() => address.mutate()} disabled={address.isPending} sx={{ mt: 1 }}>
          {path ? "A new address; the old one stops" : "Put these dates into a calendar"}
        </Button>
      )}
      {address.error && (
        <Remark tone="error" role="alert">
          {address.error.message}
        </Remark>
      )}
    </Box>
  );
}
