import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Slider from "@mui/material/Slider";
import Tab from "@mui/material/Tab";
import Tabs from "@mui/material/Tabs";
import Typography from "@mui/material/Typography";
import {
  type ReactNode,
  startTransition,
  useCallback,
  useEffect,
  useOptimistic,
  useState,
} from "react";
import { Link as RouterLink, useParams, useSearchParams } from "react-router";
import { useMachine } from "../../api/queries";
import { Figure } from "../../figures/Figure";
import { PlumbLine } from "../../parts/PlumbLine";
import type { JsonObject } from "../../parts/schema";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { BandKey, BedPicture, Readout, type Rectangle } from "./BedPicture";
import { BoardPane, type Drawn } from "./BoardPane";
import { KeptPlans } from "./Done";
import { PlanPane } from "./PlanPane";
import { ProgramPane } from "./ProgramPane";
import { ProgramPicture } from "./ProgramPicture";
import { type BedState, type PlanState, useBed, usePlan, useProgram } from "./queries";
import { Section } from "./Section";

const PANES = ["plan", "board", "kept", "check"] as const;
type Pane = (typeof PANES)[number];
const TITLES: Record<Pane, string> = {
  plan: "Plan",
  board: "Board",
  kept: "Kept",
  check: "Check a program",
};
const PLAY_MS = 60;
const PLAY_STEP = 0.01;

/** A bed: its map, its board, plans to surface it, and programs to be checked on it. */
export default function Bed() {
  const { machineId = "" } = useParams();
  const bed = useBed(machineId);
  const machine = useMachine(machineId);
  if (bed.isPending || machine.isPending) return <Loading />;
  if (bed.isError) return <Failed problem={bed.error} again={() => void bed.refetch()} />;
  if (machine.isError) return <Failed problem={machine.error} />;
  return (
    <Box sx={{ display: "flex", flexDirection: { xs: "column", md: "row" }, gap: { md: 3 } }}>
      <PlumbLine machineId={machineId} stages={machine.data.stages} at="bed" />
      <Shown key={machineId} bed={bed.data} />
    </Box>
  );
}

function Shown({ bed }: { bed: BedState }) {
  const { say } = useSettings();
  const [search, setSearch] = useSearchParams();
  // a tab that is pressed is there at once, however long the address takes to follow: who presses
  // two of them quickly must not find the second taken for the one that still stood there
  const [pane, show] = useOptimistic(PANES.find((p) => p === search.get("pane")) ?? "plan");
  const programId = search.get("program");
  const [wish, setWish] = useState<JsonObject>(bed.wish as JsonObject);
  const [drawing, setDrawing] = useState(false);
  const [drawn, setDrawn] = useState<Drawn>({ rows: [], kept: 0 });
  const [section, setSection] = useState(0);
  const change = useCallback((now: JsonObject) => setWish(now), []);
  const plan = usePlan(bed.machine_id, wish);
  const program = useProgram(pane === "check" ? programId : null);
  const shown = plan.isError ? undefined : plan.data;
  const draw = (r: Rectangle) => {
    const row = {
      name: `Drawn ${(bed.keep_outs.length ?? 0) + drawn.rows.length + 1}`,
      what: "other",
      shape: "rectangle",
      x_mm: r.x,
      y_mm: r.y,
      across_mm: r.across,
      deep_mm: r.deep,
      top_mm: 10,
    };
    setDrawn({ ...drawn, rows: [...drawn.rows, row] });
    setDrawing(false);
  };
  const found = pane === "check" ? program.data : undefined;
  // a pane that was looked at stays as it is, with what is typed in it, while another is
  const [seen, setSeen] = useState<Pane[]>([pane]);
  if (!seen.includes(pane)) setSeen([...seen, pane]);
  const panes: Record<Pane, () => ReactNode> = {
    plan: () => (
      <PlanPane
        bed={bed}
        plan={shown}
        problem={plan.isError ? plan.error : null}
        wish={wish}
        change={change}
      />
    ),
    board: () => (
      <BoardPane
        bed={bed}
        drawing={drawing}
        setDrawing={setDrawing}
        drawn={drawn}
        changed={() => setDrawn({ rows: [], kept: drawn.kept + 1 })}
      />
    ),
    kept: () => <KeptPlans bed={bed} />,
    check: () => (
      <ProgramPane
        bed={bed}
        program={programId ? program.data : undefined}
        look={(id) => setSearch(id ? { pane: "check", program: id } : { pane: "check" })}
      />
    ),
  };
  return (
    <Box sx={{ flex: 1, minWidth: 0, px: 2, py: 2 }}>
      <Typography variant="h1">Bed & surfacing</Typography>
      <Typography sx={{ color: "text.secondary", mb: 1 }}>
        <Link component={RouterLink} to={`/machines/${bed.machine_id}`} color="inherit">
          {bed.machine}
        </Link>{" "}
        · {say(bed.lean_words)}
      </Typography>
      <Box
        sx={{
          display: "grid",
          gap: 3,
          gridTemplateColumns: { xs: "minmax(0, 1fr)", lg: "minmax(0, 1.25fr) minmax(0, 1fr)" },
        }}
      >
        <Box sx={{ position: { lg: "sticky" }, top: 12, alignSelf: "start", minWidth: 0 }}>
          {found?.picture ? (
            <ProgramPicture program={found} picture={found.picture} />
          ) : (
            <Picture
              bed={bed}
              plan={pane === "plan" ? shown : undefined}
              section={section}
              setSection={setSection}
              draw={drawing ? draw : undefined}
            />
          )}
        </Box>
        <Box sx={{ minWidth: 0 }}>
          <Tabs
            value={pane}
            onChange={(_, to: Pane) =>
              startTransition(() => {
                show(to);
                setSearch({ pane: to });
              })
            }
            variant="scrollable"
            aria-label="What to do on the bed"
            sx={{ mb: 1 }}
          >
            {PANES.map((p) => (
              <Tab key={p} value={p} label={TITLES[p]} sx={{ minWidth: 0, px: 1.5 }} />
            ))}
          </Tabs>
          {PANES.filter((p) => seen.includes(p)).map((p) => (
            <Box key={p} hidden={p !== pane}>
              {panes[p]()}
            </Box>
          ))}
        </Box>
      </Box>
    </Box>
  );
}

