/** Readings that have not reached the record: what they are, why, and what can be done with them. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Link from "@mui/material/Link";
import { Link as RouterLink } from "react-router";
import { asCsv, asTyped, discard, type Outgoing, sendAgain, useOutbox } from "../api/outbox";
import { useWhen } from "./useWhen";

export const count = (n: number, what = "reading") => `${n} ${what}${n === 1 ? "" : "s"}`;

/** Hand readings over as a table: what the record will not have is not lost. */
function save(items: readonly Outgoing[]): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([asCsv(items)], { type: "text/csv" }));
  link.download = "readings-kept-here.csv";
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

export function KeptHere({
  open,
  close,
  leave,
}: {
  open: boolean;
  close: () => void;
  /** Sign out all the same; where that is what the person wanted to do. */
  leave?: () => void;
}) {
  const items = useOutbox();
  return (
    <Dialog open={open} onClose={close} maxWidth="md" fullWidth aria-labelledby="kept-here">
      <DialogTitle id="kept-here">
        {items.length === 0
          ? "Every reading is in the record"
          : `${count(items.length)} on this device, not in the record yet`}
      </DialogTitle>
      <DialogContent>
        {leave && items.length > 0 && (
          <Box sx={{ mb: 1 }}>
            What waits here stays under your name, and is sent when you sign in again on this
            device. Nobody else who signs in here sees it or sends it.
          </Box>
        )}
        <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
          {items.map((item) => (
            <Line key={item.id} item={item} close={close} />
          ))}
        </Box>
      </DialogContent>
      <DialogActions sx={{ flexWrap: "wrap", gap: 1 }}>
        {items.length > 0 && <Button onClick={() => save(items)}>Save them as a file</Button>}
        {leave && <Button onClick={leave}>Sign out</Button>}
        <Button variant="contained" onClick={close}>
          {leave ? "Stay" : "Close"}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function Line({ item, close }: { item: Outgoing; close: () => void }) {
  const when = useWhen();
  const { at, refused, aside } = item;
  const where = [at.machine, at.check, at.round ? `round ${at.round}` : ""].filter(Boolean);
  return (
    <Box component="li" sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, py: 1 })}>
      <b>{asTyped(item)}</b> at {at.station || item.body.station} ·{" "}
      <Link component={RouterLink} to={`/checks/${item.checkId}`} onClick={close} color="inherit">
        {where.join(", ") || "its check"}
      </Link>{" "}
      · {when(item.body.read_at)}
      <Box sx={{ color: "text.secondary" }}>
        {refused
          ? `${aside ? "Put aside. " : ""}Not taken: ${refused.message}`
          : "Waits for the connection."}
      </Box>
      {refused && (
        <Box>
          <Button size="small" onClick={() => void sendAgain(item.id)}>
            Send it again
          </Button>
          <Button size="small" onClick={() => void discard(item.id)}>
            Drop it
          </Button>
        </Box>
      )}
    </Box>
  );
}
