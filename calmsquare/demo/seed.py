"""Demo data: the Saltmarsh Shed, where three friends build tide clocks and orreries.

All figures are invented. Readings come from the stand-in with a fixed seed and go through the same
services as anybody's, so the demo cannot drift from what the application does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

import numpy as np
from django.contrib.auth.models import User
from django.utils import timezone

from calmsquare.logbook import happenings, readings, services
from calmsquare.logbook.compute import instrument_of, setup_of
from calmsquare.logbook.models import Check, Round
from calmsquare.logbook.schemas import (
    AcceptIn,
    BatchIn,
    BatchItem,
    EventIn,
    MoveIn,
    NeedleIn,
    NoteIn,
    ReadingIn,
    SetupIn,
)
from calmsquare.screens.check import finding_out
from calmsquare.workshop.models import Instrument, Machine, Piece, ShimStock, Workshop
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import machine_spec
from truing.checks.rails import bolts_mm
from truing.kit.instruments import (
    Caliper,
    DigitalIndicator,
    FeelerBlades,
    Level,
    LeverDial,
    PlungerDial,
    Rule,
    ScaleTrigger,
)
from truing.kit.tooling import Collet, Cutter, Holder
from truing.machine import (
    Board,
    Bracket,
    Feet,
    Gantry,
    GantryDrive,
    Head,
    Lift,
    Rails,
    four_feet,
    four_pads,
    starting_point,
)
from truing.machine.mechanisms import RAILS
from truing.record import dump
from truing.registry import kind
from truing.standin.evening import one_round
from truing.standin.read import as_typed
from truing.standin.seen import Seen
from truing.standin.truth import FootTruth, RailsTruth, SlideTruth, StandTruth, Truth


def seed(workshop: Workshop, people: Sequence[User]) -> None:
    """Fill an empty workshop; `people` are its owner, its maker and one who only looks."""
    shed = _Shed(workshop, people)
    shed.kit()
    shed.avocet()
    shed.curlew()
    shed.dunlin()


@dataclass
class _Sitting:
    """An evening to be put into the log."""

    machine: Machine
    instrument: Instrument | None
    setup: dict[str, Any]
    days_ago: float
    truths: Sequence[Truth]
    """The machine at each round; between two of them the advised move is made."""
    tightened: Sequence[tuple[str, str]] = ()
    """Needle nipped and tight after each tap."""
    note: str = ""
    settle: bool = True
    by_maker: bool = False
    kind: str = "spindle_tram"
    moves: Sequence[str] = ()
    """Keys of the moves made between rounds, where it is not the first that is advised."""


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


def _railed(truth: Truth, **values: Any) -> Truth:
    """With its rails somewhere else."""
    changed = {k: [float(v) for v in each] for k, each in values.items()}
    return truth.model_copy(update={"rails": truth.rails.model_copy(update=changed)})


_AVOCET_BELOW: dict[str, Any] = {
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


class _Shed:
    def __init__(self, workshop: Workshop, people: Sequence[User]) -> None:
        self.workshop = workshop
        self.owner, self.maker = Scope(people[0]), Scope(people[1])
        self.scope = self.owner
        self.rng = np.random.default_rng(1871)

    def id(self) -> UUID:
        return UUID(bytes=self.rng.bytes(16), version=4)

    def kit(self) -> None:
        today = timezone.now().date()

        def add(name: str, spec: Any, days_ago: int = 0, against: str = "") -> Instrument:
            if days_ago:
                compared = {"compared_on": today - timedelta(days=days_ago)}
                spec = spec.model_copy(update={**compared, "compared_with": against})
            return Instrument.objects.create(
                workshop=self.workshop, name=name, spec=dump("instrument", spec)
            )

        self.lever = add(
            "Lever dial 0.002",
            LeverDial(
                graduation_mm=0.002,
                divisions_per_turn=100,
                range_mm=0.2,
                repeatability_mm=0.001,
                unit="div",
                tip_angle_deg=12,
            ),
            64,
            "a 1 mm gauge block",
        )
        self.plunger = add(
            "Plunger dial 0.01",
            PlungerDial(graduation_mm=0.01, range_mm=10, repeatability_mm=0.003, unit="mm"),
            64,
            "a 5 mm gauge block",
        )
        self.fine = add(
            "Plunger dial 0.001",
            PlungerDial(
                graduation_mm=0.001,
                range_mm=1,
                repeatability_mm=0.0005,
                unit="div",
                divisions_per_turn=200,
            ),
            64,
            "a 0.5 mm gauge block",
        )
        self.level = add(
            "Machine level 0.02",
            Level(
                sensitivity_mm_per_m=0.02, base_mm=200, repeatability_mm=0.0005, read_fraction=0.25
            ),
            64,
            "itself, turned end for end",
        )
        add("Micrometer 25", Caliper(resolution_mm=0.001, repeatability_mm=0.001, range_mm=25))
        self.tape = add("Steel tape", Rule())
        add(
            "Inch plunger 0.001",
            PlungerDial(graduation_mm=0.0254, range_mm=25.4, repeatability_mm=0.006, unit="thou"),
        )
        add(
            "Digital 0.001",
            DigitalIndicator(resolution_mm=0.001, range_mm=12.7, repeatability_mm=0.002, unit="mm"),
        )
        add(
            "Quill scale with touch plate",
            ScaleTrigger(resolution_mm=0.005, range_mm=150, repeatability_mm=0.005, unit="mm"),
        )
        add(
            "Feeler blades 0.02",
            FeelerBlades(blade_step_mm=0.02, thickest_mm=2, repeatability_mm=0.01, unit="mm"),
        )
        for thickness, count, material in (
            (0.01, 6, "steel"),
            (0.02, 6, "steel"),
            (0.03, 8, "steel"),
            (0.05, 10, "steel"),
            (0.1, 10, "brass"),
            (0.2, 6, "brass"),
            (0.3, 4, "steel"),
            (0.5, 4, "brass"),
        ):
            ShimStock.objects.create(
                workshop=self.workshop, thickness_mm=thickness, count=count, material=material
            )

        for name, piece in (
            ("ER 20 chuck", Holder(taper="2 Morse", mark="red dot")),
            ("6 mm collet", Collet(series="ER 20", size_mm=6)),
            ("10 mm collet", Collet(series="ER 20", size_mm=10, remark="A little rust inside.")),
            ("Brass cutter", Cutter(diameter_mm=6, teeth=2, shank_mm=6, most_rev_per_min=24000)),
        ):
            Piece.objects.create(workshop=self.workshop, name=name, spec=dump("piece", piece))

    def happened(self, machine: Machine, days_ago: float, kind: Any, **more: Any) -> None:
        at = timezone.now() - timedelta(days=days_ago)
        form = EventIn(id=self.id(), kind=kind, at=at, **more)
        happenings.log_event(self.owner, machine.pk, form)

    def machine(self, name: str, spec: Any, truth: Truth) -> Machine:
        return Machine.objects.create(
            id=self.id(),
            workshop=self.workshop,
            name=name,
            spec=dump("machine", spec),
            truth=truth.model_dump(mode="json"),
        )

    def avocet(self) -> None:
        """Column mill with a tilting head, in the middle of a tram."""
        spec = starting_point("column_mill").model_copy(
            update={"head": Head(turns=True, pivot_x_mm=0.0), "table_x_mm": 550.0}
        )
        spec.base.pads = four_pads(180, 140)  # type: ignore[union-attr]
        found = Truth(head_about_y_mrad=0.62, head_about_x_mrad=-0.03, saddle_mm=0.0004)
        true = found.model_copy(update={"head_about_y_mrad": 0.02})
        bumped = found.model_copy(update={"head_about_y_mrad": -0.71, "base_about_x_mrad": -0.02})
        nearly = bumped.model_copy(update={"head_about_y_mrad": -0.17})
        machine = self.machine("Avocet", spec, nearly)
        setup = {"way": "swing", "radius_mm": 110, "positions": "12, 3, 6, 9", "passes": 2}
        self.sitting(
            _Sitting(
                machine,
                self.lever,
                setup,
                36,
                [found, true],
                tightened=[("+4 div", "+6 div")],
                note="As found after the move from the ferry workshop. Table stoned first.",
            )
        )
        self.sitting(
            _Sitting(
                machine,
                self.lever,
                setup,
                0.05,
                [bumped, nearly],
                tightened=[("-3 div", "-1 div")],
                note="The orrery plate came out with a hollow: vice caught the head last week.",
                settle=False,
            )
        )
        self.below_avocet(machine, nearly)
        self.happened(machine, 38, "moved", said="From the ferry workshop, on its own pallet.")
        self.happened(machine, 21, "hours", hours=14)
        self.happened(machine, 6, "crash", said="The vice caught the head.")
        truth = nearly.model_copy(update=_AVOCET_BELOW)
        Machine.objects.filter(pk=machine.pk).update(truth=truth.model_dump(mode="json"))

    def below_avocet(self, machine: Machine, nearly: Truth) -> None:
        """Stand and slides in order; lost motion left to right chased through three remedies."""
        now = nearly.model_copy(update=_AVOCET_BELOW)
        spec = machine_spec(machine)
        walk = kind("inspection").propose(spec)
        assert walk
        seen = now.model_copy(update={"faults": {"edges": "mended"}})
        self.sitting(
            _Sitting(
                machine,
                self.tape,
                walk.model_dump(mode="json"),
                37.4,
                [seen],
                kind="inspection",
                note="Burrs stoned off the table’s front edge. Shims photographed.",
            )
        )
        level = kind("base_level").propose(spec)
        assert level
        stated = {**level.model_dump(mode="json"), "passes": 2}
        self.sitting(
            _Sitting(
                machine,
                self.level,
                stated,
                37,
                [_stood(now, 0.11), _stood(now, 0.008)],
                kind="base_level",
                note="On its new stand, before the floor was swept.",
            )
        )
        for days, slide in enumerate(("left_right", "front_back", "up_down")):
            where = {"slide": slide, "places_mm": [-70, 0, 70]}
            self.sitting(
                _Sitting(
                    machine,
                    self.fine,
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
        self.sitting(
            _Sitting(
                machine,
                self.fine,
                setup,
                2,
                [_driven(now, each) for each in links],
                moves=["remedy:bearing", "remedy:nut", "remedy:coupling"],
                kind="lost_motion",
                settle=False,
                note="The clock plate’s holes came out oval, all of them left to right.",
            )
        )

    def curlew(self) -> None:
        """Gantry router, trammed at three places along its beam, true."""
        spec = starting_point("gantry_router").model_copy(
            update={
                "bracket": Bracket(spacing_mm=140),
                "rails": Rails(length_mm=1350, apart_mm=980, bolt_pitch_mm=60),
                "lift": Lift(left_x_mm=-490, right_x_mm=490),
                "gantry_drive": GantryDrive(left_x_mm=-510, right_x_mm=510),
                "feet": Feet(pitch_mm=1.5, places=four_feet(860, 1160)),
                "board": Board(thickness_mm=16.5),
                "gantry": Gantry(left_plate_x_mm=-520, right_plate_x_mm=520, fixed_bolt_y_mm=90),
                "table_x_mm": 900.0,
                "table_y_mm": 1200.0,
                "cutter_mm": 35.0,
            }
        )
        found = Truth(head_about_x_mrad=-0.82, head_about_y_mrad=0.11, saddle_mm=0.002)
        better = found.model_copy(update={"head_about_x_mrad": 0.06})
        machine = self.machine("Curlew", spec, better)
        setup = {
            "way": "swing",
            "radius_mm": 200,
            "positions": "12, 3, 6, 9",
            "passes": 2,
            "along_beam_mm": "-300, 0, 300",
        }
        self.sitting(
            _Sitting(
                machine,
                self.plunger,
                setup,
                22,
                [found, better],
                note="First tram since both lifting screws were changed.",
            )
        )
        self.sitting(_Sitting(machine, self.plunger, setup, 4, [better], by_maker=True))
        self.happened(machine, 30, "season", said="First frost; the stove is on.")
        self.happened(machine, 3.5, "note", said="New board glued down, 16.5 mm left after facing.")
        self.happened(machine, 20, "hours", hours=6)
        self.below_curlew(machine, better)
        form = AcceptIn(
            id=self.id(),
            note="For tide-clock dials in birch, while the rails are being finished.",
            at=timezone.now() - timedelta(days=3),
        )
        happenings.accept(self.owner, machine.pk, form)

    def below_curlew(self, machine: Machine, better: Truth) -> None:
        """Built up anew on longer rails: coarse done, fine in hand."""
        self.happened(
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
        rng = self.rng
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
        self.sitting(
            _Sitting(
                machine,
                self.tape,
                walk.model_dump(mode="json"),
                11.8,
                [better.model_copy(update={"faults": {"rails": "mended"}})],
                kind="inspection",
                note="New wipers on two of the carriages.",
            )
        )
        for slide in ("left_right", "front_back", "up_down"):
            where = {"slide": slide, "places_mm": [-50, 50], "passes": 2}
            self.sitting(
                _Sitting(
                    machine,
                    self.fine,
                    where,
                    11.2,
                    [better.model_copy(update={"slides": {slide: SlideTruth(clearance_mm=0.003)}})],
                    kind="slide_play",
                    by_maker=True,
                )
            )
        self.sitting(
            _Sitting(
                machine,
                self.level,
                stated["base_level"],
                11.5,
                [better.model_copy(update=feet)],
                kind="base_level",
            )
        )
        self.sitting(
            _Sitting(
                machine,
                self.fine,
                {**stated["rail_straight"], "edge_within_mm": 0.003},
                10,
                [rough, straight],
                kind="rail_straight",
                note="Against the granite edge from the instrument maker next door.",
            )
        )
        self.sitting(
            _Sitting(
                machine,
                self.fine,
                stated["rail_parallel"],
                9,
                [straight, parallel],
                kind="rail_parallel",
                by_maker=True,
            )
        )
        twist = {**stated["rail_twist"], "sense": "riding"}
        self.sitting(
            _Sitting(
                machine,
                self.plunger,
                {**twist, "stage": "coarse"},
                7,
                [parallel, coarse],
                kind="rail_twist",
                note="Before the epoxy for the gantry feet.",
            )
        )
        self.sitting(
            _Sitting(
                machine,
                self.plunger,
                {**twist, "stage": "fine"},
                0.4,
                [coarse],
                kind="rail_twist",
                settle=False,
            )
        )
        Machine.objects.filter(pk=machine.pk).update(
            truth=coarse.model_copy(update=feet).model_dump(mode="json")
        )

    def dunlin(self) -> None:
        """Micro mill, never measured."""
        spec = starting_point("micro_mill")
        self.machine(
            "Dunlin",
            spec,
            Truth(
                base_about_x_mrad=0.42,
                base_about_y_mrad=0.31,
                saddle_mm=0.0003,
                tap_gain=0.95,
                slides={
                    way: SlideTruth(
                        travel_mm=travel,
                        clearance_mm=clearance,
                        wear_mm=0.002,
                        links_mm={"nut": 0.05, "bearing": 0.02},
                    )
                    for way, travel, clearance in (
                        ("left_right", 180, 0.046),
                        ("front_back", 90, 0.021),
                        ("up_down", 170, 0.033),
                    )
                },
            ),
        )

    def sitting(self, s: _Sitting) -> None:
        self.scope = self.maker if s.by_maker else self.owner
        check = services.open_check(self.scope, s.machine.pk, id=self.id(), kind_key=s.kind)
        start = timezone.now() - timedelta(days=s.days_ago, minutes=45)
        at = start
        for i, truth in enumerate(s.truths):
            round = check.rounds.order_by("-number")[0]
            if round.setup is None:
                used = s.instrument.pk if s.instrument else None
                form = SetupIn(version=1, instrument_id=used, setup=s.setup)
                services.set_up(self.scope, round.pk, form)
            at = self.read(check, round.pk, truth, at)
            if i == 0 and s.note:
                note = NoteIn(id=self.id(), text=s.note, written_at=at)
                services.add_note(self.scope, round.pk, note)
            if i + 1 < len(s.truths):
                at += timedelta(minutes=4)
                tightened = s.tightened[i] if i < len(s.tightened) else ("", "")
                self.move(round.pk, s.moves[i] if i < len(s.moves) else "", tightened, at)
        last = check.rounds.order_by("-number")[0]
        if s.settle:
            services.settle(self.scope, last.pk)
        self.backdate(check, start)

    def read(self, check: Check, round_id: UUID, truth: Truth, at: datetime) -> datetime:
        round = Round.objects.get(pk=round_id)
        core = kind(check.kind)
        setup = setup_of(check, round)
        spec = instrument_of(round)
        read = one_round(core, setup, truth, spec, self.rng)
        batch = []
        for reading in read:
            at += timedelta(seconds=25)
            shown = getattr(reading, "shown_mm", None)
            text, unit = as_typed(Seen(shown_mm=shown), spec)
            where = reading.place.x_mm if reading.place else None
            form = ReadingIn(
                station=reading.station,
                text=text,
                x="" if where is None else f"{where:g} mm",
                grade=getattr(reading, "grade", ""),
                note=getattr(reading, "text", ""),
                unit=unit,
                accepted=True,
                read_at=at,
            )
            batch.append(BatchItem(id=self.id(), reading=form))
        readings.put_batch(self.scope, round_id, BatchIn(readings=batch))
        return at

    def move(self, round_id: UUID, key: str, tightened: tuple[str, str], at: datetime) -> None:
        found = finding_out(self.scope, round_id)
        assert found.advice is not None
        move = next(m for m in found.advice.moves if key in ("", m.key))
        station = move.targets[0].station if move.targets else ""
        form = MoveIn(
            id=self.id(),
            next_round_id=self.id(),
            advice=found.advice_id,
            key=move.key,
            needle=[
                NeedleIn.model_validate({"state": state, "station": station, "text": text})
                for state, text in zip(("nipped", "tight"), tightened, strict=True)
            ],
            made_at=at,
        )
        services.make_move(self.scope, round_id, form)

    def backdate(self, check: Check, start: datetime) -> None:
        """Services stamp the present; the log is to look like the evenings it tells of."""
        check.refresh_from_db()
        rounds = list(check.rounds.order_by("number"))
        for i, round in enumerate(rounds):
            opened = start + timedelta(minutes=12 * i)
            settled = opened + timedelta(minutes=9) if round.settled_at else None
            Round.objects.filter(pk=round.pk).update(opened_at=opened, settled_at=settled)
        closed = start + timedelta(minutes=40)
        Check.objects.filter(pk=check.pk).update(
            opened_at=start, closed_at=closed if check.closed_at else None
        )
