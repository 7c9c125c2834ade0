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
from calmsquare.logbook.compute import instrument_of
from calmsquare.logbook.models import Check, Round
from calmsquare.logbook.schemas import (
    AcceptIn,
    EventIn,
    MoveIn,
    NoteIn,
    Outcome,
    ReadingIn,
    SetupIn,
)
from calmsquare.workshop.models import Instrument, Machine, Piece, ShimStock, Workshop
from calmsquare.workshop.scope import Scope
from truing.check import kind
from truing.instruments import DigitalIndicator, FeelerBlades, LeverDial, PlungerDial, ScaleTrigger
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
from truing.standin.read import read as standin_read
from truing.standin.truth import Truth
from truing.tooling import Collet, Cutter, Holder


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
    instrument: Instrument
    setup: dict[str, Any]
    days_ago: float
    truths: Sequence[Truth]
    """The machine at each round; between two of them the advised move is made."""
    tightened: Sequence[tuple[str, str]] = ()
    """Needle nipped and tight after each tap."""
    note: str = ""
    settle: bool = True
    by_maker: bool = False


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
                workshop=self.workshop, name=name, spec=spec.model_dump(mode="json")
            )

        self.lever = add(
            "Lever dial 0.002",
            LeverDial(
                graduation_mm=0.002, divisions_per_turn=100, range_mm=0.2,
                repeatability_mm=0.001, unit="div", tip_angle_deg=12,
            ),
            64, "a 1 mm gauge block",
        )  # fmt: skip
        self.plunger = add(
            "Plunger dial 0.01",
            PlungerDial(graduation_mm=0.01, range_mm=10, repeatability_mm=0.003, unit="mm"),
            64,
            "a 5 mm gauge block",
        )
        add("Inch plunger 0.001", PlungerDial(
            graduation_mm=0.0254, range_mm=25.4, repeatability_mm=0.006, unit="thou"))  # fmt: skip
        add("Digital 0.001", DigitalIndicator(
            resolution_mm=0.001, range_mm=12.7, repeatability_mm=0.002, unit="mm"))  # fmt: skip
        add("Quill scale with touch plate", ScaleTrigger(
            resolution_mm=0.005, range_mm=150, repeatability_mm=0.005, unit="mm"))  # fmt: skip
        add("Feeler blades 0.02", FeelerBlades(
            blade_step_mm=0.02, thickest_mm=2, repeatability_mm=0.01, unit="mm"))  # fmt: skip
        for thickness, count, material in (
            (0.02, 6, "steel"),
            (0.03, 8, "steel"),
            (0.05, 10, "steel"),
            (0.1, 10, "brass"),
            (0.2, 6, "brass"),
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
            Piece.objects.create(
                workshop=self.workshop, name=name, spec=piece.model_dump(mode="json")
            )

    def happened(self, machine: Machine, days_ago: float, kind: Any, **more: Any) -> None:
        at = timezone.now() - timedelta(days=days_ago)
        form = EventIn(id=self.id(), kind=kind, at=at, **more)
        happenings.log_event(self.owner, machine.pk, form)

    def machine(self, name: str, spec: Any, truth: Truth) -> Machine:
        return Machine.objects.create(
            id=self.id(),
            workshop=self.workshop,
            name=name,
            spec=spec.model_dump(mode="json"),
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
                machine, self.lever, setup, 36, [found, true],
                tightened=[("+4 div", "+6 div")],
                note="As found after the move from the ferry workshop. Table stoned first.",
            )
        )  # fmt: skip
        self.sitting(
            _Sitting(
                machine, self.lever, setup, 0.05, [bumped, nearly],
                tightened=[("-3 div", "-1 div")],
                note="The orrery plate came out with a hollow: vice caught the head last week.",
                settle=False,
            )
        )  # fmt: skip
        self.happened(machine, 38, "moved", said="From the ferry workshop, on its own pallet.")
        self.happened(machine, 21, "hours", hours=14)
        self.happened(machine, 6, "crash", said="The vice caught the head.")
        Machine.objects.filter(pk=machine.pk).update(truth=nearly.model_dump(mode="json"))

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
            "way": "swing", "radius_mm": 200, "positions": "12, 3, 6, 9", "passes": 2,
            "along_beam_mm": "-300, 0, 300",
        }  # fmt: skip
        self.sitting(
            _Sitting(
                machine, self.plunger, setup, 22, [found, better],
                note="First tram since both lifting screws were changed.",
            )
        )  # fmt: skip
        self.sitting(_Sitting(machine, self.plunger, setup, 4, [better], by_maker=True))
        self.happened(machine, 30, "season", said="First frost; the stove is on.")
        self.happened(machine, 3.5, "note", said="New board glued down, 16.5 mm left after facing.")
        form = AcceptIn(
            id=self.id(),
            note="For tide-clock dials in birch.",
            at=timezone.now() - timedelta(days=3),
        )
        happenings.accept(self.owner, machine.pk, form)
        self.happened(machine, 1, "hours", hours=6)

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
            ),
        )

    def sitting(self, s: _Sitting) -> None:
        self.scope = self.maker if s.by_maker else self.owner
        check = services.open_check(self.scope, s.machine.pk, id=self.id(), kind_key="spindle_tram")
        start = timezone.now() - timedelta(days=s.days_ago, minutes=45)
        at = start
        for i, truth in enumerate(s.truths):
            round = check.rounds.order_by("-number")[0]
            if round.setup is None:
                form = SetupIn(version=1, instrument_id=s.instrument.pk, setup=s.setup)
                services.set_up(self.scope, round.pk, form)
            at = self.read(check, round.pk, s.instrument, truth, at)
            if i == 0 and s.note:
                note = NoteIn(id=self.id(), text=s.note, written_at=at)
                services.add_note(self.scope, round.pk, note)
            if i + 1 < len(s.truths):
                at += timedelta(minutes=4)
                self.move(round.pk, s.tightened[i] if i < len(s.tightened) else ("", ""), at)
        last = check.rounds.order_by("-number")[0]
        if s.settle:
            services.settle(self.scope, last.pk)
        self.backdate(check, start)

    def read(
        self, check: Check, round_id: UUID, instrument: Instrument, truth: Truth, at: datetime
    ) -> datetime:
        round = Round.objects.get(pk=round_id)
        core = kind(check.kind)
        setup = core.setup_type.model_validate(round.setup)
        spec = instrument_of(round)
        for _ in range(core.passes(setup)):
            for station in core.stations(setup):
                at += timedelta(seconds=25)
                shown = standin_read(truth, setup, station.key, spec, self.rng)
                unit = spec.unit
                form = ReadingIn(
                    station=station.key,
                    text=f"{shown / spec.read(f'1 {unit}').mm:+.4g}",
                    unit=unit,
                    accepted=True,
                    read_at=at,
                )
                readings.put_reading(self.scope, round_id, self.id(), form)
        return at

    def move(self, round_id: UUID, tightened: tuple[str, str], at: datetime) -> None:
        outcome = Outcome.model_validate(Round.objects.get(pk=round_id).outcome)
        assert outcome.advice is not None
        form = MoveIn(
            id=self.id(),
            next_round_id=self.id(),
            key=outcome.advice.moves[0].key,
            nipped=tightened[0],
            tight=tightened[1],
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
