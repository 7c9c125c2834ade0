"""The contract of a kind of check, run by machine on every kind that is registered.

`rounds_of(core)` plays every way of reading a kind on every starting machine that it suits, on the
stand-in; each `check_…` below holds one promise of the contract against such a round. A new kind is
held to all of it by being there.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from pydantic import ValidationError

from tests.core.check_sketch import check_sketch, drawn
from tests.core.check_words import check_words, finite, said, walk
from truing.contract.case import Case
from truing.contract.check import Check
from truing.contract.move import Advice, Move
from truing.contract.readings import LengthReading
from truing.course.kinds import foundation
from truing.drawing.figures import PlanFigure
from truing.drawing.pdf import printable
from truing.drawing.shapes import Drawing, Text
from truing.kit.instruments import Instrument, Level, PlungerDial
from truing.kit.shims import Shim
from truing.machine import FORM_TITLES, starting_point
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.lenient import read_back
from truing.measure.problem import Problem
from truing.moves.changes import done, stock_after, undone
from truing.moves.sheet import HIGH_MM, WIDE_MM, move_sheet
from truing.record import Lesson, Outcome, Snapshot, dump, judged_anew, load
from truing.standin.apply import answers
from truing.standin.evening import one_round
from truing.standin.truth import BoardTruth, RailsTruth, SlideTruth, Truth

Check_ = Check[Any, Any]
Case_ = Case[Any, Any]

STOCK = [Shim(thickness_mm=t, count=9) for t in (0.02, 0.05, 0.1, 0.2, 0.3, 0.5)]
FACTORS = (0.2, 0.5, 1.0, 2.0, 5.0)


def instrument(type_: str) -> Instrument:
    """One of this type that is fine enough for most."""
    if type_ == "level":
        return Level(sensitivity_mm_per_m=0.02)
    if type_ == "plunger_dial":
        return PlungerDial(graduation_mm=0.001, range_mm=10, repeatability_mm=0.0005)
    found: Instrument = read_back(Instrument, {"type": type_})
    return found


def worn(machine: Any, rng: np.random.Generator) -> Truth:
    """A machine that has something of everything wrong with it."""
    length = machine.rails.length_mm if machine.rails else 1000.0
    at = [round(float(v), 1) for v in np.linspace(0, length, 6)]
    bends = {
        k: list(rng.normal(0, 0.06, 6))
        for k in ("side_mm", "second_mm", "first_up_mm", "second_up_mm")
    }
    return Truth(
        # as large as what it lies on
        board=BoardTruth(wide_mm=machine.table_x_mm, deep_mm=machine.table_y_mm),
        head_about_x_mrad=rng.normal(0, 0.5),
        head_about_y_mrad=rng.normal(0, 0.5),
        base_about_x_mrad=rng.normal(0, 0.3),
        beam_twist_mrad_per_m=rng.normal(0, 0.5),
        slides={
            s.direction: SlideTruth(
                travel_mm=s.travel_mm,
                clearance_mm=rng.uniform(0.02, 0.06),
                shim_mm=0.3,
                links_mm={"nut": rng.uniform(0.03, 0.1), "bearing": rng.uniform(0.01, 0.06)},
                blocks_mm={f"{e}{w}": rng.uniform(-0.3, 0.3) for e in (0, 1) for w in "vh"},
            )
            for s in machine.slides
        },
        rails=RailsTruth(at_mm=at, **bends),
    )


def stated(core: Check_) -> Iterator[Case_]:
    """What can be stated of it: every machine, subject and way of reading."""
    for form in FORM_TITLES:
        machine = starting_point(form)
        if not core.suits(machine):
            continue
        subjects = [Subject.read(t) for t, _ in core.course.subjects_of(machine)] or [THE_MACHINE]
        for subject in subjects[:2]:
            proposed = core.propose(machine, subject) or minimal(core)
            for way, types in core.takes_by_way().items():
                setup = with_way(core, proposed, way)
                if setup is not None:
                    yield Case(
                        setup=setup,
                        instrument=instrument(types[0]),
                        machine=machine,
                        tolerances=core.tolerances(machine),
                        stock=STOCK,
                        instrument_key="dial",
                    )


def minimal(core: Check_) -> Any:
    """The least that has to be stated where nothing can be proposed: a hundred for each length."""
    needed = core.setup_type.model_json_schema()["required"]
    return core.setup_type.model_validate({name: 100.0 for name in needed if name != "kind"})


def with_way(core: Check_, setup: Any, way: str) -> Any:
    if not way:
        return setup
    try:
        return core.setup_type.model_validate({**setup.model_dump(), "way": way})
    except ValidationError:
        return None


def rounds_of(core: Check_) -> Iterator[Case_]:
    """Every way of it, read on a machine that has something of everything wrong."""
    for i, case in enumerate(stated(core)):
        rng = np.random.default_rng(i)
        truth = worn(case.machine, rng)
        read = one_round(core, case.setup, truth, case.instrument, rng)
        yield core.weigh(case.but(readings=read))


# --- before it is read ----------------------------------------------------------------------------


def check_stated(core: Check_, case: Case_) -> None:
    """Set-up and form fit each other and the machine; what is stated comes back as it was."""
    setup = case.setup
    assert core.setup_type.model_validate(setup.model_dump(mode="json")) == setup
    assert load("setup", dump("setup", setup), core.key) == setup
    form = core.form(case.machine)
    assert set(setup.model_dump()) == set(form["properties"])
    texts = [t for t, _ in core.course.subjects_of(case.machine)]
    if setup.subject.sort in ("machine", "part"):
        assert setup.subject.text in (texts or [THE_MACHINE.text])
    assert Subject.read(setup.subject.text) == setup.subject
    if core.part_field is not None:
        labels = form["properties"][core.part_field]["x-form"]["labels"]
        # where nothing has been named yet it is about what the machine is taken to have
        assert list(labels) == ([Subject.read(t).key for t in texts] or [""])
        assert all(labels.values())
    # what is proposed fits the machine that it is proposed for
    assert core.propose(case.machine, setup.subject) is None or (
        core.doubts(setup, case.machine) == []
    )
    stations = core.stations(setup)
    keys = [s.key for s in stations]
    assert keys
    assert len(set(keys)) == len(keys)
    assert all(s.label and s.prompt for s in stations)
    assert all(s.grades for s in stations if s.reads in ("grade", "observation"))
    if core.layout == "line":
        # no two of them are drawn on top of each other
        drawn = [(s.x_mm, s.y_mm, s.group) for s in stations if s.reads == "length"]
        assert len(set(drawn)) == len(drawn)
    for limit in core.limits(case.tolerances):
        assert limit.title
        assert limit.unit
    try:
        told = core.expect(case)
    except Problem as problem:
        assert problem.field in form["properties"] or problem.field == "instrument"
    else:
        assert told is None or told.expanded > 0
        said(told)
    said(core.cost(case.machine, case.tolerances))


# --- reading --------------------------------------------------------------------------------------


def check_prefixes(core: Check_, case: Case_) -> None:
    """As far as it is read it is evaluated, or says what is missing; whole, it is evaluated."""
    n = len(case.readings)
    for upto in sorted({*range(min(n, 12)), n // 2, n - 1}):
        part = case.but(readings=case.readings[:upto])
        try:
            found = core.weigh(part)
        except Problem as problem:
            assert problem.message
            assert problem.expected
        else:
            finite(found.finding)
            said(found.finding)
        following = core.next_station(case.setup, part.readings)
        assert upto == n or following is not None
        # what changes with readings says so, or nobody is told of it with a reading
        assert core.grows or core.stations(case.setup, part.readings) == core.stations(case.setup)
    assert core.next_station(case.setup, case.readings) is None
    assert core.ready(case.setup, case.readings)


def check_corrections(core: Check_, case: Case_) -> None:
    """A reading that is taken out is one that was never there; the order of passes stays."""
    for i in {0, len(case.readings) - 1}:
        left = [r for j, r in enumerate(case.readings) if j != i]
        again = [r.model_copy() for r in left]
        assert outcome(core, case.but(readings=left)) == outcome(core, case.but(readings=again))


def check_zero(core: Check_, case: Case_) -> None:
    """A dial that is set to zero on the way changes no result, only what is shown."""
    if not case.instrument.can_zero:
        return
    lengths = [i for i, r in enumerate(case.readings) if isinstance(r, LengthReading)]
    if len(lengths) < 3:
        return
    on = lengths[0]
    first = case.readings[on]
    moved = [
        r.model_copy(update={"zeroed_on": first.id, "shown_mm": r.shown_mm - first.shown_mm})
        if i in lengths[1:]
        else r
        for i, r in enumerate(case.readings)
    ]
    try:
        zeroed = core.evaluate(case.but(readings=moved))
    except Problem:
        raise AssertionError("a zero on the first reading leaves no result") from None
    for q, was in zip(zeroed.quantities, case.finding.quantities, strict=True):
        assert math.isclose(q.estimate.value, was.estimate.value, rel_tol=1e-6, abs_tol=1e-9), q.key
    # what the needle stands at is told from where its zero is now
    assert math.isclose(zeroed.zero_mm, first.shown_mm, rel_tol=1e-6, abs_tol=1e-9)
    assert case.finding.zero_mm == 0


def check_signs(core: Check_, case: Case_) -> None:
    """Readings of the other sign are evaluated too, or refused with what to do."""
    turned = [
        r.model_copy(update={"shown_mm": -r.shown_mm}) if isinstance(r, LengthReading) else r
        for r in case.readings
    ]
    try:
        found = core.weigh(case.but(readings=turned))
    except Problem as problem:
        assert problem.expected
    else:
        finite(found.finding)
        advised(core, found)


# --- finding and judging --------------------------------------------------------------------------


def check_finding(core: Check_, case: Case_) -> None:
    """Quantities are whole: measured, told, each of a sort and judged by a limit that there is."""
    finding = case.finding
    finite(finding)
    said(finding)
    said(case.judgement)
    keys = [q.key for q in finding.quantities]
    assert len(set(keys)) == len(keys)
    for q in finding.quantities:
        assert q.tolerance_key is None or q.tolerance_key in case.tolerances
        if q.tolerance_key is not None:
            assert q.measure == core.limit_kinds[q.tolerance_key][1]
            assert q.sentence is not None
    stations = {s.key for s in core.stations(case.setup, case.readings)}
    assert {s.station for s in finding.stations} <= stations
    assert {n.station for n in finding.notes if n.station} <= stations


def check_limits(core: Check_, case: Case_) -> None:
    """A wider limit is never harder to keep; figures are drawn with the limit that there is."""
    order = ["out", "too_close", "true"]
    before = -1
    drawn = {}
    for factor in FACTORS:
        limits = {key: value * factor for key, value in case.tolerances.items()}
        again = core.weigh(case.but(tolerances=limits))
        judged = {j.quantity: j for j in again.judgement.judged}
        assert all(
            math.isclose(judged[q.key].tolerance, limits[q.tolerance_key])
            for q in again.finding.quantities
            if q.tolerance_key
        )
        worst = min((order.index(j.verdict) for j in judged.values()), default=2)
        assert worst >= before
        before = worst
        drawn[factor] = limits_in(core.figures(again))
        finite(core.figures(again))
    for factor, found in drawn.items():
        # a limit that is not the owner's would stay where it is
        assert np.allclose(found, np.array(drawn[1.0]) * factor), factor


def check_figures(core: Check_, case: Case_) -> None:
    """Figures and drawings stay on their sheets, and say what they show."""
    figures = core.figures(case)
    finite(figures)
    said(figures)
    for figure in figures:
        on_sheet(figure)
    drawn = core.drawing(case)
    if drawn is not None:
        assert drawn.shows
        assert drawn.note
        inside(drawn)


# --- advice ---------------------------------------------------------------------------------------


def check_advice(core: Check_, case: Case_) -> None:
    """The same case has the same advice; every move can be made, answered, told and undone."""
    limits = {key: value * 0.2 for key, value in case.tolerances.items()}
    again = core.weigh(case.but(tolerances=case.tolerances))
    told = "advice depends on something that is not in the case"
    assert advised(core, case) == core.advise(again), told
    for each in (case, core.weigh(case.but(tolerances=limits))):
        for move in advised(core, each).moves:
            check_move(core, each, move)


def check_move(core: Check_, case: Case_, move: Move) -> None:
    quantities = {q.key for q in case.finding.quantities}
    stations = {s.key for s in core.stations(case.setup, case.readings)}
    assert {t.quantity for t in move.takes} <= quantities
    assert {p.quantity for p in move.predicted} <= quantities
    assert {t.station for t in move.targets} <= stations
    assert {t.quantity for t in move.targets} <= quantities
    assert move.mechanism in answers(core.key), "the stand-in does not answer it"
    # what a kind moves by itself makes what it read before stale
    assert move.mechanism in foundation(core.key, case.setup.subject.text)
    if move.needs is not None:
        return
    machine = done(move, case.machine)
    assert undone(move, machine).model_dump() == case.machine.model_dump()
    tin = {s.thickness_mm: s.count for s in stock_after(move, case.stock)}
    back = {t.thickness_mm: t.count for t in move.tin}
    there = {s.thickness_mm: s.count for s in case.stock}
    assert {t: n + back.get(t, 0) for t, n in tin.items() if n + back.get(t, 0)} == there
    for system in ("metric", "inch"):
        sheet = move_sheet(move, "Avocet", system)  # type: ignore[arg-type]
        inside(sheet)
        for shape in sheet.shapes:
            if isinstance(shape, Text):
                # no amount turns into a question mark on paper
                assert printable(shape.text).count("?") == shape.text.count("?"), shape.text
    for figure in move.figures:
        on_sheet(figure)
    # what is typed into a controller has no hands
    assert (move.sketch is None) == bool(move.entries), move.title.metric
    if move.sketch is not None:
        drawn(move.sketch)
        said(move.sketch)
    following = core.following(case.setup, move)
    assert core.setup_type.model_validate(following.model_dump()) == following
    assert following.subject == case.setup.subject


def check_answers(core: Check_) -> None:
    """The simulated machine answers every mechanism that this kind's moves adjust, and no other."""
    assert set(answers(core.key)) >= set(core.course.adjusts)


