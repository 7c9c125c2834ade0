import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import { useTheme } from "@mui/material/styles";
import type { RoundState } from "../api/client";
import { useSettings } from "../settings";
import { mono } from "../theme";
import { VerdictMark } from "./VerdictMark";

const WIDE = 168;
const HIGH = 76;
/** The band of the tolerance is a third of the height; beyond three times it, marks stay at the edge. */
const REACH = 3;

/** One column for each round: values with ±U against the tolerance band, prediction, what was done. */
export function RoundsRibbon({
  rounds,
  viewing,
  view,
}: {
  rounds: RoundState[];
  viewing: number;
  view: (number: number) => void;
}) {
  const { say } = useSettings();
  const { palette } = useTheme();
  return (
    <Box
      component="section"
      aria-label="Rounds"
      tabIndex={0}
      sx={{ display: "flex", overflowX: "auto", borderTop: `1px solid ${palette.rule}`, mt: 2 }}
    >
      {rounds.map((round) => {
        const verdict = round.brief.verdict;
        return (
          <ButtonBase
            key={round.id}
            onClick={() => view(round.number)}
            aria-pressed={round.number === viewing}
            sx={{
              width: WIDE,
              flex: "none",
              p: 1,
              display: "block",
              textAlign: "left",
              borderRight: `1px solid ${palette.rule}`,
              boxShadow:
                round.number === viewing ? `inset 0 3px ${palette.primary.main}` : undefined,
              verticalAlign: "top",
            }}
          >
            <Box
              sx={{ display: "flex", justifyContent: "space-between", gap: 1, fontSize: ".85rem" }}
            >
              <span>Round {round.number}</span>
              {verdict ? <VerdictMark status={verdict} size={20} /> : <span>in hand</span>}
            </Box>
            <Values round={round} />
            <Box sx={{ fontFamily: mono, fontSize: ".75rem", minHeight: 18 }}>
              {round.brief.values.length <= 2
                ? round.brief.values.map((q) => (
                    <div key={q.key}>
                      {say(q.label)} {say(q.words).split(" ±")[0]}
                    </div>
                  ))
                : null}
            </Box>
            <Box sx={{ fontSize: ".8rem", color: "text.secondary" }}>
              {round.move ? say(round.move.said) : ""}
            </Box>
          </ButtonBase>
        );
      })}
    </Box>
  );
}

function Values({ round }: { round: RoundState }) {
  const { palette } = useTheme();
  const quantities = round.brief.values;
  const inner = WIDE - 20;
  const y = (share: number) =>
    HIGH / 2 - (Math.max(-REACH, Math.min(REACH, share)) * (HIGH / 2 - 6)) / REACH;
  const x = (i: number) => (inner * (i + 1)) / (quantities.length + 1);
  return (
    <svg width={inner} height={HIGH} aria-hidden="true" style={{ display: "block" }}>
      <rect
        y={y(1)}
        width={inner}
        height={y(-1) - y(1)}
        fill={palette.status.true}
        opacity="0.18"
      />
      <path d={`M0 ${HIGH / 2}H${inner}`} stroke={palette.pencil} strokeDasharray="3 4" />
      {quantities.map((q, i) => {
        const value = q.value / q.limit;
        const expanded = q.expanded / q.limit;
        const after = round.predicted.find((p) => p.quantity === q.key)?.after.value;
        const expected = after === undefined ? undefined : after / q.limit;
        return (
          <g key={q.key}>
            {expected !== undefined && (
              <path d={`M${x(i) - 9} ${y(expected)}h18`} stroke={palette.pencil} strokeWidth="2" />
            )}
            <path
              d={`M${x(i)} ${y(value - expanded)}V${y(value + expanded)}`}
              stroke={palette.primary.main}
              strokeWidth="2"
            />
            <circle cx={x(i)} cy={y(value)} r="4.5" fill={palette.primary.main} />
          </g>
        );
      })}
    </svg>
  );
}
