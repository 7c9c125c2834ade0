"""One instrument of a round: how it scatters, and what there is to say of its readings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from truing.contract.finding import Note
from truing.kit.instruments import Indicator, Instrument
from truing.measure.fields import exact
from truing.measure.spread import CRIED, Drift, Spread, mean_uncertainty
from truing.measure.words import say, show

COARSER = (10, 5, 2)
"""How many divisions readings may be whole multiples of, the coarsest first."""


@dataclass(frozen=True)
class Tool:
    """One instrument of a round, and how it scatters."""

    instrument: Instrument
    own: Spread
    """Of this round's repeats with it."""
    prior: Spread
    """Of earlier rounds with it, read in the same way."""
    drift: Drift | None = None
    """What was taken out of its readings as a steady drift."""
    count: int = 0
    """How many readings were taken with it."""
    shown_mm: Sequence[float] = ()
    """What it showed when each place was first read."""
    tip_sides: int = 0
    """As `Setup.tip_sides`."""

    @property
    def pooled(self) -> Spread:
        """Both together."""
        return self.own + self.prior

    @property
    def stated(self) -> bool:
        """Whether its stated repeatability has to stand in for the spread."""
        return self.pooled.rests_on_stated(
            self.instrument.repeatability_mm, self.instrument.step_mm
        )

    @property
    def k_s(self) -> tuple[float, float]:
        """(k, s in mm) of one reading with it."""
        return self.pooled.k_s(self.instrument.repeatability_mm, self.instrument.step_mm)


def drifted(tool: Tool, stands: str) -> list[Note]:
    """That its readings drifted steadily, and what was done about it."""
    if tool.drift is None:
        return []
    text = say(
        "Readings drifted steadily, by {drift} from the first to the last; that has been taken "
        "out. {stands}",
        drift=show(
            tool.drift.per_reading_mm * (tool.count - 1), tool.instrument.step_mm / 10, signed=True
        ),
        stands=stands,
    )
    return [Note(tone="look", text=text)]


def stated(tool: Tool) -> list[Note]:
    """That ± rests on what is stated of it, or leans on that."""
    if not tool.stated:
        return []
    text = say(
        "So few repeats say little: the stated repeatability of {r} counts beside them."
        if tool.pooled.dof
        else "± rests on the stated repeatability of {r}; another pass would show your own.",
        r=tool.instrument.repeatability_words,
    )
    return [Note(tone="weak", text=text)]


def usual(tool: Tool) -> list[Note]:
    """What nobody has found out of the instrument yet, where it is much of what is told."""
    instrument = tool.instrument
    k, s = tool.k_s
    _, big = mean_uncertainty(1, step_mm=instrument.step_mm, k=k, s_mm=s)
    lags = tool.tip_sides * instrument.reversal_mm
    if isinstance(instrument, Indicator) and instrument.hysteresis_mm is None and lags > big:
        text = say(
            "± counts the hysteresis that such a dial usually has, {h}. Its own takes two minutes "
            "to find: see under Kit.",
            h=show(instrument.reversal_mm, instrument.reversal_mm / 10),
        )
        return [Note(tone="weak", text=text)]
    if instrument.sized and not instrument.error_mm and instrument.wrong_by_mm > big:
        text = say(
            "Sizes count the error that such an instrument usually has, {e}, until it was compared "
            "and its own is stated under Kit.",
            e=show(instrument.wrong_by_mm, instrument.wrong_by_mm / 10),
        )
        return [Note(tone="weak", text=text)]
    return []


def coarse(tool: Tool) -> list[Note]:
    """That everything was typed in larger steps than its divisions, which chance hardly does."""
    instrument = tool.instrument
    division = instrument.division_mm or instrument.step_mm
    if len({round(v / division) for v in tool.shown_mm}) < 2:
        return []
    for times in COARSER:
        seldom = times ** (1 - len(tool.shown_mm)) < CRIED / 10
        whole = [v / division / times for v in tool.shown_mm]
        if seldom and all(abs(v - round(v)) < 1e-6 for v in whole):
            text = say(
                "Every reading is a whole {coarse}, and it is stated to have divisions of {fine}. "
                "Is that so? If not, correct it under Kit: ± rests on it.",
                coarse=exact(times * division),
                fine=exact(division),
            )
            return [Note(tone="look", text=text)]
    return []


def contradicted(tool: Tool) -> list[Note]:
    """What was seen of the instrument says that its sheet is too good."""
    instrument, seen = tool.instrument, tool.pooled
    if not seen.contradicts(instrument.repeatability_mm, instrument.step_mm):
        return []
    text = say(
        "{who} by {s}, {times} times what is stated for this instrument ({r}). ± goes by what was "
        "seen. Look at its clamp, its tip and the arm; or correct what is stated in the kit.",
        who="Repeats scatter"
        if tool.own.contradicts(instrument.repeatability_mm, instrument.step_mm)
        else "In earlier rounds, too, it scattered"
        if tool.own.dof
        else "In earlier rounds it scattered",
        s=show(seen.s_mm, max(instrument.repeatability_mm, instrument.step_mm) / 10),
        times=f"{seen.s_mm / max(instrument.repeatability_mm, instrument.step_mm / 12**0.5):.1f}",
        r=instrument.repeatability_words,
    )
    return [Note(tone="weak", text=text)]
