"""The case: everything that is known of a round, growing from what is stated to what is found."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Generic, TypeVar

from truing.contract.finding import Finding, Quantity
from truing.contract.history import History
from truing.contract.judgement import Judgement, Tolerances
from truing.contract.known import Known
from truing.contract.move import Move
from truing.contract.readings import LengthReading, Reading
from truing.contract.setup import Setup
from truing.kit.instruments import Instrument
from truing.kit.shims import Shim
from truing.kit.tooling import Piece
from truing.machine import Machine
from truing.measure.estimate import Estimate
from truing.measure.verdict import verdict

S = TypeVar("S", bound=Setup)
F = TypeVar("F", bound=Finding)


@dataclass(frozen=True, kw_only=True)
class Case(Generic[S, F]):
    """One round of one kind of check, as far as it has got.

    It is stated with set-up, instrument, machine and limits; then read; `found` and `judged` are
    there once it was evaluated and judged. What comes later may look at all that came before.
    """

    setup: S
    instrument: Instrument
    machine: Machine
    tolerances: Tolerances
    """The owner's own limits, or the usual ones."""
    readings: Sequence[Reading] = ()
    left_out: Sequence[LengthReading] = ()
    """Readings that a person left out: they count for nothing, but a dial may have been set to zero
    on one of them."""
    history: History = field(default_factory=History)
    stock: Sequence[Shim] = ()
    instrument_key: str = ""
    others: Mapping[str, Instrument] = field(default_factory=dict)
    """Further instruments that readings name, by key."""
    known: Sequence[Known] = ()
    """What the kinds that this one leans on have found, the latest first."""
    pieces: Mapping[str, Piece] = field(default_factory=dict)
    """Pieces of the kit that the set-up names, by key."""
    found: F | None = None
    judged: Judgement | None = None

    @property
    def way(self) -> str:
        """The way of reading; "" for a kind with one way."""
        return str(getattr(self.setup, "way", ""))

    @property
    def finding(self) -> F:
        """What was found. LookupError before the case was evaluated."""
        if self.found is None:
            raise LookupError("This case has not been evaluated yet.")
        return self.found

    @property
    def judgement(self) -> Judgement:
        """How it was judged. LookupError before that."""
        if self.judged is None:
            raise LookupError("This case has not been judged yet.")
        return self.judged

    def but(self, **change: Any) -> Case[S, F]:
        """The same case with something changed or added."""
        return replace(self, **change)

    def tool(self, reading: LengthReading) -> tuple[str, Instrument]:
        """(key, instrument) that a reading was taken with. KeyError for one that is unknown."""
        if reading.instrument in ("", self.instrument_key):
            return self.instrument_key, self.instrument
        return reading.instrument, self.others[reading.instrument]

    def amiss(self, tolerance_key: str) -> list[Quantity]:
        """Quantities of this sort that are not true."""
        limit = self.tolerances[tolerance_key]
        return [q for q in self.of(tolerance_key) if verdict(q.estimate, limit) != "true"]

    def in_turn(self, moves: Sequence[Move]) -> list[Move]:
        """Moves in the order in which to make them: what is beyond its limit before what is only
        too close to it; equal ones as they come, upstream first: what is done later upstream would
        undo a little of what was set."""
        beyond = [
            q
            for key, limit in self.tolerances.items()
            for q in self.of(key)
            if verdict(q.estimate, limit) == "out"
        ]

        def waits(move: Move) -> bool:
            """Whether it leaves everything that is out more or less as it is."""
            was = {q.key: q.estimate.value for q in beyond}
            return all(abs(was[key] - move.taken(key)) > abs(was[key]) / 2 for key in was)

        return sorted(moves, key=waits)

    def of(self, tolerance_key: str) -> list[Quantity]:
        """Quantities that are judged by this limit."""
        return [q for q in self.finding.quantities if q.tolerance_key == tolerance_key]

    def elsewhere(self, kind: str, quantity: str, subject: str = "") -> Estimate | None:
        """What another kind last found of a quantity, of this subject where one is given; None
        where it never did, or where something that it rests on was touched since."""
        found = self.latest(kind, quantity, subject)
        return found.values[quantity] if found and found.fresh else None

    def latest(self, kind: str, quantity: str, subject: str = "") -> Known | None:
        """The latest round of another kind that found this quantity, fresh or not."""
        return next(
            (
                k
                for k in self.known
                if k.kind == kind and quantity in k.values and subject in ("", k.subject)
            ),
            None,
        )

    def get(self, key: str) -> Quantity | None:
        """A quantity by its key."""
        return next((q for q in self.finding.quantities if q.key == key), None)