# --- the record -----------------------------------------------------------------------------------


def check_record(core: Check_, case: Case_) -> None:
    """What is kept of a round comes back whole, and judges as it did."""
    result = Outcome(finding=case.finding, judgement=case.judgement, ready=True, complete=True)
    again: Outcome = load("outcome", dump("outcome", result), core.key)
    assert again == result
    lesson = Lesson(
        way=case.way,
        values={q.key: q.estimate for q in case.finding.quantities},
        spreads=case.finding.spreads,
    )
    assert load("lesson", dump("lesson", lesson), core.key) == lesson
    snapshot: Snapshot = load("snapshot", dump("snapshot", Snapshot.of(case)), core.key)
    anew = judged_anew(snapshot, case.readings)
    assert anew.finding == case.finding
    assert anew.judgement == case.judgement
    advice = advised(core, case)
    assert load("advice", dump("advice", advice), core.key) == advice


def check_scatter_belongs_to_its_instrument(core: Check_, case: Case_) -> None:
    """What one dial showed says nothing of another: a history of a fine one changes no U of a
    coarse one."""
    from truing.contract.history import History, PastRound
    from truing.measure.spread import Spread

    values = {q.key: q.estimate for q in case.finding.quantities}

    def with_past(key: str) -> Any:
        past = PastRound(
            number=1,
            sitting="before",
            way=case.way,
            values=values,
            spreads={key: Spread(ss_mm2=1e-9, dof=40)},
        )
        return core.evaluate(case.but(history=History(sitting="now", past=[past])))

    alone = {q.key: q.estimate.expanded for q in case.finding.quantities}
    other = {q.key: q.estimate.expanded for q in with_past("another dial").quantities}
    assert other == alone
    # U that rests on readings follows the dial's own scatter
    own = {q.key: q.estimate.expanded for q in with_past("dial").quantities}
    measured = [s for s in case.finding.stations if len(s.repeats_mm) > 1]
    rests = [q.key for q in case.finding.quantities if q.gain > 0]
    shown = case.finding.spreads["dial"].s_mm if "dial" in case.finding.spreads else 0.0
    if shown > 1e-4:
        assert all(own[key] <= alone[key] + 1e-12 for key in rests)
    if shown > 1e-4 and measured and rests and isinstance(case.instrument, PlungerDial):
        assert any(own[key] < alone[key] for key in rests)