/** The bed's picture with the plan over it, level by level, played by a slider. */
function Picture({
  bed,
  plan,
  section,
  setSection,
  draw,
}: {
  bed: BedState;
  plan: PlanState | undefined;
  section: number;
  setSection: (y: number) => void;
  draw: ((r: Rectangle) => void) | undefined;
}) {
  const { say } = useSettings();
  const [level, setLevel] = useState(0);
  const [share, setShare] = useState(1);
  const [playing, setPlaying] = useState(false);
  const [pointed, setPointed] = useState<[number, number] | null>(null);
  useEffect(() => {
    if (!playing) return;
    const timer = window.setInterval(
      () => setShare((now) => (now >= 1 ? 0 : Math.min(1, now + PLAY_STEP))),
      PLAY_MS,
    );
    return () => window.clearInterval(timer);
  }, [playing]);
  const levels = plan?.plan.levels ?? [];
  const last = levels.length - 1;
  const at = levels[Math.min(level, last)] ?? levels[last];
  return (
    <Box>
      <BedPicture
        bed={bed}
        work={plan?.plan.work}
        lines={at && { paths: at.passes, share }}
        uncut={plan?.plan.uncut.map((u) => u.outline)}
        origin={plan?.plan.origin}
        section={bed.map ? section : undefined}
        drag={bed.map ? setSection : undefined}
        draw={draw}
        point={bed.map ? setPointed : undefined}
      />
      {bed.map ? (
        <>
          <Readout bed={bed} at={pointed} />
          <BandKey bed={bed} />
          {!bed.map.fresh && (
            <Remark tone="look">
              The map is not of this face any more: something it rests on was touched since.
            </Remark>
          )}
        </>
      ) : (
        <Typography sx={{ color: "text.secondary" }}>
          Not mapped yet.{" "}
          <Link component={RouterLink} to={`/machines/${bed.machine_id}/stages/bed`}>
            Map the bed
          </Link>
        </Typography>
      )}
      {at && (
        <Box
          sx={{ display: "flex", gap: 2, alignItems: "center", flexWrap: "wrap", mt: 1, pr: 1.5 }}
        >
          <Button variant="outlined" onClick={() => setPlaying(!playing)}>
            {playing ? "Stop" : "Play the path"}
          </Button>
          <Slider
            aria-label="How much of the path is drawn"
            min={0}
            max={1}
            step={PLAY_STEP}
            value={share}
            onChange={(_, to) => {
              setPlaying(false);
              setShare(to as number);
            }}
            sx={{ flex: 1, minWidth: 100 }}
          />
          {levels.map((l, i) => (
            <Button
              key={l.z_mm}
              variant="outlined"
              aria-pressed={l === at}
              sx={{ borderWidth: l === at ? 3 : 1 }}
              onClick={() => setLevel(i)}
            >
              Z {say(l.words)}
            </Button>
          ))}
        </Box>
      )}
      <Section bed={bed} at={section} change={setSection} />
      {plan?.ridges && <Figure figure={plan.ridges} />}
    </Box>
  );
}
