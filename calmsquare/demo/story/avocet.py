"""Avocet, a column mill with a tilting head, in the middle of a tram."""

from __future__ import annotations

from typing import Any

from calmsquare.demo.story.shed import Shed, Sitting
from calmsquare.workshop.models import Machine
from calmsquare.workshop.services import machine_spec
from truing.machine import (
    Head,
    Thing,
    four_feet,
    four_pads,
    starting_point,
)
from truing.machine.subject import Subject
from truing.registry import kind
from truing.standin.truth import (
    FaceTruth,
    FootTruth,
    PieceTruth,
    SlideTruth,
    SpindleTruth,
    SquareTruth,
    StandTruth,
    TaperTruth,
    ToolingTruth,
    TravelTruth,
    Truth,
)


def _stood(truth: Truth, out_mm: float) -> Truth:
    """With its feet screwed out so far across one diagonal."""
    feet = [
        f.model_copy(update={"out_mm": out_mm if f.x_mm * f.y_mm > 0 else 0.0})
        for f in truth.stand.feet
    ]
    return truth.model_copy(update={"stand": truth.stand.model_copy(update={"feet": feet})})


def _driven(truth: Truth, links_mm: dict[str, float]) -> Truth:
    """With so much slack in the links of its left–right drive."""
    slide = truth.slide("left_right").model_copy(update={"links_mm": links_mm})
    return truth.model_copy(update={"slides": {**truth.slides, "left_right": slide}})


_BELOW: dict[str, Any] = {
    "level_error_mm_per_m": 0.03,
    "stand": StandTruth(
        feet=[
            FootTruth(name=f.name, x_mm=f.x_mm, y_mm=f.y_mm, out_mm=0.0)
            for f in four_feet(420, 380)
        ],
        give=0.9,
    ),
    "slides": {
        "left_right": SlideTruth(
            travel_mm=300,
            clearance_mm=0.006,
            wear_mm=0.003,
            worn_screw_mm=0.004,
            links_mm={"nut": 0.013, "bearing": 0.006, "coupling": 0.002},
        ),
        "front_back": SlideTruth(
            travel_mm=160, clearance_mm=0.005, links_mm={"nut": 0.04, "bearing": 0.011}
        ),
        "up_down": SlideTruth(
            travel_mm=280, clearance_mm=0.007, links_mm={"nut": 0.06, "bearing": 0.02}
        ),
    },
}


_SQUARED: dict[str, Any] = {
    "travel": TravelTruth(
        top_x_mm_per_m=0.015,
        top_y_mm_per_m=-0.02,
        column_about_x_mrad=0.03,
        column_about_y_mrad=0.02,
    ),
    "square": SquareTruth(away_mm_per_m=0.11),
}
"""A column that goes up square enough, and the shed’s square."""


