"""From what was seen, felt, heard and measured of a piece to what the machine does to a part."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from truing.checks.common import total_range
from truing.checks.cutting import CORNERS, LENGTHS, NAIL
from truing.checks.test_cut.foretold import Compared, compared, told
from truing.checks.test_cut.setup import FED, Feed, TestCutSetup, checked, stations
from truing.checks.test_cut.solve import USUAL_SCALE, left_over, row, solved
from truing.contract.case import Case
from truing.contract.finding import Finding, Note, Quantity, quantity, shown
from truing.contract.gather import Gathered, gather
from truing.contract.readings import GradeReading, LengthReading, ObservationReading, Reading
from truing.measure.estimate import Estimate
from truing.measure.extremes import peak_to_valley
from truing.measure.problem import Problem
from truing.measure.verdict import Verdict, verdict, worst
from truing.measure.words import Words, plain, say, show, show_estimate

SLIP = 0.05
"""A length that is off by more than this share is another length, or a slip."""


class TestCutFinding(Finding):
    """A piece by its errors, what was said of it, and what was foretold."""

    __test__ = False

    kind: Literal["test_cut"] = "test_cut"
    grades: dict[str, str]
    """What eye, nail and ear said, by station."""
    compared: list[Compared]
    opens: list[str]
    """What was cut and can be told, and was not read."""


CutCase = Case[TestCutSetup, TestCutFinding]


def evaluate(case: CutCase) -> TestCutFinding:
    """See `Check.evaluate`."""
    setup = checked(case.setup)
    plan = stations(setup)
    grades = _grades(case.readings)
    got = None
    if any(isinstance(r, LengthReading) for r in case.readings):
        got = gather(case, plan)
    if got is None and not grades:
        raise Problem(
            "Nothing of the piece has been read yet.",
            expected="Begin with a fingernail across the passes.",
            field="readings",
        )
    quantities: list[Quantity] = []
    errors: dict[str, Estimate] = {}
    notes: list[Note] = []
    if got is not None:
        _fits(setup, got)
        errors, gains = _errors(setup, got)
        quantities = [*_sizes(setup, got), *_judged(errors, gains), *_thick(got)]
        quantities += _told_only(errors, gains)
        errors |= _slopes(setup, got)
        left = _left(setup, got)
        notes = [*got.notes("The piece stands, but measure it again."), *_odd(got, left)]
    beside = compared(case, errors, grades)
    return TestCutFinding(
        quantities=quantities,
        stations=got.station_means(_left(setup, got)) if got else [],
        notes=[*notes, *_seen(grades)],
        spreads=got.spreads if got else {},
        s_mm=got.s_mm if got else 0.0,
        step_mm=got.step_mm if got else 0.0,
        zero_mm=got.zero_mm if got else 0.0,
        lines=[*(told(c) for c in beside if not c.agrees), *_lines(setup, got, errors)],
        grades=grades,
        compared=beside,
        opens=[s.label.metric for s in plan if not _read(s.key, grades, got)],
    )


def _grades(readings: Sequence[Reading]) -> dict[str, str]:
    return {
        r.station: r.grade
        for r in readings
        if isinstance(r, GradeReading | ObservationReading) and r.grade
    }


def _read(key: str, grades: dict[str, str], got: Gathered | None) -> bool:
    return key in grades or (got is not None and got.has(key))


def _fits(setup: TestCutSetup, got: Gathered) -> None:
    """Problem when a length cannot be one of this piece."""
    labels = {s.key: s.label.metric for s in got.plan}
    for key, mean in got.means.items():
        if key.startswith("t_"):
            continue
        should = row(setup, key)[0]
        if abs(mean.mean_mm - should) > SLIP * should:
            raise Problem(
                f"{labels[key].capitalize()}: {mean.mean_mm:g} mm were read, where the piece as "
                f"programmed has {should:.2f} mm.",
                expected="Correct the reading, its unit, or the size in Set up.",
                field="readings",
            )


def _lengths(got: Gathered) -> list[str]:
    return [k for k in got.means if not k.startswith("t_")]


def _errors(setup: TestCutSetup, got: Gathered) -> tuple[dict[str, Estimate], dict[str, float]]:
    """Every error that the lengths tell, with its gain; slopes in mm per m."""
    errors, gains = {}, {}
    for name, made in solved(setup, _lengths(got)).items():
        slope = name in ("square", "scale_x", "scale_y")
        times = 1000.0 if slope else 1.0
        weights = {k: w * times for k, w in made.weights.items()}
        found, gain = got.combine(weights, "slope" if slope else "length")
        bound = made.per_scale * USUAL_SCALE * times
        errors[name] = found.shifted(-made.nominal * times).widened(bound)
        gains[name] = gain
    return errors, gains


_AXES: dict[Feed, tuple[str, str]] = {"x": ("front", "rear"), "y": ("left", "right")}


def _sizes(setup: TestCutSetup, got: Gathered) -> list[Quantity]:
    found = []
    for axis, both in _AXES.items():
        read = [s for s in both if got.has(s)]
        if not read:
            continue
        mean, gain = got.combine(dict.fromkeys(read, 1 / len(read)))
        off = mean.shifted(-(setup.width_mm if axis == "x" else setup.depth_mm))
        size = show_estimate(abs(off.value), off.expanded, "length")
        sentence = (
            say(
                "{way} the piece is {size} too {large}.",
                way=FED[axis].capitalize(),
                size=size,
                large="large" if off.value > 0 else "small",
            )
            if off.visible
            else say("{way} it is to size: {size}.", way=FED[axis].capitalize(), size=size)
        )
        title = f"Size, {FED[axis]}"
        found.append(
            quantity(
                f"size_{axis}", title, off, sentence, gain=gain, tolerance_key="size", sort="size"
            )
        )
    return found


def _judged(errors: dict[str, Estimate], gains: dict[str, float]) -> list[Quantity]:
    found = []
    skew = errors.get("square")
    if skew is not None:
        size = show_estimate(abs(skew.value), skew.expanded, "slope")
        longer = "rear right" if skew.value > 0 else "rear left"
        sentence = (
            say("It is out of square by {size}, longer toward {longer}.", size=size, longer=longer)
            if skew.visible
            else say("Its corners cannot be told from square: {size}.", size=size)
        )
        found.append(
            quantity("square", "Skew", skew, sentence, gain=gains["square"], tolerance_key="square")
        )
    for axis, name in FED.items():
        lost = errors.get(f"lost_{axis}")
        if lost is None:
            continue
        size = show_estimate(abs(lost.value), lost.expanded, "length")
        sentence = (
            say("{way} it loses {size} where it turns round.", way=name.capitalize(), size=size)
            if lost.value > 0
            else say("{way} it runs {size} ahead where it turns round.", way=name, size=size)
        )
        if not lost.visible:
            sentence = say("{way} no lost motion shows: {size}.", way=name.capitalize(), size=size)
        found.append(
            quantity(
                f"lost_{axis}",
                f"Lost motion, {name}",
                lost,
                sentence,
                gain=gains[f"lost_{axis}"],
                tolerance_key="lost",
                sort="lost",
            )
        )
    return found


def _told_only(errors: dict[str, Estimate], gains: dict[str, float]) -> list[Quantity]:
    titles = {f"scale_{a}": f"Scale, {name}" for a, name in FED.items()}
    titles["cutter"] = "Cutter, larger than stated"
    return [
        quantity(key, title, errors[key], None, gain=gains[key], tolerance_key=None)
        for key, title in titles.items()
        if key in errors
    ]


def _corners(got: Gathered) -> dict[str, str]:
    keys = {name: f"t_{name.replace(' ', '_')}" for name in CORNERS}
    return {name: key for name, key in keys.items() if got.has(key)}


def _thick(got: Gathered) -> list[Quantity]:
    keys = list(_corners(got).values())
    if len(keys) < 2:
        return []
    means = [got.means[k] for k in keys]
    big, bound = max(m.expanded_mm for m in means), max(m.bound_mm for m in means)
    spread = peak_to_valley([m.mean_mm for m in means], big, bound=bound)
    sentence = (
        say("Its corners differ in thickness by {size}.", size=shown(spread))
        if spread.visible
        else say("Its corners are alike in thickness: {size}.", size=shown(spread))
    )
    return [
        quantity(
            "thick",
            "Thickness, corner to corner",
            spread,
            sentence,
            gain=2**0.5,
            tolerance_key="thick",
            signed=False,
        )
    ]


def _slopes(setup: TestCutSetup, got: Gathered) -> dict[str, Estimate]:
    """How the thickness changes each way (mm/m), where all four corners were read."""
    corners = _corners(got)
    if len(corners) < len(CORNERS):
        return {}
    found = {}
    for i, (axis, long) in enumerate((("x", setup.width_mm), ("y", setup.depth_mm))):
        weights = {corners[name]: CORNERS[name][i] * 500 / long for name in CORNERS}
        found[f"thick_{axis}"] = got.combine(weights, "slope")[0]
    return found


def _left(setup: TestCutSetup, got: Gathered) -> dict[str, float]:
    return left_over(setup, {k: got.means[k].mean_mm for k in _lengths(got)})


def _odd(got: Gathered, left: dict[str, float]) -> list[Note]:
    """A length that no error of the machine explains: a burr, a slip, a jaw that stood askew."""
    if not left:
        return []
    big = max(m.expanded_mm + m.bound_mm for m in got.means.values())
    key = max(left, key=lambda k: abs(left[k]))
    if abs(left[key]) <= 1.5 * big:
        return []
    label = next(s.label for s in got.plan if s.key == key)
    text = say(
        "No error of a machine makes {label} {d} {longer} than the others say. A burr, or jaws "
        "askew? Read it again.",
        label=label,
        d=show(abs(left[key]), got.step_mm),
        longer="longer" if left[key] > 0 else "shorter",
    )
    return [Note(tone="look", text=text, station=key)]


def _seen(grades: dict[str, str]) -> list[Note]:
    one_way = [FED[f] for f in FED if grades.get(f"marks_{f}") == "one_way"]
    if not one_way:
        return []
    text = (
        f"One-way marks, fed {' and '.join(one_way)}: the spindle leans along that feed. “Ridges” "
        "reads how much from the same piece."
    )
    return [Note(tone="look", text=plain(text))]


def _lines(setup: TestCutSetup, got: Gathered | None, errors: dict[str, Estimate]) -> list[Words]:
    lines: list[Words] = []
    if got is None:
        return lines
    if setup.square and got.has(*LENGTHS) and "scale_x" not in errors:
        lines.append(
            plain(
                "Lost motion, scale and cutter make the same of an outline: only a hole that is "
                "milled round parts them."
            )
        )
    cutter = errors.get("cutter")
    if cutter is not None and cutter.visible:
        lines.append(
            say(
                "The cutter cuts {size} {wider} than stated: enter that, before anything else is "
                "blamed.",
                size=show_estimate(abs(cutter.value), cutter.expanded, "length"),
                wider="wider" if cutter.value > 0 else "narrower",
            )
        )
    for axis, name in FED.items():
        scale = errors.get(f"scale_{axis}")
        if scale is not None and scale.visible:
            lines.append(
                say(
                    "{way} it moves {size} too {far}.",
                    way=name.capitalize(),
                    size=show_estimate(abs(scale.value), scale.expanded, "slope"),
                    far="far" if scale.value > 0 else "short",
                )
            )
    holes = [got.means[k].mean_mm for k in ("h0", "h45", "h90", "h135") if got.has(k)]
    if len(holes) > 2:
        lines.append(say("The hole is {d} out of round.", d=show(total_range(holes), got.step_mm)))
    return lines


def graded(finding: TestCutFinding) -> list[tuple[Verdict, Words]]:
    """What eye, nail and ear say of it, as verdicts; nothing for what is as it should be."""
    found: list[tuple[Verdict, Words]] = []
    for feed, fed in FED.items():
        step = finding.grades.get(f"step_{feed}")
        if step in ("felt", "stops"):
            said = NAIL[step][0]
            text = f"Fed {fed}, passes leave a step: {said}."
            found.append(("out", plain(text)))
        elif step == "just":
            found.append(("too_close", plain(f"Fed {fed}, a step between passes is just felt.")))
    sound, finish = finding.grades.get("sound"), finding.grades.get("finish")
    if sound == "chatters":
        text = "It chatters: something is loose, or the cut is too heavy for the machine."
        found.append(("out", plain(text)))
    elif sound == "sings":
        found.append(("too_close", plain("The sound changes along the cut.")))
    if finish == "scrap":
        found.append(("out", plain("As a part it would be sent back.")))
    elif finish == "rework":
        found.append(("too_close", plain("As a part it would need some work.")))
    return found


CANNOT = "The piece cannot accept the machine: "


def partial(setup: TestCutSetup) -> list[tuple[Verdict, Words]]:
    """What a piece leaves out that a machine cannot be accepted without."""
    found: list[tuple[Verdict, Words]] = []
    if not setup.face:
        what = "it says nothing of how the spindle leans."
        found.append(("too_close", plain(f"No face was cut both ways. {CANNOT}{what}")))
    if not setup.square:
        what = "it says nothing of how the travels stand to each other."
        found.append(("too_close", plain(f"No square was cut. {CANNOT}{what}")))
    return found


def beyond(case: CutCase) -> list[tuple[Verdict, Words]]:
    """What was not foretold so, though the piece itself may pass: something is not measured."""
    found: list[tuple[Verdict, Words]] = []
    for item in case.finding.compared:
        if not item.agrees:
            text = say("{said} Something is not measured.", said=told(item))
            found.append(("too_close", text))
    return found


def accepts(case: CutCase) -> bool:
    """Whether everything that was to be read was, is within its limits, and is as foretold."""
    finding = case.finding
    sizes = [
        verdict(q.estimate, case.tolerances[q.tolerance_key])
        for q in finding.quantities
        if q.tolerance_key
    ]
    said = [*graded(finding), *partial(case.setup)]
    fine = worst([*sizes, *(v for v, _ in said)]) == "true"
    return fine and not finding.opens and all(c.agrees for c in finding.compared)


def accepted(finding: TestCutFinding) -> Words:
    """What a piece makes of the machine that accepts it."""
    count = len(finding.compared)
    if count == 0:
        return plain(
            "It accepts the machine for pieces like this one. Nothing was foretold that it could "
            "be held against, so that it tells nothing of larger ones."
        )
    if count == 1:
        return plain("It accepts the machine, and is as was foretold in the one thing that was.")
    return plain(f"It accepts the machine, and is as was foretold in all {count} things.")
