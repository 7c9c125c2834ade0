"""What nobody has stated yet is as round for people who read in inches as for those in mm."""

from __future__ import annotations

import re
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel, TypeAdapter

from tests.core.cases import CASES, Case
from tests.core.check_words import walk
from tests.core.helpers import case_of, readings
from truing.contract.setup import Station
from truing.course import KINDS
from truing.course.guide import guide
from truing.kit.instruments import INSTRUMENT_TITLES, Instrument
from truing.machine import FORM_TITLES, Machine, starting_point
from truing.machine.ghost import ghost
from truing.machine.subject import THE_MACHINE, Subject
from truing.measure.fields import form_schema, proposed_lengths, rounded
from truing.measure.lengths import parse_length
from truing.measure.sizes import parse_size
from truing.measure.words import UNITS, Measure, Words, both, spot, stated
from truing.registry import kind, registry
from truing.standin.evening import one_round

INSTRUMENT: TypeAdapter[Instrument] = TypeAdapter(Instrument)


def in_inches(model: BaseModel) -> dict[str, Any]:
    """What is sent when the form of it is shown in inches and nobody touches it."""
    sent = model.model_dump(mode="json")
    for path, words in proposed_lengths(model).items():
        *way, last = path.split(".")
        at: Any = sent
        for step in way:
            at = at[int(step)] if isinstance(at, list) else at[step]
        lengths = isinstance(at[last], list)
        texts = words.inch.split(", ") if lengths and words.inch else [words.inch]
        if lengths and not any("in" in t for t in texts):
            continue
        at[last] = [t for t in texts if t] if lengths else words.inch
    return sent


def digits(text: str) -> int:
    """Figures that somebody has to read."""
    number = re.sub(r"[^0-9.]", "", text).lstrip("0.").rstrip("0")
    return len(number.replace(".", "").strip("0")) if number else 0


@given(st.floats(0.001, 5000))
def test_a_round_length_is_near_and_short(mm: float) -> None:
    inch = rounded(mm).inch
    back = parse_length(inch).mm
    assert back == pytest.approx(mm, rel=0.45)
    if mm > 25.4:
        assert back == pytest.approx(mm, rel=0.13)
    assert digits(inch) <= 4
    assert rounded(-mm).inch.lstrip("−") == inch
    # what is round stays as it is
    assert rounded(back).inch == inch


@pytest.mark.parametrize("form", list(FORM_TITLES))
def test_every_starting_machine_and_proposal_can_be_had_in_inches(form: Any) -> None:
    machine = starting_point(form)
    told = Machine.model_validate(in_inches(machine))
    assert ghost(told, {}).parts
    assert told != machine
    assert told.table_x_mm == pytest.approx(machine.table_x_mm, rel=0.02)
    tried = 0
    for core in registry().values():
        if not core.suits(machine):
            continue
        parts = [s for s, _ in core.course.subjects_of(machine)] or [THE_MACHINE.text]
        for part in parts:
            proposed = core.propose(told, Subject.read(part))
            if proposed is None:
                continue
            setup = core.setup_type.model_validate(in_inches(proposed))
            assert core.stations(setup)
            assert core.doubts(setup, told) == core.doubts(proposed, told)
            tried += 1
    assert tried >= 4


@pytest.mark.parametrize("kind", list(INSTRUMENT_TITLES))
def test_a_new_instrument_begins_with_figures_as_it_is_graduated(kind: str) -> None:
    usual = INSTRUMENT.validate_python({"type": kind})
    fields = form_schema(type(usual))["properties"]
    inch = {**in_inches(usual), "type": kind}
    if "inch" in fields["unit"]["x-form"]:
        inch["unit"] = fields["unit"]["x-form"]["inch"]
        assert inch["unit"] in usual.units
    made = INSTRUMENT.validate_python(inch)
    if kind == "level":
        # nobody knows how much one division is until it was found out
        assert made.model_dump()["unit"] == "div"
        return
    assert made.step_mm == pytest.approx(usual.step_mm, rel=0.6)


@pytest.mark.parametrize(
    ("written", "inch"),
    [
        ("A lean of 0.1 mm in a metre.", "A lean of 0.0012 in in a foot."),
        ("0.05 mm across a metre; it binds", "0.00060 in across a foot; it binds"),
        ("under a 50 mm cutter", "under a 2.0 in cutter"),
        ("over 600 mm is 0.1 mm", "over 24 in is 0.0039 in"),
        ("no step is less than 0.01 mm.", "no step is less than 0.00039 in."),
        ("0 mm, and 25.4 mm", "0 in, and 1.0 in"),
        ("nothing to be turned", "nothing to be turned"),
        ("5 mmol of it", "5 mmol of it"),
    ],
)
def test_what_is_written_in_millimetres_is_told_in_inches_too(written: str, inch: str) -> None:
    assert (both(written).metric, both(written).inch) == (written, inch)


def test_no_guide_leaves_a_millimetre_to_who_reads_inches() -> None:
    for key in (k.key for k in KINDS):
        told = guide(key)
        ways = [s for steps in told.by_way.values() for s in steps]
        schools = [w for s in told.schools for w in (s.way, s.gives, s.costs)]
        texts = [told.purpose, told.costs, told.stop, *told.steps, *told.not_tested]
        for words in (*texts, *ways, *schools):
            assert not re.search(r"\bmm\b|\bmetre\b|\bcm\b", words.inch), (key, words.inch)