def check_programs(core: Check_, case: Case_) -> None:
    """What is to be cut first has a program that a controller reads as the checker did, or a list
    for handwheels; a kind that cuts nothing has neither."""
    by_controller = case.machine.model_copy(update={"control": "controller"})
    found = core.programs(case.setup, by_controller)
    assert bool(found) == core.cuts
    assert len({p.key for p in found}) == len(found)
    for p in found:
        said(p)
        assert p.refused is None, p.refused
        assert p.program.isascii()
        assert p.file_name.endswith(".nc")
        for text in (p.program, p.air_program):
            # read by what shares nothing with the checker, word by word
            assert lowest(text) < 0 if text == p.program else lowest(text) > 0
    for p in core.programs(case.setup, case.machine.model_copy(update={"control": "handwheels"})):
        assert (p.program, p.refused) == ("", None)
        assert p.by_hand


def lowest(program: str) -> float:
    return min(float(z) for z in re.findall(r"Z(-?[\d.]+)", re.sub(r"\(.*?\)", "", program)))


# --- helpers --------------------------------------------------------------------------------------


def outcome(core: Check_, case: Case_) -> Any:
    """A comparable result: the finding, or why there is none."""
    try:
        return core.evaluate(case).model_dump()
    except Problem as problem:
        return str(problem)


