"""How a story gets into the log: evening by evening, at the stand-in, with a fixed seed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

import numpy as np
from django.contrib.auth.models import User
from django.utils import timezone

from calmsquare.demo.story.kit import stocked
from calmsquare.logbook import happenings, readings, services
from calmsquare.logbook.compute import instrument_of, setup_of
from calmsquare.logbook.models import Check, Round
from calmsquare.logbook.schemas import (
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
from calmsquare.workshop.models import Instrument, Machine, Wanted, Workshop
from calmsquare.workshop.scope import Scope
from calmsquare.workshop.services import machine_spec
from truing.machine.subject import Subject
from truing.record import dump
from truing.registry import kind
from truing.standin.evening import one_round
from truing.standin.read import as_typed
from truing.standin.seen import Seen
from truing.standin.truth import Truth


@dataclass
class Sitting:
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


class Shed:
    """Plays sittings and happenings into a workshop, through the services that anybody uses."""

    def __init__(self, workshop: Workshop, people: Sequence[User]) -> None:
        self.workshop = workshop
        self.owner, self.maker = Scope(people[0]), Scope(people[1])
        self.scope = self.owner
        self.kit = stocked(workshop)
        self.rng = np.random.default_rng(1871)

    def id(self) -> UUID:
        """An id that is the same in every pattern."""
        return UUID(bytes=self.rng.bytes(16), version=4)

    def happened(self, machine: Machine, days_ago: float, kind: Any, **more: Any) -> None:
        """Log an event so many days ago."""
        at = timezone.now() - timedelta(days=days_ago)
        form = EventIn(id=self.id(), kind=kind, at=at, **more)
        happenings.log_event(self.owner, machine.pk, form)

    def wanted(self, machine: Machine, what: str, why: str, *, sort: str, days_ago: float) -> None:
        """Something that the friends put on their list to buy."""
        Wanted.objects.create(
            id=self.id(),
            workshop=self.workshop,
            machine=machine,
            by=self.owner.user,
            what=what,
            why=why,
            sort=sort,
            made_at=timezone.now() - timedelta(days=days_ago),
        )

    def machine(self, name: str, spec: Any, truth: Truth) -> Machine:
        """A machine that the simulated dial can be put on."""
        return Machine.objects.create(
            id=self.id(),
            workshop=self.workshop,
            name=name,
            spec=dump("machine", spec),
            truth=truth.model_dump(mode="json"),
        )

    def sitting(self, s: Sitting) -> None:
        """Play an evening: read, note, move, read again, as far as its truths go."""
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

    def squared(
        self, machine: Machine, truth: Truth, days_ago: float, *, note: str, by_maker: bool = False
    ) -> None:
        """The table over its travel, then the head up a square, both ways."""
        spec = machine_spec(machine)
        table = kind("table_travel").propose(spec)
        assert table
        stated = [("table_travel", table.model_dump(mode="json"))]
        for way in ("front_back", "left_right"):
            up = kind("travel_square").propose(spec, Subject.part(f"head_{way}"))
            assert up
            square = {"square": str(self.kit.square.pk), "heights_mm": [20, 80, 140]}
            stated.append(("travel_square", {**up.model_dump(mode="json"), **square}))
        for i, (key, setup) in enumerate(stated):
            self.sitting(
                Sitting(
                    machine,
                    self.kit.lever,
                    setup,
                    days_ago - i / 24,
                    [truth],
                    kind=key,
                    note=note if i == 0 else "",
                    by_maker=by_maker,
                )
            )

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
