"""Old records stay readable: every stored shape of every format is read by the core of today."""

from __future__ import annotations

import copy
import json
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from pydantic import TypeAdapter, ValidationError

from truing import VERSION
from truing.contract.readings import Reading
from truing.contract.upgrade import FORMAT
from truing.machine import Machine, starting_point
from truing.measure.problem import Problem
from truing.measure.words import plain
from truing.moves.changes import done, undone
from truing.record import Summary, Unreadable, dump, judged_anew, load, load_list, load_text
from truing.registry import registry

GOLDEN = Path(__file__).parents[1] / "golden"
FILES = sorted(GOLDEN.glob("records_*/*.json"))
OTHERS = ("machines", "instruments", "pieces", "plans", "jobs")
CHECKS = [f for f in FILES if f.stem not in OTHERS]
READINGS: TypeAdapter[list[Reading]] = TypeAdapter(list[Reading])

NOT_KEPT = {
    *("figures", "advice", "spread", "tightening_mm_per_m", "place_mm", "aimed_mm_per_m", "floor"),
    "least_cutter_mm",
}
"""What later formats have elsewhere, or compute when it is asked for; a floor is in the limits."""


def format_of(path: Path) -> int:
    return int(path.parent.name.removeprefix("records_"))


def name(path: Path) -> str:
    return f"{format_of(path)}: {path.stem}"


def golden(path: Path) -> Any:
    return json.loads(path.read_text("utf-8"))


def readings(kept: list[dict[str, Any]]) -> list[Reading]:
    """Readings stand in columns of the record; the place of an answer was one of them."""
    for r in kept:
        where = r.pop("where_mm", None)
        if where is not None:
            r["place"] = {"x_mm": where}
    return READINGS.validate_python(kept)


def figures_in(data: Any) -> Iterator[float]:
    """Every number of a stored object that was measured or computed."""
    if isinstance(data, dict):
        for key, value in data.items():
            if key not in NOT_KEPT:
                yield from figures_in(value)
    elif isinstance(data, list):
        for value in data:
            yield from figures_in(value)
    elif isinstance(data, float) and data not in (0.0, 1.0):
        yield round(data, 9)


def lost(before: Any, now: Any) -> Counter[float]:
    """Figures of the stored object that the loaded one no longer has."""
    there = set(figures_in(now.model_dump(mode="json")))
    return Counter(v for v in figures_in(before) if v not in there)


def test_every_format_and_kind_has_its_golden_records() -> None:
    assert {format_of(f) for f in FILES} == set(range(1, FORMAT + 1))
    for number in range(1, FORMAT + 1):
        kinds = {golden(f)["kind"] for f in CHECKS if format_of(f) == number}
        # kinds that came later have none in formats that were before them
        assert kinds <= set(registry())
        if number == FORMAT:
            assert kinds == set(registry())


@pytest.mark.parametrize("path", CHECKS, ids=name)
def test_a_round_of_any_format_is_read_whole(path: Path) -> None:
    kept = golden(path)
    kind = kept["kind"]
    for r in kept["rounds"]:
        assert load("setup", r["setup"], kind).kind == kind
        outcome = load("outcome", r["outcome"], kind)
        assert outcome.judgement.verdict == r["verdict"]
        assert outcome.finding.kind == kind
        assert not lost(r["outcome"], outcome)
        for q, old in zip(
            outcome.finding.quantities, r["outcome"]["finding"]["quantities"], strict=True
        ):
            assert (
                q.measure
                == q.estimate.measure
                == old.get("measure", old["estimate"].get("measure"))
            )
        assert len(load_list("prediction", r["predicted"], kind)) == len(
            r["predicted"] if isinstance(r["predicted"], list) else r["predicted"]["items"]
        )
        stored_move = r.get("move") or r.get("advised")
        if stored_move:
            move = load("move", stored_move, kind)
            assert not lost(stored_move, move)
            assert load("made", r["made"], kind).aimed


@pytest.mark.parametrize("path", CHECKS, ids=name)
def test_a_settled_round_is_judged_anew_from_what_went_in(path: Path) -> None:
    kept = golden(path)
    for r in kept["rounds"]:
        snapshot = load("snapshot", r["snapshot"], kept["kind"])
        read = readings(r["readings"])
        anew = judged_anew(snapshot, read)
        then = load("outcome", r["outcome"], kept["kind"]).finding.quantities
        now = anew.finding.quantities
        assert [q.key for q in now] == [q.key for q in then]
        if kept.get("core") == VERSION:
            # the same version promises the same figures: a rule that changes wants a new one
            assert anew.judgement.verdict == r["verdict"]
            for q, was in zip(now, then, strict=True):
                assert q.estimate == was.estimate
        else:
            for q, was in zip(now, then, strict=True):
                # later rules may take out what earlier ones left in, within what was doubtful then
                doubt = was.estimate.expanded / 2 + 1e-9
                assert abs(q.estimate.value - was.estimate.value) <= doubt
        wide = dict.fromkeys(snapshot.tolerances, 1000000000.0)
        easy = judged_anew(snapshot, read, wide).judgement
        assert all(j.verdict == "true" for j in easy.judged)


