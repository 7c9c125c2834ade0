"""From single readings to station means with their uncertainty, for every kind of check."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from scipy import special

from truing.contract.case import Case
from truing.contract.design import LEAST_LEFT, LEAST_SHOWN, Design, Fit, MeanReading, combine
from truing.contract.finding import Note, StationMean
from truing.contract.readings import LengthReading, Reading
from truing.contract.setup import Station
from truing.contract.tool import Tool, coarse, contradicted, drifted, stated, usual
from truing.kit.instruments import Instrument
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.spread import (
    DRIFT_CHANCE,
    Drift,
    Spread,
    far_off,
    knock,
    mean_uncertainty,
    outliers,
    spread_of,
    steady_drift,
    trials_of,
)
from truing.measure.words import Measure, say


def unzeroed(
    readings: Sequence[LengthReading], left_out: Sequence[LengthReading] = ()
) -> list[float]:
    """Shown values (mm) as if the dial had never been set to zero on the way, be it on a reading
    that counts or on one that was left out. Problem for a zero on one that is not there."""
    known = {r.id: r for r in (*left_out, *readings)}
    shown: dict[str, float] = {}

    def of(reading: LengthReading) -> float:
        chain = [reading]
        while (on := chain[-1].zeroed_on) is not None and on not in shown:
            if on not in known or len(chain) > len(known):
                raise Problem(
                    "The dial was zeroed on a reading that is not here.",
                    expected="Enter that reading again, or clear the zero.",
                    field="readings",
                )
            chain.append(known[on])
        for each in reversed(chain):
            shown[each.id] = each.shown_mm + (shown[each.zeroed_on] if each.zeroed_on else 0.0)
        return shown[reading.id]

    return [of(r) for r in readings]


@dataclass(frozen=True)
class Closure:
    """What the first place of a loop read when it was come back to, less what it had read."""

    station: str
    missed_mm: float
    expanded_mm: float
    is_open: bool
    """Whether that is more than two readings of one place differ by."""
    since: int
    """How many readings later that was."""
    began: int
    """Number of the first reading of it."""

    def at(self, number: float) -> float:
        """How much of it had come about by a reading, from −½ at the first to ½ at the last."""
        return (number - self.began) / self.since - 0.5


@dataclass(frozen=True)
class Gathered:
    """Readings by station (in the order of the plan), their means, and how they scatter."""

    plan: Sequence[Station]
    groups: dict[str, list[float]]
    """With what has been taken out of them."""
    as_read: dict[str, list[float]]
    means: dict[str, MeanReading]
    tools: dict[str, Tool]
    """By key of the instrument; the round's own first."""
    tool_at: dict[str, str]
    """Which of them was used, by station."""
    zero_mm: float
    """What the dial was set back by when it was last zeroed (as shown), 0 if it was not."""
    numbers: Mapping[str, Sequence[int]]
    """When each of them was taken, in the order of the round."""
    ids: Mapping[str, Sequence[str]] = field(default_factory=dict)
    open: Sequence[Closure] = ()
    """Loops that did not come back to what they began with."""

    @property
    def dof(self) -> int | None:
        """Degrees of freedom behind the spread; None while it rests on a stated figure."""
        if any(t.stated for t in self.tools.values()):
            return None
        return min(t.pooled.dof for t in self.tools.values())

    @property
    def s_mm(self) -> float:
        """Standard deviation of a reading, of the instrument that scatters most."""
        return max(t.k_s[1] for t in self.tools.values())

    @property
    def step_mm(self) -> float:
        """Smallest readable difference, of the coarsest instrument."""
        return max(t.instrument.step_mm for t in self.tools.values())

    @property
    def spreads(self) -> dict[str, Spread]:
        """Scatter of this round's own repeats, by instrument."""
        return {key: t.own for key, t in self.tools.items()}

    def has(self, *keys: str) -> bool:
        """Whether all of these have been read."""
        return all(k in self.means for k in keys)

    def combine(
        self, weights: Mapping[str, float], measure: Measure = "length"
    ) -> tuple[Estimate, float]:
        """A weighted sum of station means as an estimate of this measure, and its gain √C.
        KeyError for a station not read."""
        return combine(self.means, weights, measure, self.dof)

    def station_means(self, left: Mapping[str, float] | None = None) -> list[StationMean]:
        """The means for the finding, with what a fit leaves at each."""
        return [
            StationMean(
                station=key,
                mean_mm=self.means[key].mean_mm,
                expanded_mm=self.means[key].all_mm + self.means[key].bound_mm,
                repeats_mm=group,
                left_mm=(left or {}).get(key, 0.0),
            )
            for key, group in self.as_read.items()
        ]

    def fit(self, design: Design) -> Fit:
        """What the means say of a design's unknowns; KeyError for a station not read."""
        found = Fit.of(design, self.means, self.dof)
        once = all(len(self.groups[key]) == 1 for key in design.stations)
        return found.doubting_one() if once else found

    def told(
        self,
        drifts: str = "The result stands, but check the clamps.",
        *,
        fit: Fit | Sequence[Fit] | None = None,
        left: Mapping[str, float] | None = None,
        more: Sequence[Note] = (),
    ) -> dict[str, Any]:
        """What every finding holds of its readings: means and what is left at each (by its fits, or
        as stated), what is odd about them and `more` of that, their scatter."""
        fits = [fit] if isinstance(fit, Fit) else fit or []
        by_fit = {key: v for each in fits for key, v in each.left_mm.items()}
        return {
            "stations": self.station_means(by_fit if left is None else left),
            "notes": [*self.notes(drifts, fits), *more],
            "spreads": self.spreads,
            "s_mm": self.s_mm,
            "step_mm": self.step_mm,
            "wandered": bool(self.open)
            or any(t.drift.bound_mm for t in self.tools.values() if t.drift),
            "one_off": any(each.alone_mm for each in fits),
            "zero_mm": self.zero_mm,
        }

    def notes(
        self,
        drifts: str = "The result stands, but check the clamps.",
        fits: Sequence[Fit] = (),
    ) -> list[Note]:
        """What is odd about the readings themselves: gaps, wild repeats, places that stand off what
        the others agree on, drift, a thin spread."""
        found = self._missing()
        fitted = [fit for fit in fits if fit.free >= LEAST_LEFT]
        repeats = trials_of(list(self.groups.values()))
        trials = repeats + sum(len(fit.left_mm) for fit in fitted)
        # where the zero moved at once is tried as well, for a quarter of all false alarms
        cuts = sum(map(len, self.groups.values())) - 1
        trials = math.ceil(trials / 0.75) if repeats else trials
        for key, tool in self.tools.items():
            groups = {k: g for k, g in self.groups.items() if self.tool_at[k] == key}
            wild = self._wild(tool, groups, trials) or self._knocked(tool, groups, 4 * cuts)
            found += [*wild, *([] if wild else drifted(tool, drifts))]
        found += self._open()
        if not any(note.wild for note in found):
            found += [note for fit in fitted for note in self._off(fit, trials)]
            found += [self._one_off(fit) for fit in fits if fit.alone_mm]
        # what a slip adds to the scatter says nothing of the instrument
        doubted = any(note.wild for note in found)
        for tool in self.tools.values():
            found += [
                *stated(tool),
                *usual(tool),
                *coarse(tool),
                *([] if doubted else contradicted(tool)),
            ]
        return found

    def _missing(self) -> list[Note]:
        return [
            Note(tone="look", text=say("{place} was left out.", place=s.label), station=s.key)
            for s in self.plan
            if s.reads == "length" and s.key not in self.groups
        ]

    def _knocked(self, tool: Tool, groups: dict[str, list[float]], trials: int) -> list[Note]:
        """The reading from which on everything reads otherwise."""
        instrument = tool.instrument
        order = {k: self.numbers[k] for k in groups}
        moved = knock(
            list(order.values()),
            [self.as_read[k] for k in groups],
            max(instrument.repeatability_mm, instrument.step_mm / 12**0.5),
            tool.prior,
            trials,
        )
        if moved is None or abs(moved.by_mm) <= instrument.step_mm + instrument.reversal_mm:
            return []
        key = next(k for k, numbers in order.items() if moved.number in numbers)
        text = say(
            "From {label} on everything reads {by} otherwise. Was something bumped? Nothing has "
            "been dropped: look at the clamps, and read the round again.",
            label=next(s.label for s in self.plan if s.key == key),
            by=instrument.reading_words(moved.by_mm),
        )
        return [Note(tone="look", wild=True, station=key, text=text)]

    def _open(self) -> list[Note]:
        labels = {s.key: s.label for s in self.plan}
        found = []
        for loop in self.open:
            instrument = self.tools[self.tool_at[loop.station]].instrument
            text = say(
                "Back at {label} it reads {missed} otherwise than at first. Taken out as a steady "
                "drift; half of it counts in ±, since a bump looks the same. Check the clamps and "
                "read it again in two passes, which tell.",
                label=labels[loop.station],
                missed=instrument.reading_words(loop.missed_mm),
            )
            found.append(Note(tone="look", text=text))
        return found

    def _one_off(self, fit: Fit) -> Note:
        """That single readings do not agree, and what that may be."""
        key = max(fit.alone_mm, key=lambda k: abs(fit.alone_mm[k]))
        text = say(
            "These readings miss each other by {apart}. One that slipped looks like a surface that "
            "is not flat: it counts in ± until a second pass tells.",
            apart=self.tools[self.tool_at[key]].instrument.reading_words(
                abs(fit.alone_mm[key]), signed=False
            ),
        )
        return Note(tone="look", text=text)

    def _off(self, fit: Fit, trials: int) -> list[Note]:
        """The place that stands furthest off what the others agree on, where it is too far."""
        shown = {k: v for k, v in fit.left_mm.items() if fit.shows[k] > LEAST_SHOWN}
        if not shown:
            return []
        key = max(shown, key=lambda k: abs(shown[k]) / fit.shows[k])
        far = abs(shown[key]) / fit.shows[key]
        ss = sum(v * v for v in fit.left_mm.values())
        others = Spread(ss_mm2=max(0.0, ss - far**2), dof=fit.free - 1)
        if far <= far_off(others, self.means[key].u_mm, trials) + 1e-12:
            return []
        label = next(s.label for s in self.plan if s.key == key)
        instrument = self.tools[self.tool_at[key]].instrument
        text = say(
            "{label} stands {apart} off what the other places agree on. Was something bumped? "
            "Nothing has been dropped: read it again, or leave it out.",
            label=label,
            apart=instrument.reading_words(far / fit.shows[key], signed=False),
        )
        alone = list(self.ids.get(key, ()))
        return [Note(tone="look", wild=True, station=key, text=text, readings=alone)]

    def _wild(self, tool: Tool, groups: dict[str, list[float]], trials: int) -> list[Note]:
        labels = {s.key: s.label for s in self.plan}
        keys, values = list(groups), list(groups.values())
        found = []
        for g, i in outliers(
            values,
            step_mm=tool.instrument.step_mm,
            repeatability_mm=tool.instrument.repeatability_mm,
            prior=tool.prior,
            trials=trials,
        ):
            others = [v for j, v in enumerate(values[g]) if j != i]
            apart = abs(values[g][i] - sum(others) / len(others))
            found.append(
                Note(
                    tone="look",
                    wild=True,
                    station=keys[g],
                    # of two that part nobody knows which
                    readings=[self.ids[keys[g]][i]] if len(values[g]) > 2 else [],
                    text=say(
                        "The readings at {label} disagree by {apart}, far more than the rest do. "
                        "Was something bumped? Nothing has been dropped: read it again, or "
                        "leave it out.",
                        label=labels[keys[g]],
                        apart=tool.instrument.reading_words(apart, signed=False),
                    ),
                )
            )
        return found


