"""A finding against its limits: true, out, or too close to call."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import BaseModel

from truing.contract.finding import Finding, Quantity
from truing.measure.verdict import VERDICT_WORDS, Verdict, WayOut, verdict, way_out, worst
from truing.measure.words import Measure, Words, join, plain, say, show

Tolerances = dict[str, float]
MOST_SAID = 2
"""Quantities that a sentence can name before it tires."""


class Judged(BaseModel):
    """One quantity against its tolerance."""

    quantity: str
    tolerance: float
    measure: Measure
    tolerance_words: Words
    verdict: Verdict
    text: Words
    way_out: WayOut | None


class Judgement(BaseModel):
    """The verdict of a check, that of its worst quantity, with the sentence that says it."""

    verdict: Verdict
    judged: list[Judged]
    sentence: Words
    otherwise: Verdict | None = None
    """The verdict of what was found otherwise than in figures; None where it cannot be told
    apart."""

    def joined_by(self, findings: Sequence[tuple[Verdict, Words]]) -> Judgement:
        """This judgement of figures together with what was found otherwise, the worst said
        first."""
        if not findings:
            return self
        overall = worst([self.verdict, *(v for v, _ in findings)])
        said = [text for v, text in findings if v == overall][:MOST_SAID]
        figures = [self.sentence] if self.judged and self.verdict == overall else []
        found = worst([self.otherwise or "true", *(v for v, _ in findings)])
        return Judgement(
            verdict=overall,
            judged=self.judged,
            sentence=join([*said, *figures]),
            otherwise=found,
        )

    def doubted(self, text: Words) -> Judgement:
        """This judgement while a reading is pointed out: nothing is true before it was read again,
        and that is all there is to say."""

        def doubt(j: Judged) -> Judged:
            if j.verdict == "out":
                return j
            out = WayOut(passes=None, passes_sure=None, needed_expanded=j.tolerance, text=text)
            return j.model_copy(update={"verdict": "too_close", "text": text, "way_out": out})

        return self.model_copy(
            update={
                "verdict": "out" if self.verdict == "out" else "too_close",
                "judged": [doubt(j) for j in self.judged],
                "sentence": text,
            }
        )

    def decided_otherwise(self, text: Words) -> Judgement:
        """This judgement where more readings are no way out of what is too close, but this is."""

        def instead(j: Judged) -> Judged:
            if j.way_out is None:
                return j
            out = WayOut(
                passes=None, passes_sure=None, needed_expanded=j.way_out.needed_expanded, text=text
            )
            return j.model_copy(update={"way_out": out})

        return self.model_copy(update={"judged": [instead(j) for j in self.judged]})


class Limit(BaseModel):
    """What one sort of quantity may be, for showing and changing."""

    key: str
    title: str
    unit: Words
    """What a bare number is typed in, by whoever reads in it."""
    value: float
    """In the metric one."""
    words: Words


class Expectation(BaseModel):
    """Before the first reading: the U to expect, and what would do if it is too large."""

    expanded: float
    tolerance: float
    enough: bool
    measure: Measure
    text: Words


def judge(finding: Finding, tolerances: Tolerances, *, planned_passes: int) -> Judgement:
    """Every quantity against its own tolerance; the check's verdict is the worst."""
    counts = [len(s.repeats_mm) for s in finding.stations]
    extended = any(n > planned_passes for n in counts)
    judged = []
    for q in finding.quantities:
        if q.tolerance_key is None:
            continue
        limit = tolerances[q.tolerance_key]
        found = verdict(q.estimate, limit)
        limit_words = show(limit, limit / 10, q.measure)
        judged.append(
            Judged(
                quantity=q.key,
                tolerance=limit,
                measure=q.measure,
                tolerance_words=limit_words,
                verdict=found,
                text=say(
                    "{said} Limit {limit}. {verdict}.",
                    said=q.sentence or q.words,
                    limit=limit_words,
                    verdict=VERDICT_WORDS[found],
                ),
                way_out=way_out(
                    q.estimate,
                    limit,
                    gain=q.gain,
                    s_mm=finding.s_mm,
                    step_mm=finding.step_mm,
                    extended=extended,
                    passes=max(1, min(counts, default=1)),
                    spread_dof=_dof(q, finding),
                    stations=len(counts),
                )
                if found == "too_close"
                else None,
            )
        )
    once_more = max(counts, default=1) + 1
    if finding.wandered:
        judged = [_told_apart(j, once_more, DRIFT_OR_KNOCK) for j in judged]
    elif finding.one_off:
        judged = [_told_apart(j, once_more, SLIP_OR_SHAPE) for j in judged]
    overall = worst([j.verdict for j in judged])
    if overall == "out":
        # what is out wants a move, and after that everything is read again
        judged = [j.model_copy(update={"way_out": None}) for j in judged]
    sizes = {q.key: abs(q.estimate.value) for q in finding.quantities}
    telling = [j for j in judged if j.verdict == overall]
    telling.sort(key=lambda j: -sizes[j.quantity] / j.tolerance)
    return Judgement(verdict=overall, judged=judged, sentence=_headline(telling), otherwise="true")


DRIFT_OR_KNOCK = (
    "The zero moved while it was read. Look at the clamps, then take {n} passes in all: they tell "
    "a drift from a knock."
)
SLIP_OR_SHAPE = (
    "Take {n} passes in all: they tell a reading that slipped from a surface that is not flat."
)


def _told_apart(j: Judged, passes: int, why: str) -> Judged:
    """A way out for what hangs on which of two things it was: one pass more tells."""
    if j.way_out is None:
        return j
    text = plain(why.format(n=passes))
    out = j.way_out.model_copy(update={"passes": passes, "passes_sure": passes, "text": text})
    return j.model_copy(update={"way_out": out})


def _dof(q: Quantity, finding: Finding) -> int:
    """Degrees of freedom behind the scatter: the estimate's own, with earlier rounds in it."""
    if q.estimate.dof is not None:
        return int(q.estimate.dof)
    return min((s.dof for s in finding.spreads.values()), default=0)


def _headline(telling: list[Judged]) -> Words:
    """The worst quantities in full, and how many more say the same."""
    named = MOST_SAID if len(telling) <= MOST_SAID else 1
    said = [j.text for j in telling[:named]]
    more = len(telling) - named
    if more > 0:
        said.append(plain(f"{more} more likewise, none of them worse."))
    return join(said)
