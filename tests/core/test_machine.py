"""What a machine's description comes to: what takes its tool up, and what its slides are called."""

from __future__ import annotations

from typing import Any

import pytest

from truing.machine import Machine, starting_point


def described(form: Any, **changed: Any) -> Machine:
    return starting_point(form).model_copy(update=changed)


def without(machine: Machine, direction: str) -> Machine:
    kept = [s for s in machine.slides if s.direction != direction]
    return machine.model_copy(update={"slides": kept})


def driven(machine: Machine, drive: str) -> Machine:
    slides = [
        s.model_copy(update={"drive": drive}) if s.direction == "up_down" else s
        for s in machine.slides
    ]
    return machine.model_copy(update={"slides": slides})


@pytest.mark.parametrize(
    ("form", "usual"),
    [
        ("column_mill", ("head",)),
        ("micro_mill", ("head",)),
        ("knee_mill", ("knee",)),
        ("round_column", ("quill", "head")),
        ("gantry_router", ("carriage",)),
        ("fixed_gantry", ("carriage",)),
        ("frame", ("carriage",)),
    ],
)
def test_what_takes_the_tool_up_from_the_work(form: str, usual: tuple[str, ...]) -> None:
    machine = starting_point(form)  # type: ignore[arg-type]
    assert machine.lifts == usual
    # a mill's quill comes after what lifts by itself, and is named once; a gantry has none
    named = "quill" in usual or usual == ("carriage",)
    assert described(form, quill=True).lifts == (usual if named else (*usual, "quill"))
    # nothing lifts a gantry's tool where no slide is described; a mill's column still does
    bare = without(machine, "up_down")
    if usual == ("carriage",):
        assert bare.lifts == ()
    else:
        assert bare.lifts
        assert bare.model_copy(update={"column": None, "base": None}).lifts == ()


def test_a_lever_moves_a_quill_and_on_a_round_column_the_head_as_well() -> None:
    assert driven(described("column_mill"), "lever").lifts == ("quill",)
    assert driven(described("round_column"), "screw").lifts == ("head",)


def test_slides_are_called_by_their_direction_and_the_machines_own_letter() -> None:
    machine = described("column_mill")
    lettered = [
        s.model_copy(update={"letter": {"left_right": " X ", "up_down": "W"}.get(s.direction, "")})
        for s in machine.slides
    ]
    named = machine.model_copy(update={"slides": lettered})
    assert named.slide_title("left_right").endswith(" (X)")
    assert "(" not in named.slide_title("front_back")
    said = named.letters()
    assert said.startswith("On this machine ")
    assert said.endswith(".")
    assert said.count(" is ") == 2
    assert "is X" in said
    assert "is W" in said
    quiet = [s.model_copy(update={"letter": "  "}) for s in machine.slides]
    assert machine.model_copy(update={"slides": quiet}).letters() == ""
