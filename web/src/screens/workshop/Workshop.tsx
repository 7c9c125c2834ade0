import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link as RouterLink, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { useWorkshop } from "../../api/queries";

import { GhostFigure } from "../../figures/GhostFigure";
import { GoodFor } from "../../parts/GoodFor";
import { OpenCheck } from "../../parts/OpenCheck";
import { VerdictMark } from "../../parts/VerdictMark";
import { Failed, Faults, Loading } from "../../parts/Waiting";
import { useSettings } from "../../settings";
import { Beginning } from "./Beginning";
import { LookAgain } from "./LookAgain";

type Machine = Schemas["MachineBrief"];

export default function Workshop() {
  const { workshopId = "" } = useParams();
  const workshop = useWorkshop(workshopId);
  if (workshop.isPending) return <Loading />;
  if (workshop.isError)
    return <Failed problem={workshop.error} again={() => void workshop.refetch()} />;
  const { machines, archived, faults, name, role } = workshop.data;
  const empty = machines.length + archived.length + faults.length === 0;
  if (empty && role !== "viewer")
    return (
      <Box sx={{ maxWidth: 1280, mx: "auto", px: { xs: 2, md: 3 }, py: 3 }}>
        <Beginning workshopId={workshopId} />
      </Box>
    );
  return (
    <Box sx={{ maxWidth: 1280, mx: "auto", px: { xs: 2, md: 3 }, py: 3 }}>
      <Box sx={{ display: "flex", alignItems: "center", flexWrap: "wrap", gap: 2, mb: 2 }}>
        <Typography variant="h1" sx={{ flex: 1, minWidth: 220 }}>
          {machines.length ? "How the machines stand" : `Nothing stands in ${name} yet`}
        </Typography>
        {machines.length > 0 && (
          <Button component={RouterLink} to={`/w/${workshopId}/symptoms`}>
            What brings you here?
          </Button>
        )}
        {role !== "viewer" && (
          <Button variant="outlined" component={RouterLink} to={`/w/${workshopId}/new-machine`}>
            Add a machine
          </Button>
        )}
      </Box>
      <Faults faults={faults} />
      {empty && <Typography>Its owner has not described a machine so far.</Typography>}
      <Box
        sx={{
          display: "grid",
          gap: { xs: 4, md: 5 },
          gridTemplateColumns: { xs: "1fr", md: "repeat(3, minmax(0, 1fr))" },
        }}
      >
        {machines.map((machine) => (
          <Standing key={machine.id} machine={machine} />
        ))}
      </Box>
      {machines.length > 0 && (
        <Typography sx={{ mt: 4, color: "text.secondary", maxWidth: 720 }}>
          Solid lines are measured and lean as they do, magnified; thin dashes are where they should
          be; dotted parts have not been measured; what is stale is drawn in dashes.
        </Typography>
      )}
      {machines.length > 0 && <LookAgain workshopId={workshopId} write={role !== "viewer"} />}
      {archived.length > 0 && (
        <Box sx={{ mt: 4 }}>
          <Typography variant="h2">Put away</Typography>
          {archived.map((machine) => (
            <Link
              key={machine.id}
              component={RouterLink}
              to={`/machines/${machine.id}`}
              color="inherit"
              sx={{ mr: 2, display: "inline-flex", minHeight: 48, alignItems: "center" }}
            >
              {machine.name}
            </Link>
          ))}
        </Box>
      )}
    </Box>
  );
}

function Standing({ machine }: { machine: Machine }) {
  const { say } = useSettings();
  const [factor, setFactor] = useState(machine.ghost.factor);
  const factors = machine.ghost.factors;
  const step = machine.next_step;
  const measured = machine.ghost.worst_mm_per_m > 0;
  return (
    <Box
      component="section"
      aria-labelledby={`name-${machine.id}`}
      sx={{ display: "flex", flexDirection: "column" }}
    >
      <Box
        sx={(t) => ({
          display: "flex",
          alignItems: "baseline",
          borderTop: `2px solid ${t.palette.ink}`,
          pt: 1,
          mb: 1,
          flexWrap: "wrap",
          columnGap: 2,
        })}
      >
        <Typography id={`name-${machine.id}`} variant="h2" sx={{ flex: 1 }}>
          <Link component={RouterLink} to={`/machines/${machine.id}`} color="inherit">
            {machine.name}
          </Link>
        </Typography>
        {machine.status && <VerdictMark status={machine.status} />}
      </Box>
      <Box sx={{ height: 230 }}>
        <GhostFigure ghost={machine.ghost} factor={factor} name={machine.name} />
      </Box>
      <Box sx={{ display: "flex", alignItems: "center", gap: 2, minHeight: 48 }}>
        {measured ? (
          <>
            <Slider
              aria-label={`Magnification of ${machine.name}`}
              value={factors.indexOf(factor)}
              min={0}
              max={factors.length - 1}
              step={1}
              onChange={(_, i) => setFactor(factors[i as number] ?? factor)}
              getAriaValueText={(i) => `${factors[i]} times`}
            />
            <Box sx={{ whiteSpace: "nowrap" }}>drawn ×{factor}</Box>
          </>
        ) : (
          <Box sx={{ color: "text.secondary" }}>Nothing measured: all dotted.</Box>
        )}
      </Box>
      <Typography sx={{ minHeight: { md: 96 }, mb: 1.5 }}>{say(machine.told)}</Typography>
      <GoodFor machineId={machine.id} jobs={machine.jobs} />
      <Box sx={{ mt: "auto" }}>
        {step && machine.can_write ? (
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
            <OpenCheck
              main
              machineId={machine.id}
              kind={step.kind}
              text={`${step.open_check ? "Go on:" : "Begin:"} ${step.title.toLowerCase()} · ${step.minutes} min`}
            />
            {machine.evening && (
              <Button component={RouterLink} to={`/machines/${machine.id}/evening`}>
                The evening
              </Button>
            )}
          </Box>
        ) : (
          <Button variant="outlined" component={RouterLink} to={`/machines/${machine.id}`}>
            Look at it
          </Button>
        )}
      </Box>
    </Box>
  );
}
