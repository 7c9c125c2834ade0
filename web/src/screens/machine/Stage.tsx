import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link as RouterLink, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import {
  type Machine,
  useCourse,
  useMachine,
  useSketches,
  useSketchesPending,
} from "../../api/queries";
import { SketchFigure } from "../../figures/SketchFigure";
import { GuideText } from "../../parts/GuideText";
import { PlumbLine } from "../../parts/PlumbLine";
import { Failed, Loading, Remark } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { CheckLine } from "./CheckLine";

type CourseKind = Schemas["CourseKindOut"];

/** One knot of the plumb line: what it settles, how its checks stand, and how they are made. */
export default function Stage() {
  const { machineId = "", stage = "" } = useParams();
  const machine = useMachine(machineId);
  const course = useCourse();
  const { say } = useSettings();
  if (machine.isPending || course.isPending) return <Loading />;
  if (machine.isError) return <Failed problem={machine.error} />;
  if (course.isError) return <Failed problem={course.error} />;
  const here = machine.data.stages.find((s) => s.key === stage);
  const kinds = course.data.kinds.filter(
    (k) => k.stage === stage && machine.data.suits.includes(k.key),
  );
  return (
    <Box sx={{ display: "flex", flexDirection: { xs: "column", md: "row" }, gap: { md: 3 } }}>
      <PlumbLine machineId={machineId} stages={machine.data.stages} at={stage} />
      <Box sx={{ flex: 1, minWidth: 0, px: 2, py: 3, maxWidth: 900 }}>
        <Typography variant="h1">{here?.title ?? "There is no such stage"}</Typography>
        <Typography sx={{ color: "text.secondary", mb: 2 }}>
          {here?.settles} ·{" "}
          <Link component={RouterLink} to={`/machines/${machineId}`} color="inherit">
            {machine.data.name}
          </Link>
        </Typography>
        {stage === "bed" && (
          <Typography sx={{ mb: 2 }}>
            <Link component={RouterLink} to={`/machines/${machineId}/bed`}>
              Bed & surfacing: the board, plans and programs
            </Link>
          </Typography>
        )}
        {stage === "found" && <Remark>{say(machine.data.as_found.text)}</Remark>}
        {kinds.length === 0 && (
          <Typography>Nothing here for this machine: it has none of the parts.</Typography>
        )}
        <Sections key={stage} kinds={kinds} machine={machine.data} />
      </Box>
    </Box>
  );
}

/** Shown once what is open of them has its sketches, so that nothing jumps under a finger. */
function Sections({ kinds, machine }: { kinds: CourseKind[]; machine: Machine }) {
  const open = kinds.filter((k) => kinds.length === 1 || (k.built && !k.when_needed));
  const pending = useSketchesPending(
    machine.id,
    open.filter((k) => k.built).map((k) => k.key),
  );
  if (pending) return <Loading />;
  return kinds.map((kind) => (
    <KindSection key={kind.key} kind={kind} machine={machine} open={open.includes(kind)} />
  ));
}

function KindSection({
  kind,
  machine,
  open,
}: {
  kind: CourseKind;
  machine: Machine;
  open: boolean;
}) {
  const { say } = useSettings();
  const [looked, setLooked] = useState(open);
  const sketches = useSketches(machine.id, kind.key, looked && kind.built);
  const check = machine.checks.find((c) => c.kind === kind.key);
  const parts = new Set<string>(machine.parts.map((p) => p.key));
  const moving = Object.entries(kind.guide.moving ?? {}).filter(([key]) => parts.has(key));
  return (
    <Box component="section" sx={{ mb: 4 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        {kind.title}
      </Typography>
      {check ? (
        <CheckLine machine={machine} check={check} />
      ) : (
        <Typography
          variant="h3"
          sx={(t) => ({ borderTop: `1px solid ${t.palette.rule}`, pt: 1.5 })}
        >
          {kind.question}
        </Typography>
      )}
      <Typography sx={{ mt: 1 }}>{say(kind.guide.purpose)}</Typography>
      <Typography sx={{ mb: 1 }}>{say(kind.guide.costs)}</Typography>
      <Typography sx={{ color: "text.secondary", mb: 1 }}>
        About {kind.guide.minutes} minutes. At hand: {kind.guide.kit.join("; ")}.
        {kind.when_needed && " Read when another check asks for it."}
        {!kind.built && " By hand for now: its readings cannot be kept here yet."}
      </Typography>
      <Box
        component="details"
        open={open}
        onToggle={(e) => setLooked(looked || e.currentTarget.open)}
      >
        <Box component="summary" sx={{ cursor: "pointer", minHeight: 40 }}>
          How it is done
        </Box>
        {sketches.data && sketches.data.length > 0 && (
          <Box
            sx={{
              display: "grid",
              gap: 3,
              mb: 2,
              gridTemplateColumns: "repeat(auto-fill, minmax(230px, 1fr))",
            }}
          >
            {sketches.data.map((figure) => (
              <Box component="figure" key={figure.shows} sx={{ m: 0 }}>
                <SketchFigure figure={figure} wide={320} />
                <Box component="figcaption" sx={{ color: "text.secondary" }}>
                  {say(figure.title)}
                </Box>
              </Box>
            ))}
          </Box>
        )}
        <GuideText
          guide={kind.guide}
          ways={kind.ways}
          cautions={[...kind.guide.cautions, ...moving.map(([, text]) => text)]}
        />
      </Box>
    </Box>
  );
}
