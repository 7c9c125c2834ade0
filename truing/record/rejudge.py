"""A summary judged by other limits, without its readings: what was found stays as it is."""

from __future__ import annotations

from collections.abc import Mapping

from truing.measure.verdict import VERDICT_WORDS, Verdict, worst
from truing.measure.words import join, say, show
from truing.record.shapes import Summary, Told

_RANK: dict[Verdict, int] = {"true": 0, "too_close": 1, "out": 2}


def rejudged(
    summary: Summary, was: Verdict, limits: Mapping[str, float], by: str = ""
) -> tuple[Summary, Verdict]:
    """A summary and its verdict by these limits; as they were where no limit is another. `by` says
    whose limits they are. What was found otherwise than in figures keeps its weight, and where it
    is not known a verdict never gets better."""
    judged = [_told(v, limits) for v in summary.values]
    if all(new is old for new, old in zip(judged, summary.values, strict=True)):
        return summary, was
    figures = worst([v.verdict for v in judged])
    otherwise = summary.otherwise if summary.otherwise is not None else was
    verdict = worst([figures, otherwise])
    told = [v for v in judged if v.verdict == figures] if figures == verdict else []
    said = [
        say(
            "{label}: {words}. Limit {limit}{by}. {verdict}.",
            label=v.label,
            words=v.words,
            limit=show(v.limit, v.limit / 10, v.measure or "length"),
            by=by,
            verdict=VERDICT_WORDS[v.verdict],
        )
        for v in told[:2]
    ]
    sentence = join(said) if said else summary.sentence
    return summary.model_copy(update={"values": judged, "sentence": sentence}), verdict


def _told(told: Told, limits: Mapping[str, float]) -> Told:
    limit = limits.get(told.tolerance or "", told.limit)
    if abs(limit - told.limit) <= 1e-12 * limit:
        return told
    return told.model_copy(update={"limit": limit, "verdict": _verdict(told, limit)})


def _verdict(told: Told, limit: float) -> Verdict:
    if told.least is None or told.most is None:
        # its uncertainty was not kept: it may not get better, nor be called true
        now: Verdict = "out" if abs(told.value) > limit else "too_close"
        return max(told.verdict, now, key=_RANK.__getitem__)
    if told.most <= limit:
        return "true"
    return "out" if told.least > limit else "too_close"
