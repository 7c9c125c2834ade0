"""The usual instruments: real ones, in round figures of who reads them, and enough to begin."""

from __future__ import annotations

import re

import pytest

from truing.kit.usual import System, usual
from truing.registry import kind, registry

SYSTEMS: tuple[System, ...] = ("metric", "inch")


@pytest.mark.parametrize("system", SYSTEMS)
def test_whoever_has_them_all_can_begin_every_check(system: System) -> None:
    have = {one.spec.type for one in usual(system)}
    for key in registry():
        for way, takes in kind(key).takes_by_way().items():
            assert not takes or have & set(takes), (key, way)


@pytest.mark.parametrize("system", SYSTEMS)
def test_each_is_named_once_and_reads_in_round_figures(system: System) -> None:
    kit = usual(system)
    assert len({one.name for one in kit}) == len(kit) >= 10
    for one in kit:
        told = getattr(one.reads, system)
        figure = re.match(r"(\d+(?:/\d+)?|0?\.\d+) ", told)
        if not figure:
            assert one.name == "Spirit level", told
            continue
        digits = figure[1].replace(".", "").lstrip("0")
        # 0.0005 and 1/64 are somebody's graduation, 0.000394 is nobody's
        assert len(digits.split("/")[0]) <= 2 or one.name == "Rule or tape", told


@pytest.mark.parametrize("system", SYSTEMS)
def test_what_is_typed_bare_means_what_its_owner_reads(system: System) -> None:
    spec = {one.name: one.spec for one in usual(system)}
    dial, a_bare_one = ("Dial 0.001 in", 0.0254) if system == "inch" else ("Dial 0.01", 1.0)
    assert spec[dial].read("1").mm == pytest.approx(a_bare_one)
    assert spec["Caliper"].read("1").mm == pytest.approx(25.4 if system == "inch" else 1.0)
