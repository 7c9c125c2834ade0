import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { Schemas } from "../../api/client";
import { HEIGHT, lengthIn } from "../../lengths";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";
import type { BedState } from "./queries";

type Plan = Schemas["Surfacing"];

/** What a plan comes to: a sentence first, then what stands against it, then its figures. */
export function PlanResult({ bed, plan }: { bed: BedState; plan: Plan }) {
  const { say } = useSettings();
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 1 }}>
        {say(plan.sentence)}
      </Typography>
      {plan.program === "" && (
        <Remark tone="error" role="alert">
          The checker refuses this program:{" "}
          {(plan.report.faults ?? []).map((f) => say(f.text)).join(" ")}
        </Remark>
      )}
      {plan.notes.map((note) => (
        <Typography key={note.metric} sx={{ mb: 0.5 }}>
          {say(note)}
        </Typography>
      ))}
      {plan.uncut.slice(0, 3).map((u) => (
        <Remark key={u.words.metric} tone="look">
          {say(u.words)}
        </Remark>
      ))}
      <Typography sx={{ mb: 0.5 }}>{say(plan.speeds.words)}</Typography>
      {plan.more_times !== null && plan.more_times !== undefined && (
        <Typography sx={{ mb: 0.5 }}>
          {plan.more_times === 0
            ? "After this it cannot be skimmed again."
            : `After this it can be skimmed about ${plan.more_times} more times.`}
        </Typography>
      )}
      <Ridges plan={plan} />
      {!bed.controller && <HandLines plan={plan} />}
    </Box>
  );
}

function Ridges({ plan }: { plan: Plan }) {
  const { system } = useSettings();
  const rows = plan.choice.rows;
  if (rows.every((r) => r.x_mm === null)) return null;
  const one = (v: number | null | undefined) =>
    v === null || v === undefined ? "–" : lengthIn(v, system, HEIGHT);
  return (
    <Box component="details" sx={{ my: 1 }}>
      <Box component="summary" sx={{ cursor: "pointer", minHeight: 40 }}>
        Ridges for other steps
      </Box>
      <Box component="table" sx={{ borderCollapse: "collapse", "& td, & th": { px: 1, py: 0.25 } }}>
        <thead>
          <tr>
            <th>Step</th>
            <th>Fed left to right</th>
            <th>Fed front to rear</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <Box component="tr" key={r.stepover_mm} sx={{ fontFamily: mono, textAlign: "right" }}>
              <td>{lengthIn(r.stepover_mm, system, [1, 2])}</td>
              <td>{one(r.x_mm)}</td>
              <td>{one(r.y_mm)}</td>
            </Box>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}

function HandLines({ plan }: { plan: Plan }) {
  const { say } = useSettings();
  return (
    <Box component="details" open sx={{ my: 1 }}>
      <Box component="summary" sx={{ cursor: "pointer", minHeight: 40 }}>
        Line by line, for handwheels
      </Box>
      <Box component="ol" sx={{ maxHeight: 320, overflow: "auto", pl: 4 }}>
        {plan.by_hand.map((line) => (
          <li key={`${line.level} ${line.set_words.metric} ${line.go_words.metric}`}>
            <strong>{say(line.set_words)}</strong>: {say(line.go_words)}
          </li>
        ))}
      </Box>
    </Box>
  );
}
