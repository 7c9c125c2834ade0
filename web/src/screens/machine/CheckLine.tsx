import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { Machine } from "../../api/queries";
import { LeaveIt } from "../../parts/LeaveIt";
import { OpenCheck } from "../../parts/OpenCheck";
import { TakeBack } from "../../parts/TakeBack";
import { useDay, useWhen } from "../../parts/useWhen";
import { STATUS_WORDS, VerdictMark } from "../../parts/VerdictMark";
import { Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { mono } from "../../theme";

type CheckStatus = Schemas["CheckStatus"];

/** How one check stands: its mark, its figures, why it is as it is, and what can be done. */
export function CheckLine({
  machine,
  check,
  inside = false,
}: {
  machine: Machine;
  check: CheckStatus;
  /** Under a line that has its mark already. */
  inside?: boolean;
}) {
  const { say } = useSettings();
  const when = useWhen();
  const day = useDay();
  const [leaving, setLeaving] = useState(false);
  const job = machine.job_limits?.limits[check.kind];
  const limits = (machine.limits[check.kind] ?? []).map(
    (own) => job?.find((l) => l.key === own.key) ?? own,
  );
  const alike = new Set(limits.map((l) => l.words.metric)).size <= 1;
  // the sentence of an out check repeats its figures; what made it stale is said nowhere else
  const why = check.status === "stale" || check.is_due || check.withheld ? check.why : null;
  const canLeave = machine.can_write && check.status !== "true" && !check.left;
  return (
    <Box
      sx={(t) => ({
        borderTop: inside ? "none" : `1px solid ${t.palette.rule}`,
        py: inside ? 0.5 : 1.5,
        pl: inside ? { md: 4.5 } : 0,
        pb: 1.5,
        display: "grid",
        columnGap: 1.5,
        rowGap: 1,
        alignItems: "start",
        // what is told beside a button never squeezes what the line says
        gridTemplateColumns: {
          md: `${inside ? "" : "190px "}minmax(0, 1fr) fit-content(340px)`,
        },
      })}
    >
      {!inside && (
        <VerdictMark status={check.status} words={check.withheld ? "Not known" : undefined} />
      )}
      <Box>
        <Typography variant="h3">{check.question}</Typography>
        {check.values.map((value) => (
          <Box key={value.label.metric} sx={{ display: "flex", gap: 1.5, flexWrap: "wrap" }}>
            <Box sx={{ minWidth: 130 }}>{say(value.label)}</Box>
            <Box sx={{ fontFamily: mono }}>{say(value.words)}</Box>
            <Box sx={{ color: "text.secondary" }}>
              {STATUS_WORDS[value.status]}
              {check.status === "stale" && " then"}
            </Box>
          </Box>
        ))}
        {new Set(check.parts.map((p) => p.status)).size > 1 && (
          <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2 }}>
            {check.parts.map((p) => (
              <Box key={p.title} component="span" sx={{ color: "text.secondary" }}>
                {p.title}: {STATUS_WORDS[p.status].toLowerCase()}
                {!p.needed && p.status === "unmeasured" && ", not needed"}
              </Box>
            ))}
          </Box>
        )}
        {why && <Remark tone="look">{say(why)}</Remark>}
        {check.lapsed && <Remark tone="look">{say(check.lapsed)}</Remark>}
        {check.left && (
          <Remark>
            Left as it is on {day(check.left.at)}: {check.left.reason}{" "}
            {machine.can_write && (
              <TakeBack
                type="decisions"
                id={check.left.id}
                taken={false}
                what={`leaving the ${check.title.toLowerCase()}`}
              />
            )}
          </Remark>
        )}
        <Typography sx={{ color: "text.secondary" }}>
          {job && `For “${machine.job_limits?.name}”: `}
          {alike
            ? limits[0] && `Limit ${say(limits[0].words)}`
            : `Limits: ${limits.map((l) => `${l.title} ${say(l.words)}`).join("; ")}`}
          {check.measured_at && `${limits.length ? " · " : ""}last read ${when(check.measured_at)}`}
          {check.due && !check.is_due && ` · look again ${day(check.due)}`}
        </Typography>
        {leaving && (
          <LeaveIt
            machineId={machine.id}
            kind={check.kind}
            left={() => undefined}
            done={() => setLeaving(false)}
          />
        )}
      </Box>
      {machine.can_write && (
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
          {canLeave && !leaving && (
            <Button onClick={() => setLeaving(true)} aria-expanded={leaving}>
              Leave it
            </Button>
          )}
          <OpenCheck
            machineId={machine.id}
            kind={check.kind}
            detour={check.detour}
            text={check.open_check ? "Go on" : "Measure"}
            title={check.title}
          />
        </Box>
      )}
    </Box>
  );
}