def stands_in(kept: Any, now: Any) -> bool:
    """Whether all that was kept is still there, as it was."""
    if isinstance(kept, dict) and isinstance(now, dict):
        return all(k in now and stands_in(v, now[k]) for k, v in kept.items())
    if isinstance(kept, list) and isinstance(now, list):
        return len(kept) == len(now) and all(map(stands_in, kept, now))
    return bool(kept == now)


@pytest.mark.parametrize("path", [f for f in CHECKS if format_of(f) == FORMAT], ids=name)
def test_the_format_of_today_is_what_is_written_today(path: Path) -> None:
    """A shape that changes wants a new format and a step of the ladder; a field that is new and
    has a default does not."""
    kept = golden(path)
    for r in kept["rounds"]:
        for shape in ("setup", "outcome", "lesson", "snapshot", "advice", "move", "made"):
            if r[shape] is not None:
                again = dump(shape, load(shape, r[shape], kept["kind"]))
                assert stands_in(r[shape], again), shape


@pytest.mark.parametrize("shape", ["machine", "instrument", "piece"])
@pytest.mark.parametrize("number", range(1, FORMAT + 1))
def test_descriptions_of_any_format_are_read(shape: str, number: int) -> None:
    for key, kept in golden(GOLDEN / f"records_{number}" / f"{shape}s.json").items():
        found = load(shape, kept)
        assert not lost(kept, found), key
        again = dump(shape, found)
        assert dump(shape, load(shape, again)) == again


SINCE_PLANS = 3
"""The format in which plans, programs and jobs were first kept."""


@pytest.mark.parametrize("number", range(SINCE_PLANS, FORMAT + 1))
@pytest.mark.parametrize(
    ("name", "shapes"),
    [
        ("plans", {"wish", "surfacing", "done", "stated", "ground", "report", "picture"}),
        ("jobs", {"job", "making", "came_out"}),
    ],
)
def test_plans_and_jobs_of_any_format_are_read(number: int, name: str, shapes: set[str]) -> None:
    kept = golden(GOLDEN / f"records_{number}" / f"{name}.json")
    assert set(kept) == shapes
    for shape, stored in kept.items():
        found = load(shape, stored)
        assert not lost(stored, found), shape
        again = dump(shape, found)
        assert load(shape, again) == found
        if number == FORMAT:
            # what changes wants a new format and a step; a field with a default does not
            assert stands_in(stored, again), shape
        # bounds are for input, and what is not known is no harm
        assert load(shape, {**stored, "of_another_time": 1}) == found
        with pytest.raises(Unreadable):
            load(shape, 7)


@pytest.mark.parametrize("path", CHECKS, ids=name)
def test_a_move_of_any_format_is_done_and_undone(path: Path) -> None:
    """Its changes to the machine's description, and back to where it was."""
    kept = golden(path)
    for r, after in zip(kept["rounds"], kept["rounds"][1:], strict=False):
        stored = r.get("move") or r.get("advised")
        move = load("move", stored, kept["kind"])
        machine = load("snapshot", r["snapshot"], kept["kind"]).machine
        moved = done(move, machine)
        # the machine of the next round's snapshot was kept by the program of that time
        then = load("snapshot", after["snapshot"], kept["kind"]).machine
        assert stacks_of(moved) == stacks_of(then)
        assert stacks_of(undone(move, moved)) == stacks_of(machine)
        if move.changes:
            with pytest.raises(Problem, match="has been changed there since"):
                done(move, moved)


def test_of_earlier_rounds_some_had_no_move_before_them() -> None:
    snapshots = [
        (kept["kind"], r["snapshot"])
        for kept in (golden(p) for p in CHECKS if p.parent.name == "records_1")
        for r in kept["rounds"]
        if r["snapshot"]["history"]["rounds"]
    ]
    assert snapshots
    for kind, stored in snapshots:
        *_, last = stored["history"]["rounds"]
        for more in ({"move": None}, {}):
            bare = {k: v for k, v in last.items() if k != "move"} | more
            rounds = [*stored["history"]["rounds"], bare]
            history = {**stored["history"], "rounds": rounds}
            read = load("snapshot", {**stored, "history": history}, kind).history
            assert read.rounds[-1].move is None
            assert read.rounds[-1].values == read.rounds[-2].values
            assert len(read.rounds) == len(load("snapshot", stored, kind).history.rounds) + 1