def gather(
    case: Case[Any, Any],
    plan: Sequence[Station],
    *,
    sign: int = 1,
    readings: Sequence[Reading] | None = None,
) -> Gathered:
    """Station means of the case's length readings (or of these `readings` of it), brought to plus =
    the surface is closer by `sign`.

    Problem when nothing has been read, when a zero refers to a reading that is not there, or when
    one station was read with two instruments.
    """
    lengths = [r for r in case.readings if isinstance(r, LengthReading)]
    # a zero may refer to a reading that does not count among these
    raw = unzeroed(lengths, case.left_out)
    among = {r.id for r in (case.readings if readings is None else readings)}
    groups: dict[str, list[float]] = {s.key: [] for s in plan}
    order: dict[str, list[int]] = {s.key: [] for s in plan}
    taken = 0
    tool_at: dict[str, str] = {}
    instruments: dict[str, Instrument] = {}
    first: dict[str, float] = {}
    ids: dict[str, list[str]] = {s.key: [] for s in plan}
    for reading, shown in zip(lengths, raw, strict=True):
        if reading.station not in groups or reading.id not in among:
            continue
        key, instrument = case.tool(reading)
        if tool_at.setdefault(reading.station, key) != key:
            label = next(s.label.metric for s in plan if s.key == reading.station)
            raise Problem(
                f"{label} was read with two instruments, which cannot be averaged.",
                expected="Correct one of the readings so that it does not count.",
                field="readings",
            )
        instruments[key] = instrument
        first.setdefault(reading.station, reading.shown_mm)
        ids[reading.station].append(reading.id)
        groups[reading.station].append(sign * instrument.true_mm(shown))
        order[reading.station].append(taken)
        taken += 1
    read = {key: group for key, group in groups.items() if group}
    back = _come_back(case, plan, read, order, tool_at)
    as_read = dict(read)
    if not read:
        raise Problem(
            "Nothing has been read yet.", expected="Enter the first reading.", field="readings"
        )
    tools, means, opened = _means(case, read, order, instruments, tool_at, first, back)
    return Gathered(
        plan=plan,
        groups=read,
        as_read=as_read,
        means={key: means[key] for key in read},
        tools=tools,
        tool_at=tool_at,
        zero_mm=raw[-1] - lengths[-1].shown_mm,
        numbers=order,
        ids=ids,
        open=opened,
    )