_ADVISED: dict[int, tuple[Case_, Advice]] = {}


def advised(core: Check_, case: Case_) -> Advice:
    """The advice of a case, made once: several promises look at the same round."""
    if id(case) not in _ADVISED:
        _ADVISED[id(case)] = (case, core.advise(case))
    advice = _ADVISED[id(case)][1]
    finite(advice)
    said(advice)
    return advice


def limits_in(figures: Any) -> list[float]:
    names = ("band_mm", "limit_mm")
    return [v for at, v in walk(figures) if at[-1:] and at[-1] in names and v is not None]


def on_sheet(figure: Any) -> None:
    if isinstance(figure, PlanFigure):
        for spot in figure.spots:
            assert abs(spot.x_mm) <= figure.width_mm / 2 + 1e-6
            assert abs(spot.y_mm) <= figure.depth_mm / 2 + 1e-6


def inside(drawing: Drawing) -> None:
    wide, high = max(drawing.width_mm, WIDE_MM), max(drawing.height_mm, HIGH_MM)
    for shape in drawing.shapes:
        points = getattr(shape, "points", None) or [(shape.x_mm, shape.y_mm)]
        for x, y in points:
            assert -1e-6 <= x <= wide + 1e-6, shape
            assert -1e-6 <= y <= high + 1e-6, shape
        if isinstance(shape, Text):
            assert shape.text.strip() or shape.size_mm > 0


ON_A_ROUND: tuple[Callable[[Check_, Case_], None], ...] = (
    check_stated,
    check_prefixes,
    check_corrections,
    check_zero,
    check_signs,
    check_finding,
    check_limits,
    check_words,
    check_figures,
    check_sketch,
    check_advice,
    check_record,
    check_programs,
    check_scatter_belongs_to_its_instrument,
)
"""Every promise that is held against a round."""
