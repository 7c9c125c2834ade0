"""A face that should run with a travel, by one dial along it: what column face, fixed jaw, fence
and scale have in common.

Readings are taken at places along the face, from its middle; plus is pushed in, so that a face
comes nearer to the dial where it reads more. A part that turns about a pivot by a small angle moves
the face at each place by angle × distance from the pivot.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal, TypeVar

from pydantic import BaseModel, Field, field_validator

from truing.checks.common import after, ends_of, off_one_line, prediction
from truing.contract.case import Case
from truing.contract.design import Design
from truing.contract.expected import expected_fit
from truing.contract.finding import Finding, Note, Quantity, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.contract.history import History
from truing.contract.move import Act, Move, Target
from truing.contract.setup import Setup, Station, closed
from truing.drawing.figures import Curve, CurveFigure, CurvePoint, magnification
from truing.drawing.sketches import UV, Easel, SketchFigure
from truing.machine import Machine
from truing.machine.ghost.sketch import View
from truing.machine.mechanisms import Mechanism
from truing.machine.parts import Direction
from truing.measure.estimate import Estimate, combined
from truing.measure.fields import Mm, MmList, choice, hint, length
from truing.measure.problem import Problem
from truing.measure.words import Words, goes, place, plain, say, show, show_estimate, stated, tick
from truing.moves.changes import take_of
from truing.moves.pivot import (
    LEAST_LEVER,
    TAP_SCATTER,
    Aim,
    aim,
    needle_change_mm,
    pivot_from_tap_mm,
)

MID = "mid"
"""The quantity that holds where the dial stands at the middle of the face: it tells the pivot."""


class FaceSetup(Setup):
    """How a face is read; each kind adds whose it is."""

    face_mm: Mm = length("Length of the face", 100.0, gt=10, le=6000)
    places_mm: MmList = Field(
        default_factory=lambda: [-45.0, 0.0, 45.0],
        max_length=15,
        title="Places along the face",
        json_schema_extra=hint("From its middle; left, front or low is minus.", field="lengths"),
    )
    pivot_mm: Mm = length(
        "The bolt it turns about",
        0.0,
        ge=-6000,
        le=6000,
        prompt="From the middle of the face, along it. The bolt that stays nipped.",
    )
    passes: int = Field(
        2,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint("Two show drift.", field="integer"),
    )
    sweep: Literal["again", "return"] = choice(
        "Every second pass",
        "again",
        {"again": "begins at the first place again", "return": "goes back the way it came"},
        advanced=True,
    )

    @field_validator("places_mm")
    @classmethod
    def _apart(cls, value: list[float]) -> list[float]:
        if len({round(v, 3) for v in value}) < 2:
            raise ValueError("One place tells no direction. Give two or more, far apart.")
        if len({round(v, 3) for v in value}) < len(value):
            raise ValueError("Two of the places are the same.")
        return value

    def loops(self, plan: Sequence[Station]) -> list[list[Station]]:
        return [list(plan)]

    @property
    def runs(self) -> Direction:
        """The travel that the face should run with."""
        return "left_right"


class FaceFit(BaseModel):
    """A face against its travel, from its readings."""

    slope: Estimate
    """Plus = nearer to the dial toward the plus end (mm/m)."""
    mid: Estimate
    """What the dial would show at the middle of the face (mm, pushed in)."""
    bow: Estimate | None
    """What the face is not straight by; None with two places."""
    at_mm: list[float]
    off_mm: list[float]
    """How far each place stands off the travel through the face's middle."""


Face = TypeVar("Face", bound=FaceSetup)


def proposed_places(face_mm: float) -> list[float]:
    """Five places, the outer ones just short of the ends."""
    return [float(round(face_mm * share, 1)) for share in (-0.45, -0.225, 0, 0.225, 0.45)]


