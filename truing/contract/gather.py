"""From single readings to station means with their uncertainty, for every kind of check."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pydantic import BaseModel

from truing.contract.finding import Note, StationMean
from truing.contract.history import History
from truing.contract.readings import LengthReading, Reading
from truing.contract.setup import Station
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.spread import Spread, drift_mm, mean_uncertainty, outliers, spread_of
from truing.measure.words import plain, say, show


class MeanReading(BaseModel):
    """Mean at one station: mm with plus = pushed in, its u and U."""

    mean_mm: float
    u_mm: float
    expanded_mm: float


def unzeroed(readings: Sequence[LengthReading]) -> list[float]:
    """Shown values (mm) as if the dial had never been set to zero on the way."""
    shown: dict[str, float] = {}
    for reading in readings:
        if reading.zeroed_on is not None and reading.zeroed_on not in shown:
            raise Problem(
                "The dial was zeroed on a reading that is not here.",
                expected="Enter that reading again, or clear the zero.",
                field="readings",
            )
        base = shown[reading.zeroed_on] if reading.zeroed_on else 0.0
        shown[reading.id] = reading.shown_mm + base
    return [shown[r.id] for r in readings]


@dataclass(frozen=True)
class Gathered:
    """Readings by station (in the order of the plan), their means, and how they scatter."""

    plan: Sequence[Station]
    groups: dict[str, list[float]]
    means: dict[str, MeanReading]
    own: Spread
    pooled: Spread
    s_mm: float
    instrument: Instrument
    history: History
    zero_mm: float
    """What the dial was set back by when it was last zeroed (as shown), 0 if it was not."""

    @property
    def dof(self) -> int | None:
        """Degrees of freedom behind the spread; None while it rests on the stated figure."""
        if self.pooled.rests_on_stated(self.instrument.repeatability_mm):
            return None
        return self.pooled.dof

    def has(self, *keys: str) -> bool:
        """Whether all of these have been read."""
        return all(k in self.means for k in keys)

    def combine(self, weights: Mapping[str, float]) -> tuple[Estimate, float]:
        """A weighted sum of station means, and its gain √C. KeyError for a station not read."""
        return combine(self.means, weights, self.dof)

    def station_means(self, left: Mapping[str, float] | None = None) -> list[StationMean]:
        """The means for the finding, with what a fit leaves at each."""
        return [
            StationMean(
                station=key,
                mean_mm=self.means[key].mean_mm,
                expanded_mm=self.means[key].expanded_mm,
                repeats_mm=group,
                left_mm=(left or {}).get(key, 0.0),
            )
            for key, group in self.groups.items()
        ]

    def notes(self, drifts: str = "The result stands, but check the clamps.") -> list[Note]:
        """What is odd about the readings themselves: gaps, wild repeats, drift, a thin spread."""
        return [*self._missing(), *self._wild(), *self._drift(drifts), *self._stated()]

    def _missing(self) -> list[Note]:
        return [
            Note(tone="look", text=plain(f"{s.label} was left out."), station=s.key)
            for s in self.plan
            if s.reads == "length" and s.key not in self.groups
        ]

    def _wild(self) -> list[Note]:
        labels = {s.key: s.label for s in self.plan}
        keys, groups = list(self.groups), list(self.groups.values())
        found = []
        for g, i in outliers(
            groups,
            step_mm=self.instrument.step_mm,
            repeatability_mm=self.instrument.repeatability_mm,
            prior=self.history.spread,
        ):
            others = [v for j, v in enumerate(groups[g]) if j != i]
            apart = abs(groups[g][i] - sum(others) / len(others))
            found.append(
                Note(
                    tone="look",
                    station=keys[g],
                    text=say(
                        "The readings at {label} disagree by {apart}, far more than the rest do. "
                        "Was the dial bumped? Nothing has been dropped: read it again, or "
                        "correct it.",
                        label=labels[keys[g]],
                        apart=self.instrument.reading_words(apart, signed=False),
                    ),
                )
            )
        return found

    def _drift(self, stands: str) -> list[Note]:
        u = self.instrument.step_mm / math.sqrt(12)
        drift = drift_mm(list(self.groups.values()), u_mm=u)
        if drift is None:
            return []
        text = say(
            "Readings drifted by {drift} from the first pass to the last. {stands}",
            drift=show(drift, self.instrument.step_mm / 10, signed=True),
            stands=stands,
        )
        return [Note(tone="look", text=text)]

    def _stated(self) -> list[Note]:
        stated = self.instrument.repeatability_mm
        if not self.pooled.rests_on_stated(stated):
            return []
        text = say(
            "± rests on the stated repeatability of {r}; another pass would show your own.",
            r=self.instrument.repeatability_words,
        )
        return [Note(tone="weak", text=text)]


def combine(
    means: Mapping[str, MeanReading], weights: Mapping[str, float], dof: int | None = None
) -> tuple[Estimate, float]:
    """A weighted sum of means with independent uncertainties, and its gain √C."""
    value = sum(w * means[k].mean_mm for k, w in weights.items())
    u = math.sqrt(sum((w * means[k].u_mm) ** 2 for k, w in weights.items()))
    big = math.sqrt(sum((w * means[k].expanded_mm) ** 2 for k, w in weights.items()))
    gain = math.sqrt(sum(w * w for w in weights.values()))
    return Estimate(value=value, u=u, expanded=big, dof=dof), gain


def gather(
    plan: Sequence[Station],
    readings: Sequence[Reading],
    instrument: Instrument,
    history: History,
    *,
    sign: int = 1,
) -> Gathered:
    """Station means of the length readings, brought to plus = the surface is closer by `sign`.

    Problem when nothing has been read, or when a zero refers to a reading that is not there.
    """
    lengths = [r for r in readings if isinstance(r, LengthReading)]
    groups: dict[str, list[float]] = {s.key: [] for s in plan}
    raw = unzeroed(lengths)
    for reading, shown in zip(lengths, raw, strict=True):
        if reading.station in groups:
            groups[reading.station].append(sign * instrument.true_mm(shown))
    read = {key: group for key, group in groups.items() if group}
    if not read:
        raise Problem(
            "Nothing has been read yet.", expected="Enter the first reading.", field="readings"
        )
    own = spread_of(list(read.values()))
    pooled = own + history.spread
    k, s = pooled.k_s(instrument.repeatability_mm)
    values = [v for group in read.values() for v in group]
    wide = max(values) - min(values) > 3 * 2 * instrument.step_mm
    error = instrument.error_mm if wide else 0.0
    means = {}
    for key, group in read.items():
        u, big = mean_uncertainty(
            len(group), step_mm=instrument.step_mm, k=k, s_mm=s, error_mm=error
        )
        means[key] = MeanReading(mean_mm=sum(group) / len(group), u_mm=u, expanded_mm=big)
    return Gathered(
        plan=plan,
        groups=read,
        means=means,
        own=own,
        pooled=pooled,
        s_mm=s,
        instrument=instrument,
        history=history,
        zero_mm=raw[-1] - lengths[-1].shown_mm,
    )


def expected_mean(instrument: Instrument, passes: int) -> MeanReading:
    """The mean that so many passes can be expected to give, before the first reading."""
    u, big = mean_uncertainty(
        passes, step_mm=instrument.step_mm, k=2.0, s_mm=instrument.repeatability_mm
    )
    return MeanReading(mean_mm=0.0, u_mm=u, expanded_mm=big)