def avocet(shed: Shed) -> None:
    """Column mill with a tilting head, in the middle of a tram."""
    spec = starting_point("column_mill").model_copy(
        update={
            "head": Head(turns=True, pivot_x_mm=0.0),
            "table_x_mm": 550.0,
            "table_y_mm": 240.0,
            "things": [
                Thing(key="a0c3vice", name="Vice", face_mm=100, pivot_mm=-38),
                Thing(key="a0c3scal", name="X scale", sort="scale", face_mm=320),
            ],
        }
    )
    spec.base.pads = four_pads(180, 140)  # type: ignore[union-attr]
    found = Truth(head_about_y_mrad=0.62, head_about_x_mrad=-0.03, saddle_mm=0.0004)
    true = found.model_copy(update={"head_about_y_mrad": 0.02})
    bumped = found.model_copy(update={"head_about_y_mrad": -0.71, "base_about_x_mrad": -0.02})
    nearly = bumped.model_copy(update={"head_about_y_mrad": -0.17})
    machine = shed.machine("Avocet", spec, nearly)
    setup = {"way": "swing", "radius_mm": 110, "positions": "12, 3, 6, 9", "passes": 2}
    shed.sitting(
        Sitting(
            machine,
            shed.kit.lever,
            setup,
            36,
            [found, true],
            tightened=[("+4 div", "+6 div")],
            note="As found after the move from the ferry workshop. Table stoned first.",
        )
    )
    shed.sitting(
        Sitting(
            machine,
            shed.kit.lever,
            setup,
            0.05,
            [bumped, nearly],
            tightened=[("-3 div", "-1 div")],
            note="The orrery plate came out with a hollow: vice caught the head last week.",
            settle=False,
        )
    )
    _below(shed, machine, nearly)
    _held(shed, machine, true)
    shed.happened(machine, 38, "moved", said="From the ferry workshop, on its own pallet.")
    shed.happened(machine, 21, "hours", hours=14)
    shed.happened(machine, 12, "tilted", degrees=30, said="Bevels for the orrery’s base.")
    shed.happened(machine, 10, "squared")
    shed.happened(machine, 6, "crash", said="The vice caught the head.")
    shed.squared(
        machine, bumped.model_copy(update=_SQUARED), 3, note="Did the column move as well?"
    )
    sound = nearly.model_copy(update=_TURNING)
    _turning(shed, machine, sound)
    _trued(shed, machine, sound)
    truth = nearly.model_copy(update={**_BELOW, **_SQUARED, **_TURNING})
    Machine.objects.filter(pk=machine.pk).update(truth=truth.model_dump(mode="json"))


_TURNING: dict[str, Any] = {
    "turning": SpindleTruth(
        play_across_mm=0.003,
        play_along_mm=0.004,
        off_x_mm=0.0016,
        off_y_mm=-0.0009,
        tilt_x_mm_per_m=0.02,
        bar_x_mm=0.002,
        bar_y_mm=0.0015,
        oval_mm=0.0012,
        wander_mm=0.0003,
    )
}
"""A spindle that is sound, with a bar that is not quite round."""


def _turning(shed: Shed, machine: Machine, truth: Truth) -> None:
    """The empty spindle, before anything was put into it."""
    runout = {"seats": "half", "distances_mm": [10, 90], "stick_out_mm": [50], "passes": 2}
    for key, setup, note in (
        ("spindle_play", {"way": "cold", "passes": 2}, ""),
        ("spindle_runout", runout, "Taper wiped three times; the bar is the ferry’s."),
    ):
        shed.sitting(Sitting(machine, shed.kit.lever, setup, 2.4, [truth], kind=key, note=note))


_HOLDER = ToolingTruth(
    taper=TaperTruth(thin_x_mm=0.021, thin_y_mm=-0.009, thick_x_mm=0.006, bore_mm=0.0008),
    seat_sd_mm=0.0004,
)
"""A holder whose taper and bore were turned in two settings."""


def _trued(shed: Shed, machine: Machine, truth: Truth) -> None:
    """The home-made holder: found crooked in the spindle, trued on its bore, read again."""
    key = shed.kit.id("Home-made holder")
    chain = {
        "chain": "holder",
        "holder": key,
        "tool": shed.kit.id("6 mm ground pin"),
        "heights_mm": [20, 50],
        "passes": 2,
    }

    def seated(off_mm: float) -> Truth:
        piece = PieceTruth(off_x_mm=off_mm, off_y_mm=-0.4 * off_mm, tilt_x_mm_per_m=4 * off_mm)
        return truth.model_copy(update={"tooling": ToolingTruth(pieces={key: piece})})

    def cut(mm: float) -> Truth:
        taper = _HOLDER.taper.model_copy(update={"cut_mm": mm})
        return truth.model_copy(update={"tooling": ToolingTruth(taper=taper)})

    stated = {"holder": key, "pass_mm": 0.016, "room_mm": 1.5, "length_mm": 62}
    told: list[tuple[str, dict[str, Any], list[Truth], str]] = [
        ("tool_runout", chain, [seated(0.02)], "The holder made from a bar end: it wobbles."),
        (
            "taper_truing",
            stated,
            [cut(0.0), cut(0.0153), cut(0.0306), cut(0.0465)],
            "In the ferry’s lathe, four jaws, on its own bore.",
        ),
        ("tool_runout", chain, [seated(0.0012)], "Blue over the whole taper."),
    ]
    for i, (kind_key, setup, truths, note) in enumerate(told):
        shed.sitting(
            Sitting(machine, shed.kit.lever, setup, 2.2 - i / 24, truths, kind=kind_key, note=note)
        )


