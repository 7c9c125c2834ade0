"""What is said of a chain: who adds what, what a new piece would gain, what a cut sees of it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from truing.checks.tool_runout.finding import Link
from truing.contract.case import Case
from truing.contract.finding import shown
from truing.effects.runout import SMALL_MM, TENTH, good_for, tooth_load
from truing.kit.tooling import Cutter
from truing.measure.estimate import Estimate
from truing.measure.words import Words, capital, plain, say, show


def index_lines(case: Case[Any, Any], tir: Estimate, links: Sequence[Link]) -> list[Words]:
    """Rank, floor and price."""
    lines = []
    ranked = sorted(links, key=lambda k: -k.tir.value)
    first, second = ranked[0], ranked[1]
    if first.tir.least > second.tir.most:
        lines.append(say("Most of it is {who}: {tir} TIR.", who=first.title, tir=shown(first.tir)))
    elif first.tir.visible:
        lines.append(
            plain(
                f"{capital(first.title)} and {second.title} add about as much: which is worse "
                "cannot be told yet."
            )
        )
    floor = links[0]
    if floor.slots == ["spindle"]:
        lines.append(
            say(
                "The spindle itself adds {tir}. No holder or collet gets below that, unless two "
                "errors are set against each other.",
                tir=shown(floor.tir),
            )
        )
    for link in links:
        if link.tir.visible and link.without.most < tir.value:
            lines.append(_replaced(case, link, tir))
    return lines


def _replaced(case: Case[Any, Any], link: Link, tir: Estimate) -> Words:
    said = say("If {who} ran true, {left} would be left.", who=link.title, left=shown(link.without))
    slots = [s for s in link.slots if s != "spindle"]
    prices = [getattr(case.pieces.get(case.setup.piece(s)), "price", 0.0) for s in slots]
    if link.slots != slots or not all(prices):
        return said
    gained = (tir.value - link.without.value) * 1000
    price = f" New, it costs {sum(prices):g}: {sum(prices) / gained:.2f} for each micrometre."
    return said + price


def cut_lines(case: Case[Any, Any], tir: Estimate) -> list[Words]:
    """What it does to slot, tooth and cutter."""
    setup, limit = case.setup, case.tolerances["tool"]
    lines = [
        say(
            "Good for {sizes}. Slots come out wider by up to {tir}.",
            sizes=good_for(tir, limit),
            tir=show(tir.most, max(tir.expanded, 1e-4)),
        )
    ]
    cutter = case.pieces.get(setup.tool)
    if not isinstance(cutter, Cutter):
        return lines
    if setup.chip_mm:
        load = tooth_load(tir.value, cutter.teeth, setup.chip_mm)
        lines.append(
            say(
                "At a chip of {chip} one of its {n} teeth takes {load} times its share, and wears "
                "so much sooner.",
                chip=show(setup.chip_mm, setup.chip_mm / 100),
                n=str(cutter.teeth),
                load=f"{load:.1f}",
            )
            if load >= 1.05
            else say(
                "At a chip of {chip} its {n} teeth share the work.",
                chip=show(setup.chip_mm, setup.chip_mm / 100),
                n=str(cutter.teeth),
            )
        )
    if setup.chip_mm and cutter.diameter_mm <= SMALL_MM and tir.most > TENTH * setup.chip_mm:
        lines.append(
            say(
                "A cutter of {d} lives while a tenth of its chip, {tenth}, is not exceeded: small "
                "ones break before they wear.",
                d=show(cutter.diameter_mm, 0.1),
                tenth=show(TENTH * setup.chip_mm, TENTH * setup.chip_mm / 10),
            )
        )
    return lines
