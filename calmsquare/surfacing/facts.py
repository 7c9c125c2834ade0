"""What the record knows of a machine's bed when something is planned on it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.utils import timezone

from calmsquare.logbook import compute, recorded
from calmsquare.logbook.course import known_of, zone_of
from calmsquare.logbook.models import Round
from calmsquare.surfacing.models import SurfacingPlan
from calmsquare.workshop.models import Machine
from calmsquare.workshop.services import machine_spec
from truing.checks.bed_map.evaluate import BedMapFinding
from truing.contract.known import Known
from truing.effects.ridges import Doubtful
from truing.machine.board import Board
from truing.machine.subject import Subject
from truing.measure.words import Words, plain, say, show_estimate
from truing.registry import kind
from truing.surfacing.facts import Facts

LEANS = ("lean_x", "nod")
TRAM, RIDGES = "spindle_tram", "ridge_reading"


@dataclass(frozen=True)
class Mapped:
    """The latest map of a bed."""

    finding: BedMapFinding
    expanded_mm: float
    at: datetime
    fresh: bool
    check_id: UUID
    words: Words


def found_of(machine: Machine) -> list[Known]:
    """What checks have found that a plan leans on."""
    return known_of(machine, ("bed_map", TRAM, RIDGES, "drive_proof"))


def facts_of(machine: Machine, known: list[Known]) -> Facts:
    """Board, map, lean and proven feed, as far as they are fresh; `known` is of `found_of`."""
    spec = machine_spec(machine)
    mapped = map_of(machine, known)
    found = mapped.finding if mapped is not None and mapped.fresh else None
    lean_x, lean_y = leans(known)
    # a seat is cut deeper, and tells nothing of a face
    skims = SurfacingPlan.objects.filter(machine=machine, wish__work="skim")
    done = skims.filter(done_at__isnull=False)
    return Facts(
        machine=machine.name,
        table_x_mm=spec.table_x_mm,
        table_y_mm=spec.table_y_mm,
        board=spec.board or Board(),
        map=[(c.x_mm, c.y_mm, c.up_mm) for c in found.cells] if found else [],
        patches=found.patches if found else [],
        holes=found.holes if found else [],
        map_expanded_mm=mapped.expanded_mm if mapped and found else 0.0,
        specks=[(s.x_mm, s.y_mm, s.up_mm) for s in found.specks] if found else [],
        lean_x=lean_x,
        lean_y=lean_y,
        proven_feed_mm_min=_feed(known),
        taken_mm=[float(v) for v in done.values_list("removed_mm", flat=True)[:12]],
        day=timezone.now().astimezone(zone_of(machine)).date().isoformat(),
    )


def outdated(plan: SurfacingPlan, mark: str) -> Words | None:
    """Why the program of a plan is not for the bed whose mark this is; None where it is."""
    was = plan.plan.get("mark", "")
    if not was or was == mark:
        return None
    return plain(
        "The board, what is in its way or its map has changed since: depths and ways round are of "
        "the bed as it was. Plan it anew; its figures are still there."
    )


def map_of(machine: Machine, known: list[Known]) -> Mapped | None:
    """The latest map, fresh or not; None where there is none that can be read."""
    latest = next((k for k in known if k.kind == "bed_map"), None)
    if latest is None:
        return None
    round = (
        Round.objects.filter(check_run__machine=machine, check_run__kind="bed_map")
        .exclude(verdict="")
        .select_related("check_run")
        .order_by("-check_run__opened_at", "-number")
        .first()
    )
    finding = recorded.stored(round).finding if round else None
    if round is None or not isinstance(finding, BedMapFinding):
        return None
    if finding.count > len(finding.cells) and not finding.patches:
        finding = _in_full(round, finding)
    area = next(q for q in finding.quantities if q.key == "area").estimate
    high = area.limits.high if area.limits else area.value + area.expanded
    return Mapped(
        finding=finding,
        # the upper limit of highest less lowest is the value and √2 times U of a height
        expanded_mm=max(0.0, (high - area.value) / 2**0.5),
        at=round.read_at or round.opened_at,
        fresh=latest.fresh,
        check_id=round.check_run.pk,
        words=say("Highest less lowest {v}.", v=show_estimate(area.value, area.expanded, "length")),
    )


def _in_full(round: Round, finding: BedMapFinding) -> BedMapFinding:
    """A map of many points that was kept by means alone, which hide what stands between them: made
    out of its log anew."""
    case = compute.case_of(
        round.check_run, round, compute.core_readings(list(round.readings.all()))
    )
    found = kind(finding.kind).weigh(case).finding
    return found if isinstance(found, BedMapFinding) else finding


def leans(known: list[Known]) -> tuple[Doubtful | None, Doubtful | None]:
    """How the spindle leans along X and Y by its tram, else by its ridges; None where neither is
    fresh."""
    tram = told_by(known)
    found: list[Doubtful | None] = []
    for key in LEANS:
        # a gantry is read at several places: the worst of them counts
        values = [
            v
            for name, v in (tram.values if tram else {}).items()
            if name == key or name.startswith(f"{key}@")
        ]
        worst = max(values, key=lambda v: abs(v.value), default=None)
        found.append((worst.value, worst.expanded) if worst else None)
    return found[0], found[1]


def told_by(known: list[Known]) -> Known | None:
    """What tells the spindle's lean: a swung dial counts before the ridges, which are weaker."""
    fresh = {k.kind: k for k in reversed(known) if k.fresh}
    return fresh.get(TRAM) or fresh.get(RIDGES)


def lean_words(known: list[Known]) -> Words:
    """How the spindle leans, as the plan takes it."""
    lean_x, lean_y = leans(known)
    by = told_by(known)
    if by is None or lean_x is None or lean_y is None:
        return plain("The spindle’s lean is not known, or not any more.")
    return say(
        "Lean {a}, nod {b}, by the {what}.",
        what="tram as read last" if by.kind == TRAM else "ridges that it left, a weaker witness",
        a=show_estimate(*lean_x, "slope", signed=True),
        b=show_estimate(*lean_y, "slope", signed=True),
    )


def _feed(known: list[Known]) -> float:
    """The least feed that both sideways drives have proven; 0 where one has not."""
    proven = {
        k.subject: v.value
        for k in known
        if k.kind == "drive_proof" and k.fresh
        for name, v in k.values.items()
        if name == "recommended" and v.measure == "feed"
    }
    found = [proven.get(Subject.part(way).text) for way in ("left_right", "front_back")]
    return min((v for v in found if v is not None), default=0.0) if None not in found else 0.0