@given(st.floats(0, 3000), st.integers(0, 4), st.sampled_from(["length", "slope", "feed"]))
def test_what_somebody_stated_is_told_as_finely_in_inches(
    value: float, decimals: int, measure: Measure
) -> None:
    typed, (metric, inch) = f"{value:.{decimals}f}", UNITS[measure]
    for sign in ("", "+", "−"):
        told = stated(f"Bring it to {sign}{typed} {metric} from the middle.")
        assert told.metric == f"Bring it to {sign}{typed} {metric} from the middle."
        found = re.fullmatch(rf"Bring it to {re.escape(sign)}(\S+) {inch} from the.*", told.inch)
        assert found
    back = parse_size(f"{found[1]} {inch}", measure)
    meant = parse_size(f"{typed} {metric}", measure)
    # a step of the last figure in mm is never lost, nor are there zeroes to be read
    assert abs(back - meant) <= 0.13 * 10.0**-decimals
    assert not re.search(r"\.\d*0$", found[1])


@pytest.mark.parametrize(
    ("text", "inch"),
    [
        ("A block of 84 by 60 mm.", "A block of 3.31 by 2.36 in."),
        ("12.7 mm and 25.4 mm", "0.5 in and 1 in"),
        ("at −250 and +10 mm", "at −9.84 and +0.39 in"),
        ("Bolt 6, 610 mm from the fixed end", "Bolt 6, 24.02 in from the fixed end"),
        ("climbed to 3000 mm/min at 254 mm/s²", "climbed to 118.11 in/min at 10 in/s²"),
        ("0.10 mm/m, twisted by −1 mm/m per m", "0.0012 in/ft, twisted by −0.004 in/ft per ft"),
        # an area, and what somebody called a thing, are none of these
        ("“Rail 20 mm” of 4 mm², 5 mm/month", "“Rail 20 mm” of 4 mm², 5 mm/month"),
        ("nothing but words", "nothing but words"),
    ],
)
def test_only_lengths_slopes_and_feeds_are_told_otherwise(text: str, inch: str) -> None:
    assert (stated(text).metric, stated(text).inch) == (text, inch)


def test_what_pieces_are_called_stays_as_it_is_beside_a_place_in_inches() -> None:
    setup = registry()["tool_runout"].setup_type.model_validate(
        {
            "kind": "tool_runout",
            "way": "swap",
            "swapped": "collet",
            "collet": "a",
            "compared": ["b"],
            "names": {"a": "ER16 6 mm, old", "b": "ER16 6 mm, new"},
            "heights_mm": [25.4],
        }
    )
    told = registry()["tool_runout"].stations(setup)
    assert any("ER16 6 mm, new" in s.label.inch for s in told)
    assert all(re.search(r"\b1 in\b", s.label.inch) and "25.4 mm" in s.label.metric for s in told)
    assert all("Tip 1 in out" in s.prompt.inch for s in told)


def test_a_text_that_was_kept_is_told_in_both_systems() -> None:
    kept = {"key": "a", "label": "−336 mm", "prompt": "Go there.", "x_mm": -336, "y_mm": 0}
    station = Station.model_validate(kept)
    assert (station.label.metric, station.label.inch) == ("−336 mm", "−13.23 in")
    assert Station.model_validate(station.model_dump()) == station
    assert (spot(-380, 480).metric, spot(-380, 480).inch) == ("−380, 480 mm", "−14.96, 18.9 in")


@pytest.mark.parametrize(
    "case", [c for c in CASES if c.kind == "tool_runout"], ids=lambda c: c.name
)
def test_no_result_tells_what_a_piece_is_called_in_inches(case: Case) -> None:
    core, rng = registry()["tool_runout"], np.random.default_rng(3)
    stated_ = case.case()
    setup = stated_.setup.named(dict.fromkeys(stated_.setup.pieces, "Boxed 6 mm"))
    truth = case.truth(rng, stated_.machine, setup)
    readings = one_round(core, setup, truth, stated_.instrument, rng)
    # so narrow a limit that everything there is to say is said
    narrow = dict.fromkeys(stated_.tolerances, 1e-4)
    known = core.weigh(stated_.but(setup=setup, readings=readings, tolerances=narrow))
    told = [known.finding, known.judgement, core.figures(known), core.advise(known)]
    for _, words in (w for part in told for w in walk(part)):
        if isinstance(words, Words):
            assert words.metric.count("oxed 6 mm") == words.inch.count("oxed 6 mm"), words


@pytest.mark.parametrize("slope", [0.0, 0.4])
def test_how_much_of_a_table_was_read_is_told_to_the_hundredth_of_an_inch(slope: float) -> None:
    core, mill = kind("table_travel"), starting_point("column_mill")
    places = [-140.0, 0.0, 140.0]
    how = core.propose(mill).model_copy(update={"way": "along_x", "x_places_mm": places})
    read = readings((s.key, slope * s.x_mm / 1000) for s in core.stations(how))
    [told] = core.evaluate(case_of(core, how, read, machine=mill)).quantities[:1]
    assert ("can be told from nothing" in told.sentence.metric) == (slope == 0)
    assert "over the 280 mm read" in told.sentence.metric
    assert "over the 11.02 in read" in told.sentence.inch
