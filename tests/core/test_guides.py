"""Guides: every stage and kind has one, and one that cannot be used is refused by name."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.core.standing import KEYS
from truing.course import KINDS, STAGES
from truing.course.guide import FOLDER, guide, read_guide
from truing.measure.problem import Problem
from truing.registry import registry


def test_what_a_kind_moves_it_rests_on_and_every_stage_has_a_guide() -> None:
    for k in KINDS:
        assert set(k.adjusts) <= set(k.rests_on), k.key
        assert guide(k.key).minutes > 0
    assert {k.stage for k in KINDS} == {s.key for s in STAGES}
    assert [k.stage for k in KINDS] == sorted(
        (k.stage for k in KINDS), key=[s.key for s in STAGES].index
    )
    assert {p.stem for p in FOLDER.glob("*.yaml")} == set(KEYS)


def test_steps_of_a_way_are_those_of_a_way_that_there_is() -> None:
    told = {key: guide(key).by_way for key in KEYS if guide(key).by_way}
    assert {"spindle_tram", "gantry_level", "travel_square"} <= set(told)
    for key, by_way in told.items():
        assert set(by_way) <= set(registry()[key].takes_by_way()), key
        for steps in by_way.values():
            assert len(steps) >= 3
            assert steps != guide(key).steps
    # a dial that only triggers is not pressed in by half a turn to follow both ways
    assert not any("half a turn" in step.metric for step in told["spindle_tram"]["trigger"])


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ("moving:\n  flux_capacitor: Hold it.\n", "flux_capacitor"),
        ("kit: nothing\n", "kit"),
        ("minutes: 0\n", "minutes"),
        ("colour: red\n", "colour"),
        ("purpose: 5\n", "purpose"),
        ("steps: [3, 4]\n", "steps"),
        ("steps: [\n", "cannot be read"),
    ],
)
def test_a_guide_that_cannot_be_used_is_refused_by_name(
    tmp_path: Path, change: str, words: str
) -> None:
    text = (FOLDER / "lost_motion.yaml").read_text()
    head = change.partition(":")[0]
    kept, skipping = [], False
    for line in text.splitlines(keepends=True):
        if line[:1].isalpha():
            skipping = line.startswith(f"{head}:")
        kept += [] if skipping else [line]
    bad = tmp_path / "lost_motion.yaml"
    bad.write_text("".join(kept) + change)
    with pytest.raises(Problem, match=words):
        read_guide(bad)
    bad.write_text(text.replace("purpose:", "porpoise:"))
    with pytest.raises(Problem, match="purpose"):
        read_guide(bad)
    with pytest.raises(Problem, match=r"no file nowhere\.yaml"):
        read_guide(tmp_path / "nowhere.yaml")