def stations(setup: FaceSetup) -> list[Station]:
    """Along the face, from the minus end."""
    return [
        Station(
            key=f"{x:g}",
            label=f"{place(x)} mm",
            prompt=f"Bring the tip to {place(x)} mm from the middle of the face.",
            x_mm=x,
            y_mm=0.0,
            at_mm=x,
        )
        for x in sorted(setup.places_mm)
    ]


def along_the_face(setup: FaceSetup) -> list[Station]:
    """Every reading in turn: along the face, and back the way it came where that is stated."""
    there = stations(setup)
    if setup.passes == 1:
        return closed(there, setup.loops(there))
    back = there[::-1] if setup.sweep == "return" else there
    return [s for done in range(setup.passes) for s in (back if done % 2 else there)]


def there_and_back(setup: FaceSetup, got: Gathered) -> list[Note]:
    """What the way back shows that the way there did not: a slide or a clamp that gives."""
    if setup.sweep != "return":
        return []
    each = [group[1] - group[0] for group in got.as_read.values() if len(group) > 1]
    if len(each) < 2:
        return []
    differ = sum(each) / len(each)
    # what gives is in every difference alike: only what is left of them is scatter
    stated = max(t.instrument.repeatability_mm for t in got.tools.values())
    scatter = (sum((d - differ) ** 2 for d in each) / (len(each) - 1)) ** 0.5
    least = (2 * (stated**2 + got.step_mm**2 / 12)) ** 0.5
    doubt = 2 * max(scatter, least) / len(each) ** 0.5
    if abs(differ) <= doubt:
        return []
    text = say(
        "On the way back it reads {d} on average: the slide has play across, or the dial’s clamp "
        "gives. Both ways are averaged.",
        d=show(differ, doubt, signed=True),
    )
    return [Note(tone="look", text=text)]


def on_the_face(setup: FaceSetup) -> None:
    """Problem when a place does not lie on the face."""
    beyond = [x for x in setup.places_mm if abs(x) > setup.face_mm / 2 + 1e-6]
    if beyond:
        raise Problem(
            f"The place at {place(beyond[0])} mm lies beyond the face, which is "
            f"{setup.face_mm:g} mm long.",
            expected="Places count from the middle of the face; or correct its length.",
            field="places_mm",
        )


def design(setup: FaceSetup, read: Sequence[Station]) -> Design:
    """A face that slopes, and is bowed where enough places tell that by itself."""
    return Design(
        {s.key: {"level": 1.0, "slope": s.x_mm / 1000} for s in read},
        {s.key: {"bow": (2 * s.x_mm / setup.face_mm) ** 2} for s in read},
    )


def evaluated(case: Case[Any, Any]) -> tuple[FaceFit, dict[str, Any]]:
    """The face, and what its finding holds; its slope is judged by the tolerance `face`."""
    setup: FaceSetup = case.setup
    on_the_face(setup)
    plan = stations(setup)
    got = gather(case, plan)
    read = [s for s in plan if s.key in got.means]
    if len(read) < 2:
        raise Problem(
            "One place has been read, which tells no direction.",
            expected="Read a second one, far from it.",
            field="readings",
        )
    solved = got.fit(design(setup, read))
    slope, gain = solved.estimate("slope", "slope")
    mid, mid_gain = solved.estimate("level")
    xs = [s.at_mm or 0.0 for s in read]
    ys = [got.means[s.key].mean_mm for s in read]
    face = FaceFit(
        slope=slope,
        mid=mid,
        bow=off_one_line(got, xs, ys) if len(xs) > 2 else None,
        at_mm=xs,
        off_mm=[y - mid.value for y in ys],
    )
    told = got.told("The direction stands, but check the dial’s clamp.", fit=solved)
    return face, {
        **told,
        "notes": [*told["notes"], *there_and_back(setup, got)],
        "quantities": [_face(setup, face, gain), _mid(mid, mid_gain), *_bowed(face.bow)],
        "face": face,
    }


