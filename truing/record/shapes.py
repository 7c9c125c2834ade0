"""What is kept of a round beside its readings."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from truing.contract.case import Case
from truing.contract.history import History
from truing.contract.judgement import Judgement, Tolerances
from truing.contract.known import Known
from truing.contract.readings import Reading
from truing.contract.trends import Trend
from truing.kit.instruments import Instrument
from truing.kit.shims import Shim
from truing.kit.tooling import Piece
from truing.machine import Machine
from truing.machine.mechanisms import Mechanism
from truing.measure.estimate import Estimate
from truing.measure.spread import Spread
from truing.measure.verdict import Verdict
from truing.measure.words import InBoth, Measure, Words
from truing.registry import AnyFinding, AnySetup, kind


class Outcome(BaseModel):
    """What a round's readings come to; `problem` says why there is no finding yet."""

    finding: AnyFinding | None = None
    judgement: Judgement | None = None
    trends: list[Trend] = Field(default_factory=list)
    problem: str | None = None
    ready: bool = False
    """Every station has been read: before that a verdict is only a look ahead."""
    complete: bool = False
    """Whether every station has been read as often as planned."""
    spared: list[str] = Field(default_factory=list)
    """Readings that were left out and need not be read again, by id."""


class Told(BaseModel):
    """One judged quantity of a round, as lists and drawings show it."""

    model_config = ConfigDict(frozen=True)

    key: str
    sort: str
    label: InBoth
    words: Words
    verdict: Verdict
    value: float
    limit: float
    tolerance: str | None = None
    """The limit that it is judged by."""
    measure: Measure | None = None
    least: float | None = None
    """The smallest and the largest size that it may have; None in older records."""
    most: float | None = None


class Summary(BaseModel):
    """What a machine's course and its screens need of a round, without the whole finding."""

    model_config = ConfigDict(frozen=True)

    sentence: Words | None
    values: list[Told]
    against: Mechanism | None = None
    """The reference that it was read against, as `Setup.against`."""
    otherwise: Verdict | None = None
    """As `Judgement.otherwise`."""

    @property
    def times_limit(self) -> float | None:
        """The worst quantity as a multiple of its limit."""
        return max((abs(v.value) / v.limit for v in self.values), default=None)

    @classmethod
    def of(cls, outcome: Outcome, against: Mechanism | None = None) -> Summary:
        """Of an outcome, read against something; empty while there is no finding."""
        if outcome.finding is None or outcome.judgement is None:
            return cls(sentence=None, values=[])
        judged = {j.quantity: j for j in outcome.judgement.judged}
        return cls(
            sentence=outcome.judgement.sentence,
            values=[
                Told(
                    key=q.key,
                    sort=q.sort,
                    label=q.label,
                    words=q.words,
                    verdict=judged[q.key].verdict,
                    value=q.estimate.value,
                    limit=judged[q.key].tolerance,
                    tolerance=q.tolerance_key,
                    measure=q.measure,
                    least=q.estimate.least,
                    most=q.estimate.most,
                )
                for q in outcome.finding.quantities
                if q.key in judged
            ],
            against=against,
            otherwise=outcome.judgement.otherwise,
        )


class Lesson(BaseModel):
    """What later rounds about the same subject lean on, without the whole finding."""

    model_config = ConfigDict(frozen=True)

    way: str = ""
    condition: str = ""
    values: dict[str, Estimate]
    spreads: dict[str, Spread] = Field(default_factory=dict)
    """Scatter of its repeats, by instrument."""


class Snapshot(BaseModel):
    """Everything that went into a verdict beside the readings, as it was then."""

    setup: AnySetup
    instrument: Instrument
    instrument_key: str = ""
    others: dict[str, Instrument] = Field(default_factory=dict)
    tolerances: Tolerances
    machine: Machine
    stock: list[Shim]
    history: History
    known: list[Known] = Field(default_factory=list)
    pieces: dict[str, Piece] = Field(default_factory=dict)

    @classmethod
    def of(cls, case: Case[Any, Any]) -> Snapshot:
        """What went into this case."""
        return cls.model_construct(
            setup=case.setup,
            instrument=case.instrument,
            instrument_key=case.instrument_key,
            others=dict(case.others),
            tolerances=case.tolerances,
            machine=case.machine,
            stock=list(case.stock),
            history=case.history,
            known=list(case.known),
            pieces=dict(case.pieces),
        )

    def case(self, readings: Sequence[Reading]) -> Case[Any, Any]:
        """The case as it was, with these readings."""
        return Case(
            setup=self.setup,
            instrument=self.instrument,
            instrument_key=self.instrument_key,
            others=self.others,
            tolerances=self.tolerances,
            machine=self.machine,
            stock=self.stock,
            history=self.history,
            known=self.known,
            pieces=self.pieces,
            readings=readings,
        )


def judged_anew(
    snapshot: Snapshot, readings: Sequence[Reading], tolerances: Tolerances | None = None
) -> Case[Any, Any]:
    """A settled round judged again by this core from what went into it; with other limits where
    some are given. Problem as in `Check.evaluate`."""
    case = snapshot.case(readings)
    if tolerances is not None:
        case = case.but(tolerances=tolerances)
    return kind(snapshot.setup.kind).weigh(case)
