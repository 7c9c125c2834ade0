"""Following programs against a second reader: blocks as they are meant, spelt in many ways, and
what a machine that knows RS-274 does with each of them."""

from __future__ import annotations

import random

import numpy as np
import pytest

from tests.core.spelt import written
from truing.programs import read
from truing.programs.motions import FEED, KIND, TURNS, Kind


@pytest.mark.parametrize("seed", range(80))
def test_a_program_is_followed_as_it_is_meant(seed: int) -> None:
    # the last of them as other machines are set: where centres are, and in inches
    text, machine = written(random.Random(seed), centres=seed >= 60, inches=seed >= 70)
    program = read(text.replace("\n", random.Random(seed).choice(["\n", "\r\n"])).encode())
    motions = program.without or program.motions
    rows = [n for n in range(len(motions.at)) if motions.how[n, KIND] <= Kind.PAUSE][1:]
    assert [int(motions.how[n, KIND]) for n in rows] == [int(d[0]) for d in machine.done], text
    for n, (kind, begin, to, centre, feed, turns) in zip(rows, machine.done, strict=True):
        row = motions.at[n]
        assert row[:6] == pytest.approx([*begin, *to], abs=1e-6), text
        if centre is not None:
            assert complex(row[6], row[7]) == pytest.approx(centre, abs=1e-3), text
            assert motions.how[n, TURNS] == turns
        if feed is not None:
            assert row[FEED] == pytest.approx(feed, rel=1e-4), text
        assert (kind in (Kind.RAPID, Kind.PAUSE)) == bool(np.isnan(row[FEED]))