def _face(setup: FaceSetup, face: FaceFit, gain: float) -> Quantity:
    low, high = ends_of(setup.runs)
    near, far = (high, low) if face.slope.value > 0 else (low, high)
    total = face.slope.times(setup.face_mm / 1000, "length")
    sentence = (
        say(
            "The {near} end stands {size} nearer to the dial than the {far} one, over the {long} "
            "of the face: {slope}.",
            near=near,
            far=far,
            size=show_estimate(abs(total.value), total.expanded, "length"),
            long=show(setup.face_mm, 1),
            slope=shown(face.slope.size),
        )
        if face.slope.visible
        else say(
            "It cannot be told from running true: {size} over the face, {slope}.",
            size=show_estimate(abs(total.value), total.expanded, "length"),
            slope=shown(face.slope.size),
        )
    )
    return quantity(
        "face", "Face against travel", face.slope, sentence, gain=gain, tolerance_key="face"
    )


def _mid(mid: Estimate, gain: float) -> Quantity:
    return quantity(MID, "Dial at mid face", mid, None, gain=gain, tolerance_key=None)


def _bowed(bow: Estimate | None) -> list[Quantity]:
    if bow is None:
        return []
    sentence = say("The face itself is bowed, by {b}: no tap takes that out.", b=shown(bow))
    return [
        quantity(
            "bow",
            "Off one line",
            bow,
            sentence if bow.visible else None,
            gain=2**0.5,
            tolerance_key=None,
            signed=False,
        )
    ]


def expected_slope(case: Case[Any, Any]) -> Estimate:
    """The slope's U to be expected before the first reading. Problem for places off the face."""
    setup: FaceSetup = case.setup
    on_the_face(setup)
    plan = stations(setup)
    promised = expected_fit(design(setup, plan), case, plan)
    return promised.estimate("slope", "slope")[0]


# --- turning it about its bolt --------------------------------------------------------------------


PIVOT_SD = 0.05
"""How well anybody can say where a part turns, as a share of its face (one standard deviation)."""


def pivoted(history: History, now: dict[str, float], face_mm: float) -> float | None:
    """Where the part really turned at its last tap (mm from the middle of the face), by how the
    dial at mid face and the slope changed together; None without a tap, or where the dial moved."""
    if not history.rounds or history.rounds[-1].move is None:
        return None
    was = history.rounds[-1].values
    if "face" not in was or MID not in was:
        return None
    turned = now["face"] - was["face"].value
    if abs(turned) < 3 * was["face"].expanded:
        return None
    at = pivot_from_tap_mm(0.0, now[MID] - was[MID].value, turned)
    return at if abs(at) <= face_mm else None


def turn(case: Case[Any, Any], *, what: str, mechanism: Mechanism, cautions: Sequence[str]) -> Move:
    """Turn the part about its bolt, with a needle target for each place with a lever on it."""
    setup: FaceSetup = case.setup
    q = next(q for q in case.finding.quantities if q.key == "face")
    values = {p.key: p.estimate.value for p in case.finding.quantities}
    learnt = pivoted(case.history, values, setup.face_mm)
    pivot = setup.pivot_mm if learnt is None else learnt
    aimed = aim("face", q.estimate.value, mechanism, case.history)
    take = q.estimate.value - aimed.aim
    targets, blind = _targets(case, take, pivot)
    targets = _handiest_first(targets)
    low, high = ends_of(setup.runs)
    # the end that reads more stands too near: it goes away from the dial
    away = high if take > 0 else low
    shown_by = case.instrument.shown_by
    by = abs(take) * setup.face_mm / 1000
    act = (
        Act.at_tip((low, high), targets[0])
        if targets
        else Act(end=f"the {away} end", way="away", by_mm=by, over_mm=setup.face_mm)
    )
    # what is not known of where it turns goes into how far it turns
    lever = abs(act.target.lever_mm) if act.target else setup.face_mm / 2
    scatter = combined(TAP_SCATTER, 2 * PIVOT_SD * setup.face_mm / lever)
    steps = [
        say(f"Slacken its bolts until it just moves; the one at {place(pivot)} mm stays nipped."),
        act.words,
        plain(f"Nip the bolts in turn, a little each; read {shown_by}."),
        plain(f"Tighten in turn; read {shown_by} again, then the whole face."),
    ]
    return Move(
        key=f"turn:{mechanism}",
        mechanism=mechanism,
        part=setup.subject.key,
        title=say(
            "Turn {what}: {end} {way} the dial",
            what=what,
            end=act.end.replace("the", "its"),
            way="toward" if act.way == "toward" else "away from",
        ),
        steps=steps,
        acts=[act],
        cautions=list(cautions),
        targets=targets,
        predicted=[prediction(q, after(q.estimate, aimed.left, scatter))],
        takes=[take_of(q, take)],
        notes=_notes(setup, aimed, learnt, blind),
    )


