"""Which codes of RS-274 are understood, against its own table of modal groups."""

from __future__ import annotations

from itertools import combinations

import pytest

from truing.programs import read
from truing.programs.motions import TURNS, Odd

MODAL = [
    # motion; the canned cycles that are followed
    "0 1 2 3 38.2 38.3 38.4 38.5 73 80 81 82 83 85 86 89",
    "17 18 19",
    "90 91",
    "90.1 91.1",
    "93 94 95",
    "20 21",
    "40 41 42 41.1 42.1",
    "43 43.1 49",
    "98 99",
    "54 55 56 57 58 59 59.1 59.2 59.3",
    "61 61.1 64",
    # what takes the axis words of its own block
    "10 28 28.1 30 30.1 92 92.1 92.2 92.3",
    "4",
    "53",
]
ENDS = ["15", "50", "67", "69"]
"""What ends a code that is not followed: where none of it holds it says nothing."""
GROUPS = [group.split() for group in MODAL]
KNOWN = [code for group in GROUPS for code in group] + ENDS


def test_no_arc_is_believed_to_go_round_for_ever() -> None:
    for said, turns in ((3, 3), (1000, 1000)):
        motions = read(f"G21 G90 G94 F600\nG0 X0 Y0 Z1\nG2 X8 I4 P{said:.0f}\n".encode()).motions
        assert motions.how[-1, TURNS] == turns
    assert odd("G2 X8 I4 P1001") >= {Odd.ROUNDS}


def odd(block: str) -> set[int]:
    """What is found odd in one block."""
    motions = read(f"G21 G17 G90 G94 F100\nG0 Z5\n{block}\nM2\n".encode()).motions
    return {int(what) for line, what, _ in motions.odd if line == 3}


def test_every_code_of_the_table_is_known_and_no_other() -> None:
    unknown = [f"{n / 10:g}" for n in range(1000) if Odd.UNKNOWN_G in odd(f"G{n / 10:g}")]
    # boring cycles that stop for a hand, tapping, and what only some controllers have
    assert set(unknown) == {f"{n / 10:g}" for n in range(1000)} - set(KNOWN)
    assert Odd.UNKNOWN_G in odd("G17.05")


def test_two_codes_of_one_group_exclude_each_other_and_others_do_not() -> None:
    for group in GROUPS:
        for a, b in combinations(group, 2):
            assert Odd.TWO_OF_GROUP in odd(f"G{a} G{b}"), (a, b)
    firsts = [(group[0], group[-1]) for group in GROUPS]
    for (a, _), (_, b) in combinations(firsts, 2):
        assert Odd.TWO_OF_GROUP not in odd(f"G{a} G{b}"), (a, b)


@pytest.mark.parametrize("code", range(-1, 100))
def test_an_m_code_that_nothing_is_known_of_loses_the_place(code: int) -> None:
    known = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 30, 60}
    assert (Odd.UNKNOWN_M in odd(f"M{code}")) == (code not in known)
    if code not in known:
        motions = read(f"G21 G90 G94 F100\nG0 X0 Y0 Z5\nM{code}\nG1 X9\n".encode()).motions
        assert str(motions.at[-1, 1]) == str(motions.at[-1, 2]) == "nan"
