"""How the stand-in answers a move: taps fall short or long, tightening shifts, shims vary."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from truing.contract.move import Move, PadStack
from truing.machine import Machine
from truing.standin import below
from truing.standin.truth import Truth


def apply(
    move: Move,
    truth: Truth,
    machine: Machine,
    rng: np.random.Generator,
    *,
    shim_sd_mm: float = 0.002,
) -> Truth:
    """The machine after someone made this move (a new Truth; the old one is untouched)."""
    if move.mechanism == "column_base":
        return _base(move.stacks, truth, rng, shim_sd_mm)
    if move.mechanism == "bracket":
        return _bracket(move.stacks, truth, machine, rng, shim_sd_mm)
    if move.mechanism in ("end_plate_left", "end_plate_right"):
        return _end_plate(move, truth, machine, rng)
    if move.mechanism in ("head_pivot", "bracket_pivot"):
        return _turn(move, truth, rng)
    return below.apply(move, truth, machine, rng, shim_sd_mm=shim_sd_mm)


def _gain(truth: Truth, rng: np.random.Generator) -> float:
    return truth.tap_gain * float(rng.uniform(0.75, 1.25))


def _turn(move: Move, truth: Truth, rng: np.random.Generator) -> Truth:
    gain = _gain(truth, rng)
    about_x, about_y = truth.head_about_x_mrad, truth.head_about_y_mrad
    for quantity, amount in move.takes_off.items():
        if quantity.startswith("lean_x"):
            about_y -= gain * amount - truth.tighten_about_y_mrad
        else:
            about_x += gain * amount + truth.tighten_about_x_mrad
    return truth.model_copy(update={"head_about_x_mrad": about_x, "head_about_y_mrad": about_y})


def _end_plate(move: Move, truth: Truth, machine: Machine, rng: np.random.Generator) -> Truth:
    """The beam turns at one end and is held at the other."""
    assert machine.gantry is not None
    left, right = machine.gantry.left_plate_x_mm, machine.gantry.right_plate_x_mm
    twist = truth.beam_twist_mrad_per_m / 1000
    ends = {
        "end_plate_left": truth.head_about_x_mrad + twist * left,
        "end_plate_right": truth.head_about_x_mrad + twist * right,
    }
    ends[move.mechanism] += _gain(truth, rng) * _at_plate(move, machine)
    ends[move.mechanism] += truth.tighten_about_x_mrad
    new_twist = (ends["end_plate_right"] - ends["end_plate_left"]) / (right - left)
    return truth.model_copy(
        update={
            "beam_twist_mrad_per_m": new_twist * 1000,
            "head_about_x_mrad": ends["end_plate_left"] - new_twist * left,
        }
    )


def _at_plate(move: Move, machine: Machine) -> float:
    """Turn meant at the plate itself (mrad), from what was meant at the places that were read."""
    assert machine.gantry is not None
    left, right = machine.gantry.left_plate_x_mm, machine.gantry.right_plate_x_mm
    held, moved = (right, left) if move.mechanism == "end_plate_left" else (left, right)
    meant = {float(k.partition("@")[2] or 0.0): v for k, v in move.takes_off.items()}
    x, amount = max(meant.items(), key=lambda item: abs(item[0] - held))
    return amount * (moved - held) / (x - held)


def _base(
    stacks: Sequence[PadStack], truth: Truth, rng: np.random.Generator, sd_mm: float
) -> Truth:
    """A stiff base settles on the mean plane of what was added under it."""
    points = np.array([[s.x_mm, s.y_mm, 1.0] for s in stacks])
    added = np.array([sum(s.after_mm) - sum(s.before_mm) for s in stacks])
    pieces = np.array([len(s.after_mm) for s in stacks])
    added = added + rng.normal(0.0, sd_mm, len(stacks)) * np.sqrt(pieces)
    slope_x, slope_y, _ = np.linalg.lstsq(points, added, rcond=None)[0] * 1000
    # raising the right pads turns the column's top to −X; raising the rear ones, to −Y
    return truth.model_copy(
        update={
            "base_about_y_mrad": truth.base_about_y_mrad - float(slope_x),
            "base_about_x_mrad": truth.base_about_x_mrad + float(slope_y),
        }
    )


def _bracket(
    stacks: Sequence[PadStack],
    truth: Truth,
    machine: Machine,
    rng: np.random.Generator,
    sd_mm: float,
) -> Truth:
    assert machine.bracket is not None
    upper, lower = stacks
    out = [
        sum(s.after_mm) - sum(s.before_mm) + float(rng.normal(0.0, sd_mm)) for s in (upper, lower)
    ]
    # in front of its plate, a thicker upper stack pushes the top to the operator
    forward = 1 if machine.bracket.side == "front" else -1
    turn = forward * (out[0] - out[1]) / (upper.y_mm - lower.y_mm) * 1000
    return truth.model_copy(update={"head_about_x_mrad": truth.head_about_x_mrad + turn})
