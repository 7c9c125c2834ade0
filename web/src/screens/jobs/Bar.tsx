import Box from "@mui/material/Box";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useId } from "react";
import type { Schemas } from "../../api/client";
import { AnswerMark } from "../../parts/AnswerMark";
import { useSettings } from "../../settings";

type Demand = Schemas["ToldDemand"];
type Share = Schemas["ToldShare"];

const HEIGHT = 26;
const LEFT_HEIGHT = 7;
/** Shares that are told without being asked for. */
const FEW = 3;
const SHADES = [0.85, 0.6, 0.42, 0.3, 0.22];

const STATES: Record<Share["state"], string> = {
  measured: "",
  left: "left as it is",
  stale: "stale",
  not_measured: "not measured: its usual limit",
};

/** One demand: what each error takes of its tolerance, the largest first, hatched where it is not
 * known; under it what would be left once its checks are within their limits. */
export function Bar({ demand, feature }: { demand: Demand; feature: string }) {
  const { say } = useSettings();
  const theme = useTheme();
  // as it may stand in an address of the drawing
  const hatch = useId().replace(/\W/g, "");
  const scale = Math.max(1.25, Math.min(4, demand.of_tolerance * 1.05));
  const at = (share: number) => (100 * Math.min(share, scale)) / scale;
  const left = demand.shares.reduce((sum, s) => sum + s.leaves, 0);
  const helps = left < demand.of_tolerance - 0.02;
  const spans = laid(demand.shares);
  const told = `${feature}, ${demand.title}: up to ${say(demand.most)} of ${say(demand.tolerance)}`;
  return (
    <Box sx={{ my: 1.5 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 2, alignItems: "center" }}>
        <Typography component="h3" variant="h3" sx={{ flex: 1, minWidth: 140 }}>
          {demand.title}
        </Typography>
        <Box sx={{ whiteSpace: "nowrap" }}>
          up to <b>{say(demand.most)}</b> of {say(demand.tolerance)}
        </Box>
        <AnswerMark answer={demand.answer} />
      </Box>
      <svg
        width="100%"
        height={HEIGHT + LEFT_HEIGHT + 8}
        role="img"
        aria-label={told}
        style={{ display: "block" }}
      >
        <defs>
          <pattern id={hatch} width="7" height="7" patternUnits="userSpaceOnUse">
            <path
              d="M-1 8 8 -1M-2 2 2 -2M5 9 9 5"
              stroke={theme.palette.pencil}
              strokeWidth="1.4"
            />
          </pattern>
        </defs>
        <rect
          width={`${at(1)}%`}
          height={HEIGHT}
          y="2"
          fill="none"
          stroke={theme.palette.rule}
          strokeWidth="1"
        />
        {spans.map(({ share, from }, i) => {
          const known = share.state === "measured" || share.state === "left";
          const width = at(from + share.of_tolerance) - at(from);
          return (
            <rect
              key={`${share.text.metric}${from}`}
              x={`${at(from)}%`}
              width={`${width}%`}
              y="2"
              height={HEIGHT}
              fill={known ? theme.palette.ink : `url(#${hatch})`}
              fillOpacity={known ? (SHADES[Math.min(i, SHADES.length - 1)] ?? 0.2) : 1}
              stroke={theme.palette.paper}
              strokeWidth="1.5"
            >
              <title>{say(share.text)}</title>
            </rect>
          );
        })}
        {helps && (
          <rect
            y={HEIGHT + 4}
            width={`${at(left)}%`}
            height={LEFT_HEIGHT}
            fill={theme.palette.status.true}
          />
        )}
        <line
          x1={`${at(1)}%`}
          x2={`${at(1)}%`}
          y1="0"
          y2={HEIGHT + LEFT_HEIGHT + 8}
          stroke={theme.palette.status.out}
          strokeWidth="2.5"
        />
      </svg>
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {demand.shares.slice(0, FEW).map((share, i) => (
          <Line key={`${share.text.metric}${share.kind_title}`} share={share} i={i} />
        ))}
      </Box>
      {demand.shares.length > FEW && (
        <Box component="details">
          <Box
            component="summary"
            sx={{ cursor: "pointer", minHeight: 36, alignContent: "center" }}
          >
            {demand.shares.length - FEW} smaller
          </Box>
          <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
            {demand.shares.slice(FEW).map((share, i) => (
              <Line key={`${share.text.metric}${share.kind_title}`} share={share} i={i + FEW} />
            ))}
          </Box>
        </Box>
      )}
    </Box>
  );
}

/** Where each share begins. */
function laid(shares: Share[]): { share: Share; from: number }[] {
  let from = 0;
  return shares.map((share) => {
    const here = { share, from };
    from += share.of_tolerance;
    return here;
  });
}

function Line({ share, i }: { share: Share; i: number }) {
  const { say } = useSettings();
  const known = share.state === "measured" || share.state === "left";
  const notes = [STATES[share.state], share.weak ? "by a weaker witness" : ""].filter(Boolean);
  return (
    <Box component="li" sx={{ display: "flex", gap: 1, alignItems: "baseline", py: 0.25 }}>
      <Box
        aria-hidden
        sx={(t) => ({
          flex: "none",
          width: 12,
          height: 12,
          alignSelf: "center",
          ...(known
            ? { bgcolor: t.palette.ink, opacity: SHADES[Math.min(i, SHADES.length - 1)] }
            : { border: `1.5px dashed ${t.palette.pencil}` }),
        })}
      />
      <span>
        {say(share.text)}
        <Box component="span" sx={{ color: "text.secondary" }}>
          {" "}
          · {share.kind_title.toLowerCase()}
          {notes.length > 0 && `, ${notes.join(", ")}`}
        </Box>
      </span>
    </Box>
  );
}

/** What the bars mean, once for all of them. */
export function BarKey() {
  return (
    <Typography sx={{ color: "text.secondary", maxWidth: 720 }}>
      Each bar adds up the worst that errors can do; the line is the tolerance. Hatched is what is
      not known: a usual limit stands in for it. The thin bar under it is what would be left with
      those checks within their limits.
    </Typography>
  );
}
