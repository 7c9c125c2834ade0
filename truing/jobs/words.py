"""What a fit says, in the words of the part."""

from __future__ import annotations

from dataclasses import dataclass

from truing.course import course_kind
from truing.jobs.contribute import Demand, Share
from truing.jobs.fit import Answer, DemandFit, FeatureFit, JobFit
from truing.measure.fields import exact, inch_step
from truing.measure.words import Words, capital, join, plain, say, show

ANSWERS: dict[Answer, str] = {
    "fits": "Fits",
    "no": "Does not fit",
    "close": "Too close to call",
    "unknown": "Not known",
    "outside": "Cannot be made here",
}


def amount(demand: Demand, value: float) -> Words:
    """So much of a tolerance, in its unit."""
    if demand.load:
        return plain(f"{round(100 * value)} %")
    metric = show(value, 0.001 if value >= 0.0095 else 0.0001).metric
    return Words(metric=metric, inch=show(value, inch_step(value)).inch)


def tolerance_words(demand: Demand) -> Words:
    """What is allowed, as it was stated."""
    return amount(demand, demand.tolerance) if demand.load else exact(demand.tolerance)


def share_words(demand: Demand, share: Share) -> Words:
    """What some errors do to the part."""
    return say(share.text, v=amount(demand, share.most), l=exact(share.length_mm))


def title_of(found: FeatureFit, demand: DemandFit) -> str:
    """A demand with its feature: “bushes: in their place”."""
    return f"{found.feature.called}: {demand.demand.title}"


def missing_kinds(found: JobFit) -> list[str]:
    """Titles of the checks that nothing is known of, or nothing that still holds."""
    kinds = [s.kind for _, d in found.asked for h in d.shares for s in h.sources if not s.known]
    return [course_kind(k).title for k in dict.fromkeys(kinds)]


def sentence(found: JobFit) -> Words:
    """How a job stands on its machine, and what limits it."""
    if not found.features:
        return plain("It has no features yet.")
    for feature in found.features:
        if feature.outside:
            return plain(f"{capital(feature.feature.called)}: {', '.join(feature.outside)}.")
    assert found.worst is not None
    place, worst = found.worst
    name = title_of(found.features[place], worst)
    parts: dict[str, Words | str | float] = {
        "name": name,
        "most": amount(worst.demand, worst.most),
        "tol": tolerance_words(worst.demand),
    }
    if found.answer == "fits":
        return say(
            "Every feature fits. Nearest to its tolerance: {name}, at most {most} of {tol}.",
            **parts,
        )
    if found.answer == "unknown":
        titles = missing_kinds(found)
        told = ", ".join(titles[:3]) + (f" and {len(titles) - 3} more" if len(titles) > 3 else "")
        as_far = (
            "With usual limits for the rest it would fit."
            if all(d.most <= d.demand.tolerance for _, d in found.asked)
            else "With usual limits for the rest it may not fit: {name}, {most} of {tol}."
        )
        return join([plain(f"Not known yet: {told}."), say(as_far, **parts)])
    largest = worst.shares[0]
    why = say(" Most of it: {share}.", share=share_words(worst.demand, largest.share))
    said = (
        "{name} would not come out: up to {most} where {tol} is allowed."
        if found.answer == "no"
        else "{name}: up to {most}, and {tol} is allowed; what was read cannot tell."
    )
    return capital_words(say(said, **parts)) + why


def capital_words(text: Words) -> Words:
    """With a capital at its beginning."""
    return Words(metric=capital(text.metric), inch=capital(text.inch))


@dataclass(frozen=True, slots=True)
class Cost:
    """What one kind of check takes of a job's tolerances, at its worst."""

    ratio: float
    text: Words


def cost_of(kind: str, found: JobFit) -> Cost | None:
    """The largest share of a tolerance that errors of this check take; None for a job that does
    not lean on it."""
    told = [
        (s.share.most / d.demand.tolerance, i, d, s)
        for i, d in found.asked
        for s in d.shares
        if any(o.kind == kind for o in s.sources)
    ]
    if not told:
        return None
    ratio, i, d, s = max(told, key=lambda t: t[0])
    text = say(
        "{name}: {share}, of {tol} in all.",
        name=capital(title_of(found.features[i], d)),
        share=share_words(d.demand, s.share),
        tol=tolerance_words(d.demand),
    )
    return Cost(ratio, text)
