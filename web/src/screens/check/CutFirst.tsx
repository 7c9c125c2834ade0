import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { api, type RoundState, type Schemas, told } from "../../api/client";
import { keys } from "../../api/queries";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";

type Cut = Schemas["CutProgram"];

/** What has to be cut before there is anything to read: the piece, its program, the list. */
export function CutFirst({ checkId, round }: { checkId: string; round: RoundState }) {
  const begun = round.readings.length > 0;
  const cuts = useQuery({
    queryKey: [...keys.check(checkId), "cuts", round.id],
    queryFn: () =>
      told(
        api.GET("/api/v1/rounds/{round_id}/programs", {
          params: { path: { round_id: round.id } },
        }),
      ),
  });
  if (cuts.error) return <Remark tone="error">{cuts.error.message}</Remark>;
  if (!cuts.data?.length) return null;
  return (
    <Box
      component="details"
      open={!begun}
      sx={(t) => ({ borderBottom: `1px solid ${t.palette.rule}`, pb: 1, mb: 2 })}
    >
      <Box component="summary" sx={{ cursor: "pointer", minHeight: 40, fontWeight: 600 }}>
        {cuts.data.length > 1 ? "Cut these first" : "Cut this first"}
      </Box>
      <Typography sx={{ color: "text.secondary", maxWidth: 720 }}>
        Any block that is cut like this will do. Eyes, ears and extraction; clamps and hands clear;
        first in the air, a hand on the stop; never leave it running alone. Calm Square writes a
        file and sends nothing to a machine.
      </Typography>
      <Box
        sx={{
          display: "grid",
          gap: { xs: 2, md: 4 },
          gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "repeat(2, minmax(0, 1fr))" },
          mt: 1,
        }}
      >
        {cuts.data.map((cut) => (
          <One key={cut.key} roundId={round.id} cut={cut} />
        ))}
      </Box>
    </Box>
  );
}

function One({ roundId, cut }: { roundId: string; cut: Cut }) {
  const { say } = useSettings();
  const file = `/api/v1/rounds/${roundId}/programs/${cut.key}`;
  return (
    <Box>
      <Typography variant="h3">{say(cut.title)}</Typography>
      <Box component="ul" sx={{ my: 0.5, pl: 2.5 }}>
        {cut.needs.map((line) => (
          <li key={line.metric}>{say(line)}</li>
        ))}
      </Box>
      {cut.refused && (
        <Remark tone="look">
          The program was read back and is not offered: {say(cut.refused)} Change the cut under Set
          up.
        </Remark>
      )}
      {cut.program && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, my: 1 }}>
          <Button variant="outlined" href={`${file}?run=air`} download>
            The air run
          </Button>
          <Button variant="outlined" href={`${file}?run=cut`} download>
            The program
          </Button>
        </Box>
      )}
      {cut.by_hand.length > 0 && (
        <Box component="details" open={!cut.program && !cut.refused}>
          <Box component="summary" sx={{ cursor: "pointer", minHeight: 40 }}>
            Line by line, for handwheels
          </Box>
          <Box sx={{ color: "text.secondary" }}>
            Go down clear of the block, follow the line, lift, and come back in the air.
          </Box>
          <Box component="ol" sx={{ maxHeight: 240, overflow: "auto", pl: 4, my: 0 }}>
            {cut.by_hand.map((line, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a list that never changes its order
              <li key={i}>{say(line)}</li>
            ))}
          </Box>
        </Box>
      )}
    </Box>
  );
}
