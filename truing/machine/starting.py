"""Starting points by form: a usual machine of each, for the owner to correct."""

from __future__ import annotations

from collections.abc import Callable

from truing.machine.board import Board
from truing.machine.machine import Form, Machine
from truing.machine.parts import (
    BoltedBase,
    Bracket,
    Column,
    Feet,
    Gantry,
    GantryDrive,
    Gib,
    Head,
    Lift,
    Rails,
    Slide,
    four_feet,
    four_pads,
)


def starting_point(form: Form) -> Machine:
    """A machine of this form with usual parts."""
    return _STARTS[form]()


def _slides(
    travels: tuple[float, float, float], gib: Gib = "strip", drive: str = "screw", lead: float = 2.0
) -> list[Slide]:
    ways = (("left_right", "X"), ("front_back", "Y"), ("up_down", "Z"))
    return [
        Slide.model_validate(
            {
                "direction": way,
                "letter": letter,
                "travel_mm": travel,
                "gib": gib,
                "drive": drive,
                "lead_mm": lead,
            }
        )
        for (way, letter), travel in zip(ways, travels, strict=True)
    ]


def _column_mill() -> Machine:
    return Machine(
        form="column_mill",
        slides=_slides((300, 160, 280), gib="tapered", lead=2.5),
        feet=Feet(places=four_feet(420, 380)),
        column=Column(),
        head=Head(),
        base=BoltedBase(width_mm=240, depth_mm=200, pads=four_pads(160, 120)),
    )


def _round_column() -> Machine:
    slides = _slides((400, 160, 120), gib="tapered", lead=2.5)
    slides[2] = slides[2].model_copy(update={"gib": "none", "drive": "lever"})
    return Machine(
        form="round_column",
        table_x_mm=580,
        table_y_mm=190,
        slides=slides,
        feet=Feet(places=four_feet(420, 420)),
        column=Column(shape="round", turns=True),
        base=BoltedBase(width_mm=260, depth_mm=240, pads=four_pads(200, 170)),
    )


def _knee_mill() -> Machine:
    return Machine(
        form="knee_mill",
        table_x_mm=900,
        table_y_mm=220,
        cutter_mm=63,
        control="readout",
        slides=_slides((600, 250, 350), gib="tapered", lead=5),
        feet=Feet(pitch_mm=2.0, places=four_feet(600, 700)),
        column=Column(shape="box"),
        # a turret nods about its ram, well behind the spindle
        head=Head(turns=True, nods=True, pivot_y_mm=200),
    )


def _micro_mill() -> Machine:
    return Machine(
        form="micro_mill",
        table_x_mm=240,
        table_y_mm=145,
        cutter_mm=25,
        slides=_slides((180, 90, 170), lead=1.5),
        column=Column(),
        base=BoltedBase(width_mm=130, depth_mm=110, pads=four_pads(90, 80)),
    )


def _gantry_router() -> Machine:
    return Machine(
        form="gantry_router",
        work="board",
        control="controller",
        table_x_mm=800,
        table_y_mm=1000,
        slides=_slides((760, 960, 120), gib="carriages", drive="ball_screw", lead=5),
        feet=Feet(pitch_mm=1.5, places=four_feet(760, 960)),
        rails=Rails(length_mm=1100, apart_mm=860),
        gantry=Gantry(),
        lift=Lift(left_x_mm=-430, right_x_mm=430),
        gantry_drive=GantryDrive(left_x_mm=-430, right_x_mm=430),
        bracket=Bracket(spacing_mm=120),
        board=Board(),
    )


def _fixed_gantry() -> Machine:
    return Machine(
        form="fixed_gantry",
        work="board",
        control="controller",
        table_x_mm=400,
        table_y_mm=500,
        cutter_mm=25,
        slides=_slides((300, 400, 90), gib="carriages", drive="ball_screw", lead=5),
        rails=Rails(length_mm=600, apart_mm=300),
        gantry=Gantry(left_plate_x_mm=-230, right_plate_x_mm=230, fixed_bolt_y_mm=60),
        bracket=Bracket(spacing_mm=80),
        board=Board(),
    )


def _frame() -> Machine:
    return Machine(
        form="frame",
        work="board",
        control="controller",
        spindle=False,
        table_x_mm=800,
        table_y_mm=1000,
        slides=_slides((760, 960, 120), gib="carriages", drive="ball_screw", lead=5),
        feet=Feet(pitch_mm=1.5, places=four_feet(760, 960)),
        rails=Rails(length_mm=1100, apart_mm=860),
    )


_STARTS: dict[Form, Callable[[], Machine]] = {
    "column_mill": _column_mill,
    "round_column": _round_column,
    "knee_mill": _knee_mill,
    "micro_mill": _micro_mill,
    "gantry_router": _gantry_router,
    "fixed_gantry": _fixed_gantry,
    "frame": _frame,
}