def _held(shed: Shed, machine: Machine, true: Truth) -> None:
    """The vice tapped true in two rounds, and its readout scale looked at once."""

    def askew(key: str, **face: float) -> Truth:
        return true.model_copy(update={"faces": {key: FaceTruth.model_validate(face)}})

    for thing, truths, note in (
        (
            "a0c3vice",
            [
                askew("a0c3vice", angle_rad=0.0013, pivot_mm=-38),
                askew("a0c3vice", angle_rad=0.00004, near_mm=0.05, pivot_mm=-38),
            ],
            "After its base was stoned.",
        ),
        ("a0c3scal", [askew("a0c3scal", angle_rad=0.00009)], "From the reader’s bracket."),
    ):
        stated = kind("face_alignment").propose(machine_spec(machine), Subject.thing(thing))
        assert stated
        shed.sitting(
            Sitting(
                machine,
                shed.kit.lever,
                stated.model_dump(mode="json"),
                34,
                truths,
                kind="face_alignment",
                note=note,
            )
        )


def _below(shed: Shed, machine: Machine, nearly: Truth) -> None:
    """Stand and slides in order; lost motion left to right chased through three remedies."""
    now = nearly.model_copy(update=_BELOW)
    spec = machine_spec(machine)
    walk = kind("inspection").propose(spec)
    assert walk
    seen = now.model_copy(update={"faults": {"edges": "mended"}})
    for days, note in (
        (37.4, "Burrs stoned off the table’s front edge. Shims photographed."),
        (5.8, "Looked over after the vice caught the head: nothing bent, nothing loose."),
    ):
        shed.sitting(
            Sitting(
                machine,
                shed.kit.tape,
                walk.model_dump(mode="json"),
                days,
                [seen],
                kind="inspection",
                note=note,
            )
        )
    level = kind("base_level").propose(spec)
    assert level
    stated = {**level.model_dump(mode="json"), "passes": 2}
    shed.sitting(
        Sitting(
            machine,
            shed.kit.level,
            stated,
            37,
            [_stood(now, 0.11), _stood(now, 0.008)],
            kind="base_level",
            note="On its new stand, before the floor was swept.",
        )
    )
    for days, slide in enumerate(("left_right", "front_back", "up_down")):
        where = {"slide": slide, "places_mm": [-70, 0, 70]}
        shed.sitting(
            Sitting(
                machine,
                shed.kit.fine,
                where,
                36.8 - days / 10,
                [now],
                kind="slide_play",
            )
        )
    links = [
        {"nut": 0.071, "bearing": 0.046, "coupling": 0.012},
        {"nut": 0.071, "bearing": 0.006, "coupling": 0.012},
        {"nut": 0.013, "bearing": 0.006, "coupling": 0.012},
        {"nut": 0.013, "bearing": 0.006, "coupling": 0.002},
    ]
    setup: dict[str, Any] = {
        "slide": "left_right",
        "places_mm": [-110, 0, 110],
        "read_bearing": True,
        "read_coupling": True,
    }
    shed.sitting(
        Sitting(
            machine,
            shed.kit.fine,
            setup,
            2,
            [_driven(now, each) for each in links],
            moves=["remedy:bearing", "remedy:nut", "remedy:coupling"],
            kind="lost_motion",
            settle=False,
            note="The clock plate’s holes came out oval, all of them left to right.",
        )
    )