def _means(
    case: Case[Any, Any],
    read: dict[str, list[float]],
    order: Mapping[str, Sequence[int]],
    instruments: Mapping[str, Instrument],
    tool_at: Mapping[str, str],
    shown_mm: Mapping[str, float],
    back: Mapping[str, tuple[list[str], float, int]],
) -> tuple[dict[str, Tool], dict[str, MeanReading], list[Closure]]:
    """How each instrument of a round scatters, what each station comes to, and the loops that stay
    open. What drifted is taken out of `read`."""
    tools: dict[str, Tool] = {}
    means: dict[str, MeanReading] = {}
    opened: list[Closure] = []
    values = [v for group in read.values() for v in group]
    wide = max(values) - min(values)
    for name, instrument in instruments.items():
        keys = [k for k in read if tool_at[k] == name]
        drift = _undrifted(read, order, keys)
        own = spread_of([read[k] for k in keys])
        if drift:
            own = Spread(ss_mm2=own.ss_mm2, dof=own.dof - 1)
        tool = Tool(
            instrument=instrument,
            own=own,
            prior=case.history.spread(name, case.way),
            drift=drift,
            count=sum(len(read[k]) for k in keys),
            tip_sides=case.setup.tip_sides,
            shown_mm=[shown_mm[key] for key in keys],
        )
        tools[name] = tool
        k, s = tool.k_s
        # the error is stated from end to end, so that a single place has half of it either way
        apart = wide > 3 * 2 * instrument.step_mm and not instrument.sized
        error = instrument.wrong_by_mm / 2 if apart else 0.0
        error += case.setup.tip_sides * instrument.reversal_mm / 2
        middle = sum(i for key in keys for i in order[key]) / max(1, tool.count)
        missed = {
            key: closure
            for first, (loop, value, number) in back.items()
            if first in keys
            for closure in [_closure(tool, first, read[first][0], value, order, number, len(back))]
            for key in loop
        }
        opened += [c for key, c in missed.items() if key == c.station and c.is_open]
        for key in keys:
            n = len(read[key])
            u, big = mean_uncertainty(n, step_mm=instrument.step_mm, k=k, s_mm=s)
            wander = {}
            if drift:
                wander[name] = k * drift.u_mm * (sum(order[key]) / n - middle)
            bound = error + (drift.bound_mm if drift else 0.0)
            if loop := missed.get(key):
                share = loop.at(order[key][0])
                read[key] = [v - loop.missed_mm * share for v in read[key]]
                wander[loop.station] = loop.expanded_mm * share
                bound += abs(loop.missed_mm) / 2 if loop.is_open else 0.0
            means[key] = MeanReading(
                mean_mm=sum(read[key]) / n,
                u_mm=u,
                expanded_mm=big,
                bound_mm=bound,
                wander_mm=wander,
                size_mm=instrument.wrong_by_mm if instrument.sized else 0.0,
            )
    return tools, means, opened


