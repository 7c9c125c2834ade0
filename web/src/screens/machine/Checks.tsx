import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { Schemas } from "../../api/client";
import type { Machine } from "../../api/queries";
import { useDay } from "../../parts/useWhen";
import { Square, STATUS_WORDS } from "../../parts/VerdictMark";
import { useSettings } from "../../settings";
import { mono } from "../../theme";
import { CheckLine } from "./CheckLine";

type CheckStatus = Schemas["CheckStatus"];

/** Whether something is to be done about it: it is out, stale, missing or due, and not left. */
const amiss = (check: CheckStatus) =>
  check.asked && !check.left && !check.withheld && (check.status !== "true" || check.is_due);

/** All checks of a machine: what needs doing first, then every stage, a line each. */
export function Checks({ machine }: { machine: Machine }) {
  const todo = machine.checks.filter(amiss);
  const rest = machine.checks.filter((c) => c.asked && !amiss(c));
  const unasked = machine.checks.filter((c) => !c.asked);
  const stages = machine.stages.filter((s) => rest.some((c) => c.stage === s.key));
  if (machine.checks.length === 0)
    return (
      <Typography>
        Nothing of this machine can be measured yet. Say under “Describe it” which parts it has.
      </Typography>
    );
  return (
    <>
      {todo.length > 0 && <Group title="To be done" checks={todo} machine={machine} />}
      {stages.map((stage) => (
        <Group
          key={stage.key}
          title={stage.title}
          checks={rest.filter((c) => c.stage === stage.key)}
          machine={machine}
        />
      ))}
      {unasked.length > 0 && (
        <Box component="details" sx={{ mt: 1 }}>
          <Box
            component="summary"
            sx={{
              cursor: "pointer",
              minHeight: 40,
              color: "text.secondary",
              alignContent: "center",
            }}
          >
            {unasked.length} more, read only when another check asks for{" "}
            {unasked.length === 1 ? "it" : "them"}
          </Box>
          <Group title="When asked for" checks={unasked} machine={machine} />
        </Box>
      )}
    </>
  );
}

function Group({
  title,
  checks,
  machine,
}: {
  title: string;
  checks: CheckStatus[];
  machine: Machine;
}) {
  return (
    <Box
      component="section"
      aria-label={title}
      sx={(t) => ({
        display: "grid",
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "128px minmax(0, 1fr)" },
        columnGap: 2,
        borderTop: `1px solid ${t.palette.rule}`,
        py: 0.5,
      })}
    >
      <Box sx={{ fontWeight: 600, pt: { md: 1 }, color: "text.secondary" }}>{title}</Box>
      <Box>
        {checks.map((check) => (
          <Row key={check.kind} check={check} machine={machine} />
        ))}
      </Box>
    </Box>
  );
}

/** One check in one line; opened, all of it. */
function Row({ check, machine }: { check: CheckStatus; machine: Machine }) {
  const { say } = useSettings();
  const day = useDay();
  // a figure that no longer holds is not told, but what undid it
  const gone =
    check.left?.reason ?? (check.status === "stale" || check.withheld ? say(check.why) : "");
  const told = check.left
    ? "left as it is"
    : check.withheld
      ? "not known, tilted"
      : STATUS_WORDS[check.status].toLowerCase();
  return (
    <Box component="details">
      <Box
        component="summary"
        sx={{
          cursor: "pointer",
          minHeight: { xs: 44, md: 32 },
          display: "grid",
          gridTemplateColumns: {
            xs: "24px minmax(0, 1fr) auto",
            md: "24px minmax(0, 1.1fr) minmax(0, 1.3fr) 120px",
          },
          columnGap: 1.5,
          alignItems: "center",
          "&::-webkit-details-marker": { display: "none" },
        }}
      >
        <Square status={check.status} size={20} />
        <Box>
          <Box component="span" sx={{ textDecoration: "underline", textUnderlineOffset: 3 }}>
            {check.title}
          </Box>
          <Box component="span" sx={{ color: "text.secondary" }}>
            {" "}
            {check.status !== "true" || check.left ? told : ""}
            {check.is_due && " · due again"}
          </Box>
        </Box>
        <Box
          sx={{
            fontFamily: gone ? undefined : mono,
            color: gone ? "text.secondary" : undefined,
            fontSize: ".95rem",
            display: { xs: "none", md: "block" },
            overflow: "hidden",
            textOverflow: "ellipsis",
            whiteSpace: "nowrap",
          }}
        >
          {gone || (check.worst && say(check.worst.words))}
        </Box>
        <Box sx={{ color: "text.secondary", textAlign: "right", fontSize: ".95rem" }}>
          {check.measured_at ? day(check.measured_at) : ""}
        </Box>
      </Box>
      <CheckLine machine={machine} check={check} inside />
    </Box>
  );
}
