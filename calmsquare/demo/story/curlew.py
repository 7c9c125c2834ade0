"""Curlew, a gantry router with two lifting and two driving motors, built up on new rails."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.utils import timezone

from calmsquare.demo.story.bed import BOARD, bed
from calmsquare.demo.story.shed import Shed, Sitting
from calmsquare.jobs.here import then
from calmsquare.logbook import happenings
from calmsquare.logbook.schemas import (
    AcceptIn,
)
from calmsquare.workshop.models import Machine
from calmsquare.workshop.services import machine_spec
from truing.checks.rails import bolts_mm
from truing.machine import (
    Bracket,
    Feet,
    Gantry,
    GantryDrive,
    Lift,
    Rails,
    four_feet,
    starting_point,
)
from truing.machine.mechanisms import RAILS
from truing.registry import kind
from truing.standin.truth import (
    BoardTruth,
    FootTruth,
    GantryTruth,
    RailsTruth,
    SlideTruth,
    StandTruth,
    Truth,
)


def _railed(truth: Truth, **values: Any) -> Truth:
    """With its rails somewhere else."""
    changed = {k: [float(v) for v in each] for k, each in values.items()}
    return truth.model_copy(update={"rails": truth.rails.model_copy(update=changed)})


_BOARD = BoardTruth(
    wide_mm=700,
    deep_mm=500,
    right_mm_per_m=-0.31,
    rear_mm_per_m=0.12,
    bow_x_mm=0.14,
    bow_y_mm=-0.05,
    twist_mm=0.09,
)
"""A board that was screwed down hard at its corners."""


def curlew(shed: Shed) -> None:
    """Gantry router, trammed at three places along its beam, true."""
    spec = starting_point("gantry_router").model_copy(
        update={
            "bracket": Bracket(spacing_mm=140),
            "rails": Rails(length_mm=1350, apart_mm=980, bolt_pitch_mm=60),
            "lift": Lift(left_x_mm=-490, right_x_mm=490),
            "gantry_drive": GantryDrive(left_x_mm=-510, right_x_mm=510),
            "feet": Feet(pitch_mm=1.5, places=four_feet(860, 1160)),
            "board": BOARD,
            "gantry": Gantry(left_plate_x_mm=-520, right_plate_x_mm=520, fixed_bolt_y_mm=90),
            "table_x_mm": 900.0,
            "table_y_mm": 1200.0,
            "cutter_mm": 35.0,
        }
    )
    found = Truth(head_about_x_mrad=-0.82, head_about_y_mrad=0.11, saddle_mm=0.002)
    better = found.model_copy(update={"head_about_x_mrad": 0.06})
    machine = shed.machine("Curlew", spec, better)
    setup = {
        "way": "swing",
        "radius_mm": 200,
        "positions": "12, 3, 6, 9",
        "passes": 2,
        "along_beam_mm": "-250, 0, 250",
    }
    shed.sitting(
        Sitting(
            machine,
            shed.kit.plunger,
            setup,
            22,
            [found, better],
            note="First tram since both lifting screws were changed.",
        )
    )
    shed.sitting(Sitting(machine, shed.kit.plunger, setup, 4, [better], by_maker=True))
    shed.happened(machine, 30, "season", said="First frost; the stove is on.")
    shed.happened(machine, 3.5, "note", said="New board glued down, 16.5 mm left after facing.")
    shed.happened(machine, 20, "hours", hours=6)
    _gantry(shed, machine, better)
    _below(shed, machine, better)
    bed(shed, machine)
    _cut(shed, machine, found, better)


def accepted(shed: Shed) -> None:
    """It was taken into use three days ago, for what it was good for by then."""
    machine = Machine.objects.get(workshop=shed.workshop, name="Curlew")
    form = AcceptIn(
        id=shed.id(),
        note="For tide-clock dials in birch, while the rails are being finished.",
        at=timezone.now() - timedelta(days=3),
    )
    happenings.accept(shed.owner, machine.pk, form, then)


def _gantry(shed: Shed, machine: Machine, better: Truth) -> None:
    """Three evenings at the home offsets of the lift, and one at those of the drive."""
    lift = machine_spec(machine).lift
    assert lift
    level = kind("gantry_level").propose(machine_spec(machine))
    square = kind("gantry_square").propose(machine_spec(machine))
    assert level
    assert square

    def hangs(right_up_mm: float, ahead_mm: float = 0.0) -> Truth:
        gantry = GantryTruth(
            left_x_mm=lift.left_x_mm,
            right_x_mm=lift.right_x_mm,
            right_up_mm=right_up_mm,
            right_ahead_mm=ahead_mm,
            bed_bow_mm=0.03,
        )
        return better.model_copy(update={"gantry": gantry})

    twice = {**level.model_dump(mode="json"), "touches": "fast_slow"}
    for days, found, left, note in (
        (61, 0.46, 0.05, "After both lifting screws were changed."),
        (36, -0.14, 0.02, "The right switch had worked loose; a drop of thread lock."),
        (6, 0.19, 0.008, "On the new rails."),
    ):
        truths = [hangs(found), hangs(left)]
        shed.sitting(
            Sitting(machine, shed.kit.plate, twice, days, truths, kind="gantry_level", note=note)
        )
    shed.sitting(
        Sitting(
            machine,
            shed.kit.beam,
            square.model_dump(mode="json"),
            5,
            [hangs(0.008, 0.62), hangs(0.008, 0.03)],
            kind="gantry_square",
            note="Four centre-drilled marks in the new board.",
            by_maker=True,
        )
    )


def _cut(shed: Shed, machine: Machine, found: Truth, better: Truth) -> None:
    """Ridges that a nail found before the first tram, and the piece that was cut in the end."""
    spec = machine_spec(machine)
    ridges, piece = kind("ridge_reading").propose(spec), kind("test_cut").propose(spec)
    assert ridges
    assert piece
    shed.sitting(
        Sitting(
            machine,
            shed.kit.tape,
            {**ridges.model_dump(mode="json"), "way": "nail"},
            23,
            [found],
            kind="ridge_reading",
            note="Two patches in an offcut: the skimmed board felt like a washboard.",
            by_maker=True,
        )
    )
    cut = better.model_copy(
        update={
            "gantry": GantryTruth(right_ahead_mm=0.03, scale_x=1.0002, scale_y=0.9999),
            "slides": {
                "left_right": SlideTruth(links_mm={"nut": 0.03}),
                "front_back": SlideTruth(links_mm={"nut": 0.02}),
            },
            "cutter_over_mm": -0.04,
        }
    )
    shed.sitting(
        Sitting(
            machine,
            shed.kit.caliper,
            {**piece.model_dump(mode="json"), "passes": 3},
            3.1,
            [cut],
            kind="test_cut",
            note="In the offcut that the dial plates come from.",
        )
    )


def _below(shed: Shed, machine: Machine, better: Truth) -> None:
    """Built up anew on longer rails: coarse done, fine in hand."""
    shed.happened(
        machine,
        12,
        "replaced",
        said="New rails on packers; the old ones were worn.",
        mechanisms=list(RAILS),
    )
    spec = machine_spec(machine)
    assert spec.rails
    places = bolts_mm(spec.rails)
    proposed = {
        k: kind(k).propose(spec)
        for k in ("base_level", "rail_straight", "rail_parallel", "rail_twist")
    }
    stated = {k: s.model_dump(mode="json") for k, s in proposed.items() if s}
    rng = shed.rng
    rough = better.model_copy(
        update={
            "rails": RailsTruth(
                at_mm=places,
                side_mm=list(rng.normal(0, 0.05, len(places))),
                second_mm=list(rng.normal(0, 0.045, len(places))),
                first_up_mm=[0.0] * len(places),
                second_up_mm=[-0.31 + 0.62 * i / (len(places) - 1) for i in range(len(places))],
                apart_mm=spec.rails.apart_mm,
            )
        }
    )
    straight = _railed(rough, side_mm=rng.normal(0, 0.002, len(places)))
    parallel = _railed(straight, second_mm=rng.normal(0, 0.002, len(places)))
    coarse = _railed(
        parallel,
        second_up_mm=[0.085 - 0.17 * i / (len(places) - 1) for i in range(len(places))],
    )
    feet = {
        "stand": StandTruth(
            feet=[
                FootTruth(name=f.name, x_mm=f.x_mm, y_mm=f.y_mm)
                for f in (spec.feet.places if spec.feet else [])
            ]
        )
    }
    walk = kind("inspection").propose(spec)
    assert walk
    shed.sitting(
        Sitting(
            machine,
            shed.kit.tape,
            walk.model_dump(mode="json"),
            11.8,
            [better.model_copy(update={"faults": {"rails": "mended"}})],
            kind="inspection",
            note="New wipers on two of the carriages.",
        )
    )
    for slide in ("left_right", "front_back", "up_down"):
        where = {"slide": slide, "places_mm": [-50, 50], "passes": 2}
        shed.sitting(
            Sitting(
                machine,
                shed.kit.fine,
                where,
                11.2,
                [better.model_copy(update={"slides": {slide: SlideTruth(clearance_mm=0.003)}})],
                kind="slide_play",
                by_maker=True,
            )
        )
    shed.sitting(
        Sitting(
            machine,
            shed.kit.level,
            stated["base_level"],
            11.5,
            [better.model_copy(update=feet)],
            kind="base_level",
        )
    )
    shed.sitting(
        Sitting(
            machine,
            shed.kit.fine,
            {**stated["rail_straight"], "edge_within_mm": 0.003},
            10,
            [rough, straight],
            kind="rail_straight",
            note="Against the granite edge from the instrument maker next door.",
        )
    )
    shed.sitting(
        Sitting(
            machine,
            shed.kit.fine,
            stated["rail_parallel"],
            9,
            [straight, parallel],
            kind="rail_parallel",
            by_maker=True,
        )
    )
    twist = {**stated["rail_twist"], "sense": "riding"}
    shed.sitting(
        Sitting(
            machine,
            shed.kit.plunger,
            {**twist, "stage": "coarse"},
            7,
            [parallel, coarse],
            kind="rail_twist",
            note="Before the epoxy for the gantry feet.",
        )
    )
    shed.sitting(
        Sitting(
            machine,
            shed.kit.plunger,
            {**twist, "stage": "fine"},
            0.4,
            [coarse],
            kind="rail_twist",
            settle=False,
        )
    )
    bed = kind("bed_map").propose(machine_spec(machine))
    assert bed
    board = {"board": _BOARD}
    shed.sitting(
        Sitting(
            machine,
            shed.kit.plate,
            bed.model_dump(mode="json"),
            3.2,
            [coarse.model_copy(update=board)],
            kind="bed_map",
            note="The dial plate’s ring is deep at the left and gone at the right.",
            by_maker=True,
        )
    )
    Machine.objects.filter(pk=machine.pk).update(
        truth=coarse.model_copy(update={**feet, **board}).model_dump(mode="json")
    )
