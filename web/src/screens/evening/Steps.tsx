import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { useClock } from "../../parts/useWhen";
import { useSettings } from "../../settings";
import { mono } from "../../theme";

type Step = Schemas["PlanStep"];
type LeftOver = Schemas["LeftOver"];

/** The evening in order, by the clock. */
export function Steps({ steps, action }: { steps: Step[]; action: (step: Step) => ReactNode }) {
  const { say } = useSettings();
  const clock = useClock();
  return (
    <Box component="ol" aria-label="The evening in order" sx={{ listStyle: "none", p: 0, m: 0 }}>
      {steps.map((step) => (
        <Box
          component="li"
          key={step.kind}
          sx={(t) => ({
            borderTop: `1px solid ${t.palette.rule}`,
            py: 1.5,
            display: "grid",
            gap: 1.5,
            gridTemplateColumns: { xs: "56px 1fr", sm: "64px 1fr auto" },
          })}
        >
          <Box sx={{ fontFamily: mono, pt: 0.25 }}>{clock(step.starts)}</Box>
          <Box>
            <Typography variant="h3" component="h2">
              {step.title}
            </Typography>
            <Typography>{say(step.reason)}</Typography>
            <Typography sx={{ color: "text.secondary" }}>
              about {step.minutes} min
              {step.rounds > 0 &&
                `, ${step.rounds === 1 ? "one correction" : `${step.rounds} corrections`} among them`}
            </Typography>
          </Box>
          <Box sx={{ gridColumn: { xs: 2, sm: 3 } }}>{action(step)}</Box>
        </Box>
      ))}
    </Box>
  );
}

/** What will still be open afterwards, and why. */
export function Left({
  left,
  action,
}: {
  left: LeftOver[];
  action: (item: LeftOver) => ReactNode;
}) {
  const { say } = useSettings();
  if (left.length === 0) return null;
  return (
    <Box sx={{ mt: 3 }}>
      <Typography variant="h3" component="h2">
        Stays open
      </Typography>
      {left.map((item) => (
        <Box key={item.kind} sx={{ display: "flex", gap: 1, flexWrap: "wrap", minHeight: 36 }}>
          <Box sx={{ flex: 1 }}>
            {item.title}, about {item.minutes} min. {say(item.reason)}
          </Box>
          {action(item)}
        </Box>
      ))}
    </Box>
  );
}