def test_moves_of_the_first_format_say_what_they_change() -> None:
    """What a controller makes up for, and the shims behind a bracket, stood only in words then."""
    kept = golden(next(p for p in CHECKS if p.parent.name == "records_1"))
    stored = kept["rounds"][0]["advised"]
    common = {**stored, "stacks": [], "takes_off": {}, "predicted": [], "targets": []}
    entry = {
        "label": "x",
        "words": plain("x"),
        "before_mm": 0.0,
        "value_mm": 0.04,
        "setting": "backlash",
    }
    controller = {
        **common,
        "key": "compensate",
        "mechanism": "drive_settings",
        "part": "left_right",
        "entries": [entry],
    }
    router = starting_point("gantry_router")
    moved = done(load("move", controller, "lost_motion"), router)
    assert [s.compensation_mm for s in moved.slides if s.direction == "left_right"] == [0.04]
    assert [s.compensation_mm for s in moved.slides if s.direction != "left_right"] == [0.0, 0.0]
    where = {"pad": "lower screws", "x_mm": 0, "y_mm": 0, "words": plain("x").model_dump()}
    shims = {**where, "before_mm": [], "after_mm": [0.1, 0.05]}
    bracket = {**common, "key": "x", "mechanism": "bracket", "stacks": [shims]}
    move = load("move", bracket, "spindle_tram")
    packed = done(move, router)
    assert packed.bracket is not None
    assert packed.bracket.bottom_shims_mm == [0.1, 0.05]
    assert packed.bracket.top_shims_mm == []
    assert {(t.thickness_mm, t.count) for t in move.tin} == {(0.1, 1), (0.05, 1)}
    assert undone(move, packed) == router


def stacks_of(machine: Machine) -> Any:
    """All that moves change of a description, in no particular order."""
    data = machine.model_dump(mode="json")
    packs = data["rails"]["packs"] if data["rails"] else []
    places = {(round(p["x_mm"]), round(p["y_mm"])): sorted(p["shims_mm"]) for p in packs}
    base = {p["name"]: sorted(p["shims_mm"]) for p in data["base"]["pads"]} if data["base"] else {}
    slides = {s["direction"]: round(s["compensation_mm"], 9) for s in data["slides"]}
    return places, base, data["bracket"], slides


def test_what_was_accepted_once_is_read_though_it_would_be_refused_today() -> None:
    """Bounds belong to input: one that is tightened later leaves every record readable."""
    kept = dump("machine", starting_point("gantry_router"))
    kept |= {"table_x_mm": 2.0, "cutter_mm": 900.0}
    kept["board"] |= {"thickness_mm": 1.0, "least_mm": 5.0}
    kept["slides"] += [copy.deepcopy(kept["slides"][0])]
    kept["of_another_time"] = 1
    with pytest.raises(ValidationError):
        Machine.model_validate(kept)
    found = load("machine", kept)
    assert type(found) is Machine
    assert (found.table_x_mm, found.board.thickness_mm, len(found.slides)) == (2.0, 1.0, 4)
    tram = {"kind": "spindle_tram", "radius_mm": 2.0, "positions": [12, 12]}
    assert load("setup", tram, "spindle_tram").radius_mm == 2.0


@pytest.mark.parametrize(
    ("shape", "kept"),
    [("machine", None), ("machine", []), ("outcome", {"finding": {}}), ("move", {"key": "x"})],
)
def test_what_cannot_be_made_out_says_so(shape: str, kept: Any) -> None:
    with pytest.raises(Unreadable):
        load(shape, kept, "spindle_tram")


def test_the_text_of_a_record_is_read_as_the_record_is_and_made_out_once() -> None:
    shared = {}
    for path in CHECKS:
        kept = golden(path)
        found = Summary.of(load("outcome", kept["rounds"][0]["outcome"], kept["kind"]))
        text = json.dumps(dump("summary", found))
        read = load_text("summary", text, kept["kind"])
        assert read == found
        # whoever asks again is handed the same, which nobody can write to
        assert load_text("summary", text, kept["kind"]) is read
        with pytest.raises(ValidationError, match="frozen"):
            read.values = []
        for told in read.values:
            with pytest.raises(ValidationError, match="frozen"):
                told.limit = 1e9
        shared[text] = read
    # what others have told is not mixed up with it
    assert len({id(read) for read in shared.values()}) == len(shared) > 50
    for damaged in ("3", '{"format": 1, "values": "?"}'):
        with pytest.raises(Unreadable):
            load_text("summary", damaged)


def test_what_pieces_were_called_is_not_told_in_inches_by_a_later_format() -> None:
    kept = golden(GOLDEN / "records_3" / "tool_runout_a_tin_of_collets.json")["rounds"][0]
    outcome = json.loads(json.dumps(kept["outcome"]))
    for q in outcome["finding"]["quantities"]:
        q["label"] = {"with:now": "Boxed 6 mm in", "tool": "TIR at 25 mm"}.get(q["key"], q["label"])
    found = load("outcome", outcome, "tool_runout").finding
    told = {q.key: q.label for q in found.quantities}
    assert (told["with:now"].metric, told["with:now"].inch) == ("Boxed 6 mm in", "Boxed 6 mm in")
    assert load("outcome", dump("outcome", load("outcome", outcome, "tool_runout")), "tool_runout")
    # where a text was a place, it is told in inches like one that is written today
    lean = golden(GOLDEN / "records_3" / "spindle_tram_along_a_beam.json")["rounds"][0]
    labels = [q.label for q in load("outcome", lean["outcome"], "spindle_tram").finding.quantities]
    assert any("at x −250 mm" in w.metric and "at x −9.84 in" in w.inch for w in labels)