def _handiest_first(targets: list[Target]) -> list[Target]:
    """With the place in front where the part is tapped away from the tip, if there is half as long
    a lever there as at the best one: from the dial's side a mallet reaches it."""
    longest = max((abs(t.lever_mm) for t in targets), default=0.0)
    handy = [t for t in targets if not t.pushed_in and abs(t.lever_mm) >= longest / 2][:1]
    return [*handy, *(t for t in targets if t not in handy)]


def _targets(
    case: Case[Any, Any], take: float, pivot_mm: float
) -> tuple[list[Target], list[float]]:
    """(targets, the best lever first; places too near the pivot to show anything)."""
    setup: FaceSetup = case.setup
    per_shown, shown_by = case.instrument.true_mm(1.0), case.instrument.shown_by
    found: list[tuple[float, Target]] = []
    blind = []
    for mean in case.finding.stations:
        x = float(mean.station)
        lever = x - pivot_mm
        if abs(lever) < LEAST_LEVER * setup.face_mm / 2:
            blind.append(x)
            continue
        start = mean.repeats_mm[-1] / per_shown - case.finding.zero_mm
        to = start + needle_change_mm(take, x, pivot_mm) / per_shown
        target = Target(
            station=mean.station,
            label=f"{place(x)} mm",
            from_mm=start,
            to_mm=to,
            words=goes(shown_by, case.instrument.as_read(start), case.instrument.as_read(to)),
            quantity="face",
            per_mm=per_shown / lever * 1000,
            lever_mm=lever,
            pushed_in=(to - start) * per_shown > 0,
        )
        found.append((abs(lever), target))
    return [t for _, t in sorted(found, key=lambda item: -item[0])], blind


def _notes(
    setup: FaceSetup, aimed: Aim, learnt: float | None, blind: Sequence[float]
) -> list[Words]:
    notes = []
    if learnt is not None:
        notes.append(
            say(
                "By its last tap it turns about {at}, not {said}: the target goes by that. "
                "Where the dial was moved since, it does not hold.",
                at=stated(f"{place(round(learnt))} mm"),
                said=stated(f"{place(setup.pivot_mm)} mm"),
            )
            if abs(learnt - setup.pivot_mm) > 0.05 * setup.face_mm
            else plain("By its last tap it turns about the bolt that was named.")
        )
    if blind:
        at = " and ".join(place(x) for x in blind)
        notes.append(
            say(f"At {at} mm the tip stands by the pivot and shows nothing: read elsewhere.")
        )
    if aimed.shift:
        notes.append(
            say(
                "Tightening has moved it by {s} on average; the target allows for it.",
                s=show(aimed.shift, abs(aimed.shift) / 10, "slope", signed=True),
            )
        )
    if aimed.share_left:
        left = aimed.share_left
        notes.append(
            plain(
                f"Earlier taps left about {left:.0%} undone: the target goes past zero."
                if left > 0
                else f"Earlier taps went about {-left:.0%} too far: the target stops short."
            )
        )
    return notes


