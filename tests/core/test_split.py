"""Whose lean it is: the head's on its travel, or the travel's own, and what is said of each."""

from __future__ import annotations

from typing import Any

import pytest

from tests.core.cases import STOCK
from tests.core.helpers import FINE, TRAM, case_of, known, readings, setup
from tests.core.rigid import Spindle
from tests.core.test_tram import swing
from truing.contract.known import Known
from truing.contract.move import Advice
from truing.machine import starting_point
from truing.machine.subject import Subject
from truing.measure.estimate import Estimate

LIMIT = 0.1
SIDES = {"lean_x": ("left_right", "lean", "side to side"), "nod": ("front_back", "nod", "front to")}
OUT, SQUARE = 0.5, 0.004


def travel(axis: str, to_table: float, to_work: float) -> Known:
    """Square travel, read last week along one axis (mm/m)."""
    found = known(
        "travel_square",
        subject=Subject.part(f"head_{axis}").text,
        to_table=Estimate.within("slope", to_table, 0.02),
        square=Estimate.within("slope", to_work, 0.02),
    )
    return found.model_copy(update={"limits": {"square": LIMIT}})


def advised(
    lean: float, nod: float, *, turns: bool, nods: bool, read: list[Known]
) -> tuple[Advice, str]:
    """Advice on a spindle that leans so (mm/m), and all that is said in it."""
    machine = starting_point("column_mill")
    assert machine.head
    head = machine.head.model_copy(update={"turns": turns, "nods": nods})
    machine = machine.model_copy(update={"head": head if turns or nods else None})
    spindle = Spindle().leaning(lean, nod)
    case = case_of(
        TRAM, setup(), readings(swing(spindle)), FINE, machine=machine, known=read, stock=STOCK
    )
    advice = TRAM.advise(TRAM.weigh(case))
    return advice, " ".join(w.metric for w in advice.remarks)


@pytest.mark.parametrize("turns", [True, False])
@pytest.mark.parametrize("to_work", [None, SQUARE, OUT])
def test_shims_under_the_column_of_a_knee_mill_are_never_advised(
    turns: bool, to_work: float | None
) -> None:
    """Knee and head hang on the same column: what tilts it tilts both."""
    mill = starting_point("knee_mill")
    base = starting_point("column_mill").base
    head = mill.head.model_copy(update={"turns": turns, "nods": turns}) if mill.head else None
    machine = mill.model_copy(update={"base": base, "head": head if turns else None})
    read = []
    if to_work is not None:
        found = travel("left_right", to_work, to_work)
        subject = Subject.part("knee_left_right").text
        read = [found.model_copy(update={"subject": subject})]
    seen = readings(swing(Spindle().leaning(0.6, 0.6)))
    case = case_of(TRAM, setup(), seen, FINE, machine=machine, known=read, stock=STOCK)
    advice = TRAM.advise(TRAM.weigh(case))
    assert {m.mechanism for m in advice.moves} == ({"head_pivot"} if turns else set())
    said = " ".join(w.metric for w in advice.remarks)
    assert ("Shims under the column move knee and head together" in said) == (not turns)
    if to_work is not None:
        assert "the knee’s travel has" in said
        assert ("look at its gib" in said) == (to_work == OUT)
        assert "column’s travel" not in said


@pytest.mark.parametrize("sort", list(SIDES))
@pytest.mark.parametrize("turns", [True, False])
@pytest.mark.parametrize("to_work", [SQUARE, OUT])
@pytest.mark.parametrize("way", [-1.0, 1.0])
def test_who_leans_decides_what_is_turned_and_what_is_shimmed(
    sort: str, turns: bool, to_work: float, way: float
) -> None:
    axis, name, _ = SIDES[sort]
    size, own = 0.6 * way, way * (0.4 if to_work == OUT else -0.01)
    lean, nod = (size, 0.0) if sort == "lean_x" else (0.0, size)
    advice, said = advised(
        lean, nod, turns=turns, nods=turns, read=[travel(axis, own, way * to_work)]
    )
    assert f"Of the {name}, " in said
    wanted = {
        (True, SQUARE): "turn the head, which leaves it so",
        (True, OUT): "then turn the head for the rest",
        (False, SQUARE): "would mend the spindle and spoil the travel",
        (False, OUT): "where they ask for different shims, the deep work decides",
    }
    for how, text in wanted.items():
        assert (text in said) == (how == (turns, to_work)), text
    # the two parts make the whole, drawn to one side whichever way it leans
    (drawn,) = [f for f in advice.figures if f.type == "waterfall"]
    first, second, whole = drawn.bars
    assert drawn.title.metric == f"Where the {name} comes from"
    assert whole.label.metric == f"the {name} of the spindle to the table"
    assert whole.to_mm == pytest.approx(abs(size), abs=0.01)
    assert first.from_mm == whole.from_mm == 0
    assert first.to_mm == pytest.approx(way * own)
    assert (second.from_mm, second.to_mm) == pytest.approx((first.to_mm, whole.to_mm))
    assert [b.sort for b in drawn.bars] == ["share", "deduced", "whole"]
    assert not advice.asks, "it has been read"


