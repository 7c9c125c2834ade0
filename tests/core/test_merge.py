"""Two people at one description: nothing that only one of them changed is lost."""

from __future__ import annotations

import copy
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from truing.machine.merge import merged

LEAVES = st.one_of(st.none(), st.integers(0, 3), st.sampled_from(["a", "b"]))
PARTS = st.dictionaries(st.sampled_from("pqr"), LEAVES, max_size=3)
WHOLE = st.fixed_dictionaries(
    {"name": LEAVES, "feet": PARTS, "pads": st.lists(PARTS, max_size=3), "bolts": st.lists(LEAVES)}
)


@given(was=WHOLE, other=WHOLE)
def test_what_only_one_has_changed_stands(was: Any, other: Any) -> None:
    assert merged(was, was, other) == (other, [])
    assert merged(was, other, was) == (other, [])
    assert merged(was, other, other) == (other, [])


@given(was=WHOLE, now=WHOLE, new=WHOLE)
def test_every_figure_is_somebodys_and_clashes_are_named(was: Any, now: Any, new: Any) -> None:
    before = copy.deepcopy((was, now, new))
    whole, clashes = merged(was, now, new)
    assert (was, now, new) == before
    for key in was:
        mine, theirs = new[key] != was[key], now[key] != was[key]
        if not mine:
            assert whole[key] == now[key]
        elif not theirs:
            assert whole[key] == new[key]
        elif whole[key] not in (now[key], new[key]):
            # taken part by part: never a figure that nobody gave
            assert isinstance(whole[key], (dict, list))
    for path in clashes:
        head = path.split(".")[0]
        assert len({repr(was[head]), repr(now[head]), repr(new[head])}) == 3


def machine(span: float, left: float, right: float) -> Any:
    pads = [{"at": "left", "mm": left}, {"at": "right", "mm": right}]
    return {"feet": {"span": span, "count": 4}, "pads": pads}


def test_two_changes_in_one_part_are_put_together() -> None:
    was, now, new = machine(400, 0, 0), machine(400, 0.2, 0), machine(410, 0, 0.1)
    assert merged(was, now, new) == (machine(410, 0.2, 0.1), [])
    whole, clashes = merged(was, now, machine(400, 0.5, 0))
    assert clashes == ["pads.0.mm"]
    assert whole == machine(400, 0.5, 0)


@pytest.mark.parametrize(
    ("was", "now", "new"),
    [
        (None, "a", {"p": 1}),
        ({"p": 1}, None, {"p": 2}),
        ({"p": 1}, {"p": 2}, [1]),
        ([1], {"p": 1}, {"p": 2}),
        ([1, 2], [1, 3], [1]),
        ([1], [2], "a"),
    ],
)
def test_what_has_another_shape_now_is_taken_whole_and_named(was: Any, now: Any, new: Any) -> None:
    for of, other, mine in ((was, now, new), (was, new, now)):
        told = merged(
            {"feet": of, "name": 1}, {"feet": other, "name": 2}, {"feet": mine, "name": 1}
        )
        assert told == ({"feet": mine, "name": 2}, ["feet"])
