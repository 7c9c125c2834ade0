"""What the kinds of check share: predictions, expectations, places along a travel, wording."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from truing.contract.case import Case
from truing.contract.finding import Note, Quantity
from truing.contract.gather import Gathered
from truing.contract.judgement import Expectation
from truing.contract.move import Prediction
from truing.drawing.figures import Bar, WaterfallFigure
from truing.machine import Machine, Slide
from truing.machine.parts import Direction
from truing.measure.estimate import Estimate, combined
from truing.measure.lines import zone
from truing.measure.problem import Problem
from truing.measure.words import MINUS, Measure, Words, plain, say, show, show_estimate, stated

ISOLATE = "Isolate the machine before hands go near the cutter or spindle; turn it by hand."
SHARP = "Shim stock cuts: deburr it, wear gloves."
STILL = (
    "Keep the motors still, or unplug the machine, while hands are at nuts, belts and couplings."
)


def after(now: Estimate, aimed: float, scatter: float) -> Estimate:
    """Prediction: what was aimed at, with the doubt of both readings and of the move itself."""
    changed = now.value - aimed
    big = combined(now.expanded, now.expanded, scatter * changed)
    return Estimate.within(now.measure, aimed, big)


def prediction(q: Quantity, after: Estimate) -> Prediction:
    """The prediction of one quantity, in words."""
    return Prediction(
        quantity=q.key,
        after=after,
        label=q.label,
        words=show_estimate(
            after.value, after.expanded, q.measure, signed=q.words.metric[:1] in ("+", MINUS)
        ),
    )


def off_one_line(got: Gathered, xs: Sequence[float], ys: Sequence[float]) -> Estimate:
    """Highest less lowest off the line of least squares through station means (mm) at these places,
    as well as the means are known. ValueError with fewer than two places."""
    means = got.means.values()
    big, bound = max(m.all_mm for m in means), max(m.bound_mm for m in means)
    return zone(xs, ys, big, "least_squares", bound=bound)


def expectation(
    expanded: float, limit: float, measure: Measure, helps: Words | None = None
) -> Expectation:
    """What to expect against the limit, and what would help when it is more than a quarter."""
    enough = expanded <= limit / 4
    told = say(
        "Expect ±{u} against a limit of {t}.",
        u=show(expanded, expanded / 10, measure),
        t=show(limit, limit / 10, measure),
    )
    if not enough:
        told = say(
            "{told} That is more than a quarter of it: {helps}",
            told=told,
            helps=helps
            or say(
                "an instrument that gives ±{u} would do.",
                u=show(limit / 4, limit / 40, measure),
            ),
        )
    if expanded > limit:
        told = told + " As it stands it can find a large error, but never call it true."
    return Expectation(
        expanded=expanded, tolerance=limit, enough=enough, measure=measure, text=told
    )


def loose_bearings(case: Case[Any, Any]) -> list[Note]:
    """That the spindle is known to shake by more than it may, so that what turns with it is in
    doubt by as much."""
    known = case.latest("spindle_play", "radial")
    if known is None or not known.fresh or "radial" not in known.limits:
        return []
    play, limit = known.values["radial"], known.limits["radial"]
    if play.least <= limit:
        return []
    text = say(
        "The spindle shakes in its bearings by {play}, and may by {limit}: what turns with it is "
        "in doubt by as much. Mend that first.",
        play=show(play.value, play.expanded),
        limit=show(limit, limit / 10),
    )
    return [Note(tone="weak", text=text)]


def total_range(values: Sequence[float]) -> float:
    """Highest less lowest; 0 for none."""
    return max(values) - min(values) if values else 0.0


_ENDS: dict[Direction, tuple[str, str]] = {
    "left_right": ("left", "right"),
    "front_back": ("front", "rear"),
    "up_down": ("low", "high"),
}


def ends_of(direction: Direction) -> tuple[str, str]:
    """What the two ends of a travel are called, the minus end first."""
    return _ENDS[direction]


def slide_of(machine: Machine, direction: Direction) -> Slide:
    """The slide that moves this way. Problem, naming the field, when the machine has none."""
    slide = machine.slide(direction)
    if slide is None:
        raise Problem(
            "This machine is not described as having that slide.",
            expected="Pick another, or add it under Machine.",
            field="slide",
        )
    return slide


def default_places(travel_mm: float, n: int = 3, margin: float = 0.1) -> list[float]:
    """Places spread over a travel, from its middle, a little short of both stops."""
    reach = round(travel_mm * (0.5 - margin / 2))
    return [float(round(-reach + 2 * reach * i / (n - 1))) for i in range(n)]


_BESIDE: dict[Direction, tuple[str, str]] = {
    "left_right": ("left of", "right of"),
    "front_back": ("in front of", "behind"),
    "up_down": ("below", "above"),
}


def at_place(x_mm: float, direction: Direction) -> Words:
    """A place along a travel as people say it."""
    if abs(x_mm) < 1e-9:
        return plain("mid travel")
    return stated(f"{abs(x_mm):g} mm {_BESIDE[direction][x_mm > 0]} the middle")


EIGHTHS = {0: "", 1: "⅛", 2: "¼", 3: "⅜", 4: "½", 5: "⅝", 6: "¾", 7: "⅞"}


def turns_words(turns: float) -> str:
    """A turn of a screw to the nearest eighth, as one says it; in degrees below a quarter, where an
    eighth is too coarse."""
    eighths = round(abs(turns) * 8)
    whole, part = divmod(eighths, 8)
    if eighths < 2:
        return f"{abs(turns) * 360:.0f}°"
    return f"{whole or ''}{EIGHTHS[part]} turn{'s' if whole > 1 or (whole and part) else ''}"


MOST_CHANGES = 7
"""Changes that a figure shows; those before them are as found."""
LABEL = 26
"""Letters that a bar has room for."""


def changes_figure(case: Case[Any, Any], key: str, title: Words) -> list[WaterfallFigure]:
    """What each thing that was done made of a quantity, from round to round and evening to evening;
    none before anything was."""
    now = case.get(key)
    alike = case.history.alike(case.setup.condition)
    past = [r for r in alike if key in r.values][-MOST_CHANGES:]
    if now is None or now.tolerance_key is None or not any(r.did for r in past):
        return []
    values = [*(r.values[key].value for r in past), now.estimate.value]
    digit = max(now.estimate.expanded, 1e-4)
    bars = [_whole("as found", values[0], digit)]
    for r, before, after in zip(past, values, values[1:], strict=False):
        label = r.did or "read again"
        bars.append(
            Bar(
                # as somebody wrote it, sizes and all
                label=plain(label if len(label) <= LABEL else label[: LABEL - 1].rstrip() + "…"),
                from_mm=before,
                to_mm=after,
                words=show(after - before, digit, signed=True),
                sort="gain" if after <= before else "loss",
            )
        )
    limit = case.tolerances[now.tolerance_key]
    return [
        WaterfallFigure(
            title=title,
            bars=[*bars, _whole("now", values[-1], digit)],
            limit_mm=limit,
            limit_words=show(limit, limit / 10),
        )
    ]


def _whole(label: str, value: float, digit: float) -> Bar:
    return Bar(label=label, from_mm=0.0, to_mm=value, words=show(value, digit), sort="whole")
