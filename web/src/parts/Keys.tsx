import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useHotkeys } from "react-hotkeys-hook";

/** A single letter outside text fields; with Alt also inside them. */
export function useLetter(letter: string, act: () => void, enabled = true): void {
  // "?" is made with Shift on most keyboards, so it goes by what the key says
  const sign = letter === "?";
  const options = { enabled, preventDefault: true, useKey: sign };
  useHotkeys(sign ? ["?", "shift+?"] : letter, act, options, [act]);
  useHotkeys(
    sign ? ["alt+?", "alt+shift+?"] : `alt+${letter}`,
    act,
    { ...options, enableOnFormTags: true },
    [act],
  );
}

const KEYS: [string, string][] = [
  ["0–9", "type the reading in hand"],
  ["Enter", "keep it and go to the next station"],
  ["Shift + Enter", "go back to what was read last, or one more"],
  ["z", "set the dial to zero here"],
  ["n", "next step: read, settle or measure again"],
  ["u", "mm or inch"],
  ["?", "this list"],
];

export function KeysHelp({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Dialog open={open} onClose={close} aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys</DialogTitle>
      <DialogContent>
        <p>Single letters work outside text fields; inside them hold Alt as well.</p>
        <table>
          <tbody>
            {KEYS.map(([key, does]) => (
              <tr key={key}>
                <th scope="row" style={{ textAlign: "left", paddingRight: 24 }}>
                  <kbd>{key}</kbd>
                </th>
                <td style={{ padding: "6px 0" }}>{does}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
    </Dialog>
  );
}
