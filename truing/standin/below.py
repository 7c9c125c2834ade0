"""How the stand-in answers moves on what lies under the tram: feet, gibs, rails, drive."""

from __future__ import annotations

from typing import Any

import numpy as np

from truing.contract.move import Move
from truing.machine import Machine, Rails
from truing.standin.truth import RailsTruth, Truth


def apply(
    move: Move,
    truth: Truth,
    machine: Machine,
    rng: np.random.Generator,
    *,
    shim_sd_mm: float,
) -> Truth:
    """The machine after someone made this move (a new Truth)."""
    if move.mechanism == "feet":
        return _feet(move, truth, rng)
    if move.mechanism in ("rail_first", "rail_second", "rail_packs") and machine.rails is not None:
        return _rails(move, truth, machine.rails, rng, shim_sd_mm)
    if move.mechanism == "gibs":
        return _gib(move, truth, rng, shim_sd_mm)
    if move.mechanism in ("nut", "end_bearing", "drive_settings", "screw_blocks"):
        return _drive(move, truth, rng)
    return truth


def _hand(rng: np.random.Generator) -> float:
    """What a hand makes of a stated amount."""
    return float(rng.uniform(0.85, 1.15))


def _feet(move: Move, truth: Truth, rng: np.random.Generator) -> Truth:
    up = {a.place: a.amount_mm for a in move.amounts}
    feet = [
        f.model_copy(update={"out_mm": f.out_mm + up.get(f.name, 0.0) * _hand(rng)})
        for f in truth.stand.feet
    ]
    return truth.model_copy(update={"stand": truth.stand.model_copy(update={"feet": feet})})


def _slide(truth: Truth, direction: str, **change: Any) -> Truth:
    slide = truth.slide(direction).model_copy(update=change)
    return truth.model_copy(update={"slides": {**truth.slides, direction: slide}})


def _gib(move: Move, truth: Truth, rng: np.random.Generator, sd_mm: float) -> Truth:
    slide = truth.slide(move.part)
    if move.stacks:
        shim = sum(move.stacks[0].after_mm) + float(rng.normal(0.0, sd_mm))
        return _slide(truth, move.part, shim_mm=max(shim, 0.0))
    closed = move.takes_off.get("play", 0.0) * _hand(rng)
    return _slide(truth, move.part, clearance_mm=slide.clearance_mm - closed)


def _rails(move: Move, truth: Truth, rails: Rails, rng: np.random.Generator, sd_mm: float) -> Truth:
    """Every bolt that is named takes the rail along with it; between them it bends."""
    changed = truth.rails.model_copy(deep=True)
    for stack in move.stacks:
        added = sum(stack.after_mm) - sum(stack.before_mm)
        if stack.after_mm != stack.before_mm:
            added += float(rng.normal(0.0, sd_mm)) * max(1, len(stack.after_mm)) ** 0.5
        first = _is_first(rails, stack.x_mm, stack.y_mm)
        _lift(changed, first, _along(rails, stack.x_mm, stack.y_mm), added)
    for amount in move.amounts:
        at = _nearest(changed, _along(rails, amount.x_mm, amount.y_mm))
        values = changed.side_mm if move.key == "rail_side" else changed.second_mm
        values[at] += amount.amount_mm * float(rng.uniform(0.75, 1.25))
    return truth.model_copy(update={"rails": changed})


def _is_first(rails: Rails, x_mm: float, y_mm: float) -> bool:
    return (x_mm if rails.runs == "front_back" else y_mm) < 0


def _along(rails: Rails, x_mm: float, y_mm: float) -> float:
    return (y_mm if rails.runs == "front_back" else x_mm) + rails.length_mm / 2


def _nearest(rails: RailsTruth, at_mm: float) -> int:
    return min(range(len(rails.at_mm)), key=lambda i: abs(rails.at_mm[i] - at_mm))


def _lift(rails: RailsTruth, first: bool, at_mm: float, added_mm: float) -> None:
    values = rails.first_up_mm if first else rails.second_up_mm
    values[_nearest(rails, at_mm)] += added_mm


def _drive(move: Move, truth: Truth, rng: np.random.Generator) -> Truth:
    slide = truth.slide(move.part)
    if move.key == "compensate":
        return _slide(truth, move.part, compensated_mm=move.entries[0].value_mm)
    what, _, which = move.key.partition(":")
    if what == "remedy":
        # a link that is set keeps a little of its slack
        links = {**slide.links_mm, which: slide.links_mm.get(which, 0.0) * rng.uniform(0.08, 0.25)}
        return _slide(truth, move.part, links_mm=links)
    if what == "block":
        blocks = dict(slide.blocks_mm)
        for key, amount in move.takes_off.items():
            blocks[key] = blocks.get(key, 0.0) - amount * float(rng.uniform(0.8, 1.2))
        return _slide(truth, move.part, blocks_mm=blocks)
    return truth