def _come_back(
    case: Case[Any, Any],
    plan: Sequence[Station],
    read: dict[str, list[float]],
    order: dict[str, list[int]],
    tool_at: Mapping[str, str],
) -> dict[str, tuple[list[str], float, int]]:
    """What closes each loop of a plan of one pass, taken out of the readings: by the loop's first
    place its places, the reading and its number. It is no repeat."""
    found = {}
    if getattr(case.setup, "passes", 1) > 1:
        return {}
    for loop in case.setup.loops(plan):
        keys = [s.key for s in loop if s.key in read]
        counts = [len(read[key]) for key in keys]
        if len(keys) < 2 or counts != [2] + [1] * (len(keys) - 1):
            continue
        first = keys[0]
        number = order[first][1]
        if number < max(order[key][0] for key in keys) or len({tool_at[k] for k in keys}) > 1:
            continue
        found[first] = (keys, read[first][1], number)
        read[first], order[first] = read[first][:1], order[first][:1]
    return found


def _closure(
    tool: Tool,
    first: str,
    began_mm: float,
    value_mm: float,
    order: Mapping[str, Sequence[int]],
    number: int,
    loops: int,
) -> Closure:
    """By how much one of so many loops does not close."""
    k, s = tool.k_s
    _, big = mean_uncertainty(1, step_mm=tool.instrument.step_mm, k=k, s_mm=s)
    big *= math.sqrt(2)
    missed = value_mm - began_mm
    # each of many loops may stay open by chance, and all together no oftener than a drift is told
    wide = float(special.ndtri(1 - DRIFT_CHANCE / 2 / loops)) / 2
    began = order[first][0]
    return Closure(
        station=first,
        missed_mm=missed,
        expanded_mm=big,
        # the tip may come back to it from the other side
        is_open=abs(missed) > big * wide + tool.instrument.reversal_mm + 1e-12,
        since=number - began,
        began=began,
    )


def _undrifted(
    read: dict[str, list[float]], order: Mapping[str, Sequence[int]], keys: Sequence[str]
) -> Drift | None:
    """Take a steady drift out of the readings at these stations, if there is one."""
    drift = steady_drift([order[k] for k in keys], [read[k] for k in keys])
    if drift is None:
        return None
    count = sum(len(read[k]) for k in keys)
    middle = sum(i for k in keys for i in order[k]) / count
    for key in keys:
        read[key] = [
            v - drift.per_reading_mm * (i - middle)
            for v, i in zip(read[key], order[key], strict=True)
        ]
    return drift