def curve(case: Case[Any, Any], face: FaceFit, name: str) -> CurveFigure:
    """The face against its travel, with the owner's limit as a band over its length."""
    setup: FaceSetup = case.setup
    band = case.tolerances["face"] * setup.face_mm / 1000
    return CurveFigure(
        title=plain(f"The {name} against its travel"),
        curves=[
            Curve(
                name=name,
                points=[
                    CurvePoint(label=tick(x), at_mm=x, off_mm=v, words=show(v, 0.001, signed=True))
                    for x, v in zip(face.at_mm, face.off_mm, strict=True)
                ],
            )
        ],
        bolts=False,
        up="nearer to the dial",
        band_mm=band / 2,
        band_words=show(band, band / 10),
        factor=magnification(max(1e-4, *(abs(v) for v in face.off_mm)), setup.face_mm),
    )


class FaceFinding(Finding):
    """A face against its travel."""

    face: FaceFit


# --- drawn ----------------------------------------------------------------------------------------


def _laid(easel: Easel, setup: FaceSetup, where: float) -> Callable[[float, float], UV]:
    """From a place along the face and a distance off it, toward the dial, to the view."""
    if setup.runs == "left_right":
        return lambda along, off: (along, where - off)
    return lambda along, off: (where + off, along)


def _view_of(setup: FaceSetup) -> View:
    return "front" if setup.runs == "up_down" else "plan"


def face_drawn(
    setup: FaceSetup, machine: Machine, *, title: str, shows: str, where: float = 0.0
) -> SketchFigure:
    """A dial along a face, seen from above (an upright one from the front)."""
    easel = Easel(machine, _view_of(setup))
    at = _laid(easel, setup, where)
    half, deep = setup.face_mm / 2, 0.25 * setup.face_mm
    easel.line(at(-half, 0), at(half, 0), at(half, -deep), at(-half, -deep), closed=True)
    places = sorted(setup.places_mm)
    easel.dial(at(places[0], 0.5 * setup.face_mm), at(places[0], 0))
    easel.moves(
        at(places[0], 0.75 * setup.face_mm), at(places[-1], 0.75 * setup.face_mm), by="slide"
    )
    easel.bolt(at(setup.pivot_mm, -deep / 2), holds=True)
    return easel.done(plain(title), shows)


def turn_drawn(move: Move, setup: FaceSetup, machine: Machine, where: float = 0.0) -> SketchFigure:
    """The bolt that holds, the loose one, and which end is tapped which way."""
    easel = Easel(machine, _view_of(setup))
    at = _laid(easel, setup, where)
    half, deep = setup.face_mm / 2, 0.25 * setup.face_mm
    [act] = move.acts
    end = half if ends_of(setup.runs)[1] in act.end else -half
    easel.line(at(-half, 0), at(half, 0), at(half, -deep), at(-half, -deep), closed=True)
    easel.bolt(at(setup.pivot_mm, -deep / 2), holds=True)
    easel.bolt(at(-half * 0.8 if setup.pivot_mm > 0 else half * 0.8, -deep / 2))
    if move.targets:
        stood = float(move.targets[0].station)
        # held from the other end, so that there is room for the mallet
        aside = 0.4 * setup.face_mm * (1 if end > 0 else -1)
        easel.dial(at(stood - aside, 0.45 * setup.face_mm), at(stood, 0))
    # struck from the dial's side, or from behind
    swung = (0.35 * setup.face_mm, 0.04 * setup.face_mm)
    if act.way == "toward":
        swung = (-deep - swung[0], -deep - swung[1])
    easel.moves(at(end * 0.9, swung[0]), at(end * 0.9, swung[1]), by="mallet")
    way = "toward the dial" if act.way == "toward" else "away from the dial"
    shows = f"The bolt that is filled holds, the other is loose; {act.end} is tapped {way}."
    return easel.done(move.title, shows)