@pytest.mark.parametrize("sort", list(SIDES))
def test_shims_say_what_they_make_of_the_travel_and_a_turned_head_that_it_stays(sort: str) -> None:
    axis, _, side = SIDES[sort]
    lean, nod = (-0.6, 0.0) if sort == "lean_x" else (0.0, -0.6)

    def notes(turns: bool, to_work: float) -> str:
        advice, _ = advised(lean, nod, turns=turns, nods=turns, read=[travel(axis, -0.6, to_work)])
        return " ".join(n.metric for n in advice.moves[0].notes)

    stays = notes(True, 0.01)
    assert f"The travel, {side}" in stays
    assert "stays as it is: +0.01" in stays
    # shims that take 0.6 off the spindle take as much off a travel that leans by that, or spoil it
    assert "goes with it: from −0.60" in notes(False, -0.6)
    assert "(true)" in notes(False, -0.6)
    assert "(out)" in notes(False, 0.0)


def test_a_travel_that_was_touched_since_is_asked_for_anew() -> None:
    stale = travel("left_right", -0.6, -0.6).model_copy(update={"fresh": False})
    why: dict[str, Any] = {}
    for name, read in (("never", []), ("touched", [stale])):
        advice, said = advised(-0.6, 0.0, turns=False, nods=False, read=read)
        assert "Of the lean" not in said
        assert not advice.figures
        (asked,) = advice.asks
        assert asked.kind == "travel_square"
        why[name] = asked.why.metric
    assert "the travel has not been read" in why["never"]
    assert "not known any more" in why["touched"]
    assert all("the whole of 0.60" in w for w in why.values())
    assert all("lies between head and column" in w for w in why.values())


def test_what_lifts_the_work_says_nothing_of_the_head_and_a_quill_is_no_column() -> None:
    """Read along another axis, or of another part: nothing is known of this lean."""
    for part in ("quill_left_right", "knee_left_right", "head_front_back"):
        other = travel("left_right", -0.6, -0.6)
        other = other.model_copy(update={"subject": Subject.part(part).text})
        advice, said = advised(-0.6, 0.0, turns=False, nods=False, read=[other])
        assert "Of the lean" not in said, part
        assert [a.kind for a in advice.asks] == ["travel_square"]


@pytest.mark.parametrize(
    ("lean", "nod", "first"),
    [
        (1.87, -0.105, "head_pivot"),
        (0.105, 1.2, "column_base"),
        (1.0, 1.2, "column_base"),
        (0.105, 0.105, "column_base"),
    ],
)
def test_what_is_out_is_moved_before_what_is_only_too_close_else_upstream_first(
    lean: float, nod: float, first: str
) -> None:
    """A head that turns side to side and does not nod: shims are for the nod, turning for the lean;
    the usual dial reads both to about 0.02."""
    machine = starting_point("column_mill")
    assert machine.head
    head = machine.head.model_copy(update={"turns": True, "nods": False})
    machine = machine.model_copy(update={"head": head})
    seen = readings(swing(Spindle().leaning(lean, nod)))
    dial = FINE.model_copy(update={"graduation_mm": 0.01, "repeatability_mm": 0.003})
    how = setup(passes=1)
    case = TRAM.weigh(case_of(TRAM, how, seen, dial, machine=machine, stock=STOCK))
    found = {j.quantity: j.verdict for j in case.judgement.judged}
    limits = {"lean_x": lean, "nod": nod}
    assert found == {k: "out" if abs(v) >= 1 else "too_close" for k, v in limits.items()}
    moves = TRAM.advise(case).moves
    assert len(moves) == 2
    assert moves[0].mechanism == first
