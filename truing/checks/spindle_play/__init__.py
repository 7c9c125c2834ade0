"""Does the spindle shake in its bearings? Push and pull, across it and along it, cold and warm."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar, Literal

from pydantic import Field

from truing.checks.common import ISOLATE, after, changes_figure, expectation, prediction
from truing.checks.spindle_play.sketch import preloaded, set_up
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.expected import expected_size
from truing.contract.finding import Finding, Note, Quantity, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.contract.judgement import Expectation, Judgement, Tolerances
from truing.contract.move import Advice, LeaveIt, Move
from truing.contract.readings import Grade, GradeReading, Reading
from truing.contract.setup import Setup, Station
from truing.drawing.figures import Figure
from truing.drawing.sketches import SketchFigure
from truing.machine import Machine
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.estimate import Estimate
from truing.measure.extremes import worst_of
from truing.measure.fields import Mm, choice, hint, length
from truing.measure.verdict import Verdict
from truing.measure.words import Words, plain, say, show, show_estimate, span
from truing.moves.changes import take_of

ACROSS = ("across_x", "across_y")
ALONG = "along"
PUSHED = {
    "across_x": (
        "left–right",
        "Dial on {it} from the side. Push {it} away, let go, set zero; pull it toward the dial, "
        "let go, and read.",
    ),
    "across_y": (
        "front–back",
        "Dial on {it} from the front. Push {it} to the rear, let go, set zero; pull it to the "
        "front, let go, and read.",
    ),
    ALONG: (
        "up–down",
        "Dial on the nose from below. Press it down, let go, set zero; lift it with a piece of "
        "wood, let go, and read.",
    ),
}
FEELS = [
    Grade(key="free", label="free", tone="good"),
    Grade(key="drag", label="even drag", tone="good"),
    Grade(key="rough", label="rough or notchy", tone="bad"),
    Grade(key="binds", label="binds", tone="bad"),
]
HOT = "Bearings set too tight run hot within minutes: run it slowly, and feel the nose."
PRELOAD_SCATTER = 0.3


class SpindlePlaySetup(Setup):
    """How warm the spindle is, and how often it is pushed and pulled."""

    kind: Literal["spindle_play"] = "spindle_play"
    way: Literal["cold", "warm"] = choice(
        "The spindle is",
        "cold",
        {"cold": "cold", "warm": "warm from work"},
        prompt="Bearings close as they warm: read both once.",
    )
    nose_mm: Mm = length(
        "The tip touches, out from the nose",
        0.0,
        ge=0,
        le=1000,
        prompt="0: the nose itself. On a bar: how far out, where it shows tilt as well.",
    )
    passes: int = Field(
        2,
        ge=1,
        le=10,
        title="Whole passes",
        json_schema_extra=hint("With the same push each time.", field="integer"),
    )

    @property
    def condition(self) -> str:
        return self.when(self.way)

    def when(self, way: str) -> str:
        """Read this warm, at this distance."""
        return f"{way}, {self.nose_mm:g} mm out" if self.nose_mm else way

    @property
    def tip_sides(self) -> int:
        return 2


class SpindlePlayFinding(Finding):
    """How far the nose gives, each way."""

    kind: Literal["spindle_play"] = "spindle_play"
    feel: str
    """How it turns by hand; "" where nobody said."""


PlayCase = Case[SpindlePlaySetup, SpindlePlayFinding]


def stations(setup: SpindlePlaySetup) -> list[Station]:
    """Across it both ways, along it, and how it turns."""
    it = say("the bar, {out} out,", out=span(setup.nose_mm)) if setup.nose_mm else "the nose"
    found = [
        Station(key=key, label=label, prompt=say(prompt, it=it), tip=key, x_mm=0.0, y_mm=0.0)
        for key, (label, prompt) in PUSHED.items()
    ]
    feel = Station(
        key="feel",
        label="turned by hand",
        prompt="Turn the spindle slowly by hand, a few times round. How does it go?",
        x_mm=0.0,
        y_mm=0.0,
        reads="grade",
        grades=FEELS,
    )
    return [*found, feel]


class SpindlePlay(Check[SpindlePlaySetup, SpindlePlayFinding]):
    """Radial play by its worst direction, and axial play; see `geometry.md` in docs."""

    key: ClassVar[str] = "spindle_play"
    layout: ClassVar[Any] = "list"
    limit_kinds: ClassVar[Any] = {
        "radial": ("Play across", "length"),
        "axial": ("Play along", "length"),
    }
    setup_type = SpindlePlaySetup
    finding_type = SpindlePlayFinding

    def propose(self, machine: Machine, subject: Subject = THE_MACHINE) -> SpindlePlaySetup | None:
        return SpindlePlaySetup()

    def tolerances(self, machine: Machine) -> Tolerances:
        return {"radial": 0.01, "axial": 0.015}

    def cost(self, machine: Machine, tolerances: Tolerances) -> Words | None:
        return say(
            "the cutter jumps by {d} as the cut takes hold: chatter, and a hole that wanders by as "
            "much.",
            d=show(tolerances["radial"], 0.001),
        )

    def takes_by_way(self) -> dict[str, tuple[str, ...]]:
        return dict.fromkeys(("cold", "warm"), ("plunger_dial", "lever_dial", "digital"))

    def stations(self, setup: SpindlePlaySetup, readings: Sequence[Reading] = ()) -> list[Station]:
        return stations(setup)

    def expect(self, case: PlayCase) -> Expectation | None:
        big = expected_size(case, stations(case.setup))
        return expectation(big, min(case.tolerances.values()), "length")

    def evaluate(self, case: PlayCase) -> SpindlePlayFinding:
        plan = stations(case.setup)
        got = gather(case, plan)
        feels = [r.grade for r in case.readings if isinstance(r, GradeReading)]
        quantities = []
        across = [_size(got, k) for k in ACROSS if got.has(k)]
        if across:
            at, size = worst_of(across)
            keys = [k for k in ACROSS if got.has(k)]
            where = PUSHED[keys[at]][0]
            told = _play("radial", "Play across", size, where, out_mm=case.setup.nose_mm)
            quantities.append(told)
        if got.has(ALONG):
            quantities.append(_play("axial", "Play along", _size(got, ALONG), "along its axis"))
        return SpindlePlayFinding(
            quantities=quantities,
            **got.told("The play stands, but check the dial’s clamp.", more=_far_out(case.setup)),
            lines=_cold_and_warm(case, quantities),
            feel=feels[-1] if feels else "",
        )

    def judge(self, case: PlayCase) -> Judgement:
        found: list[tuple[Verdict, Words]] = []
        if case.finding.feel == "rough":
            text = "It turns rough: that is the bearings themselves, and no preload mends it."
            found.append(("out", plain(text)))
        if case.finding.feel == "binds":
            found.append(("out", plain("It binds: it is set too tight, and will run hot.")))
        return super().judge(case).joined_by(found)

    def figures(self, case: PlayCase) -> list[Figure]:
        return [*changes_figure(case, "radial", plain("Play across, change by change"))]

    def sketch(self, setup: SpindlePlaySetup, machine: Machine) -> SketchFigure | None:
        return set_up(machine, setup.nose_mm)

    def move_sketch(self, move: Move, case: PlayCase) -> SketchFigure | None:
        return preloaded(move, case.machine)

    def remedies(self, case: PlayCase) -> Advice:
        amiss = [q for key in ("radial", "axial") for q in case.amiss(key)]
        if case.finding.feel == "rough":
            return Advice(moves=[], leave=None, remarks=[plain(DONE)])
        if case.finding.feel == "binds":
            text = "Slacken the preload by an eighth of a turn, run it slowly, and read again."
            return Advice(moves=[], leave=None, remarks=[plain(text)])
        if not amiss:
            return Advice(moves=[], leave=None, remarks=[])
        return Advice(
            moves=[_preload(case, amiss)],
            leave=LeaveIt(text=plain(LEAVE)),
            remarks=[*([plain(AT_NOSE)] if _tilts(case.setup, amiss) else []), plain(WEAK)],
        )


DONE = (
    "The bearings are done: clean, regrease and read once more, then replace them. Log the new "
    "ones under “Something happened”, so that what rested on the old ones is read again."
)
LEAVE = "Or leave it for light cuts in soft stuff, and write the figure down."
AT_NOSE = (
    "Read it at the nose before you close anything: bearings that are sound there may still tilt "
    "by this much further out."
)
WEAK = "Until it is mended, runout and tram are as doubtful as the nose gives."


def _size(got: Gathered, key: str) -> Estimate:
    """What was read as a size: it gives as much whichever way the dial counts."""
    return got.combine({key: -1.0 if got.means[key].mean_mm < 0 else 1.0})[0]


def _far_out(setup: SpindlePlaySetup) -> list[Note]:
    """That a tip away from the nose sees more than the nose."""
    if not setup.nose_mm:
        return []
    text = say(
        "Read {out} out from the nose: as much as the bearings let it tilt over that is in it. "
        "What is true here is true at the nose.",
        out=span(setup.nose_mm),
    )
    return [Note(tone="info", text=text)]


def _tilts(setup: SpindlePlaySetup, amiss: Sequence[Quantity]) -> bool:
    """Whether what is amiss may be tilt alone."""
    return setup.nose_mm > 0 and any(q.key == "radial" for q in amiss)


def _play(key: str, label: str, size: Estimate, where: str, out_mm: float = 0.0) -> Quantity:
    text = (
        "{out} out it gives by {size}, {where}." if out_mm else "The nose gives by {size}, {where}."
    )
    return quantity(
        key,
        label,
        size,
        say(text, size=shown(size), where=where, out=span(out_mm)),
        gain=1.0,
        tolerance_key=key,
        signed=False,
    )


def _cold_and_warm(case: PlayCase, now: Sequence[Quantity]) -> list[Words]:
    """How it compares with the last round in the other state."""
    other = "warm" if case.way == "cold" else "cold"
    before = next(reversed(case.history.alike(case.setup.when(other))), None)
    radial = next((q for q in now if q.key == "radial"), None)
    if before is None or radial is None or "radial" not in before.values:
        return []
    warm, cold = radial.estimate, before.values["radial"]
    if other == "warm":
        warm, cold = cold, warm
    change = cold - warm
    if not change.visible:
        return [plain("Cold and warm cannot be told apart.")]
    return [
        say(
            "Warm it gives by {d} {less} than cold.",
            d=show_estimate(abs(change.value), change.expanded, "length"),
            less="less" if change.value > 0 else "more",
        )
    ]


def _preload(case: PlayCase, amiss: Sequence[Quantity]) -> Move:
    """Close the bearings to half of the limit, a touch at a time."""
    takes = [
        take_of(q, q.estimate.value - case.tolerances[q.tolerance_key or "radial"] / 2)
        for q in amiss
    ]
    then = [
        prediction(q, after(q.estimate, q.estimate.value - t.amount, PRELOAD_SCATTER))
        for q, t in zip(amiss, takes, strict=True)
    ]
    return Move(
        key="preload",
        mechanism="spindle_bearing",
        title=plain("Take up the bearings’ preload a little"),
        steps=[
            plain("Mark where the preload nut stands, so that you can go back."),
            plain("Close it by a sixteenth of a turn, no more, and lock it."),
            plain("Turn it by hand: free, without a rough place. Read again, cold."),
            plain("Run it slowly for ten minutes and feel the nose: warm is right, hot is not."),
        ],
        cautions=[ISOLATE, HOT],
        predicted=then,
        takes=takes,
        notes=[plain("If it gives as before, it is the bearings themselves, or their seats.")],
    )


CHECK = SpindlePlay()
