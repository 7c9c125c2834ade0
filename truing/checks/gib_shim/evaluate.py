"""From two thicknesses to the taper, and from the taper to the shim: shim = taper × shift."""

from __future__ import annotations

from typing import Literal

from truing.checks.gib_shim.setup import GibShimSetup, stations
from truing.contract.case import Case
from truing.contract.finding import Finding, Quantity, quantity
from truing.contract.gather import Gathered, gather
from truing.measure.estimate import Estimate
from truing.measure.problem import Problem
from truing.measure.words import Words, say, show, show_estimate, span


class GibShimFinding(Finding):
    """Taper of the gib (mm/m), the shift still wanted and the shim for it (mm)."""

    kind: Literal["gib_shim"] = "gib_shim"
    taper: Estimate
    missing: Estimate
    """How far the gib should still come back."""
    shim: Estimate
    """Thickness that would do it."""


def _taper(setup: GibShimSetup, got: Gathered) -> tuple[Estimate, float]:
    if not got.has("thick", "thin"):
        raise Problem(
            "One thickness tells no taper.",
            expected="Read the gib at the other place too.",
            field="readings",
        )
    thinnest = min(got.means["thick"].mean_mm, got.means["thin"].mean_mm)
    if thinnest <= 0:
        raise Problem(
            f"A thickness of {thinnest:.3f} mm cannot be.",
            expected="Correct the reading: zero the micrometer, and leave the sign out.",
            field="readings",
        )
    fall, _ = got.combine({"thick": 1.0, "thin": -1.0})
    if fall.value < -fall.expanded:
        raise Problem(
            f"The thin end came out {-fall.value:.3f} mm thicker than the thick end.",
            expected="The two are swapped: correct the readings, or turn the gib round.",
            field="readings",
        )
    if fall.value <= fall.expanded:
        raise Problem(
            f"The two thicknesses differ by {fall.value:.3f} mm, which is no more than the "
            "readings’ own doubt: no taper can be told.",
            expected="Measure further apart or with a finer instrument. A gib without taper needs "
            "another cure than a shim.",
            field="readings",
        )
    return got.combine({"thick": 1000 / setup.apart_mm, "thin": -1000 / setup.apart_mm}, "slope")


def _fitted(setup: GibShimSetup, got: Gathered) -> tuple[Estimate, float]:
    """The taper that the fitted shim has really shown."""
    shift = got.means["shift"]
    if abs(shift.mean_mm) <= shift.expanded_mm:
        raise Problem(
            "The shim has not shifted the gib by anything that can be told.",
            expected="Check that it lies behind the gib, on the side that does not slide.",
            field="readings",
        )
    # only what is there more than before has shifted it
    added = setup.fitted_mm - sum(setup.there_mm)
    if added * shift.mean_mm <= 0:
        raise Problem(
            "The gib has shifted the other way than the shims behind it say.",
            expected="Check what lies behind the gib now and what lay there before.",
            field="there_mm",
        )
    value = added / shift.mean_mm * 1000
    gain = abs(value / shift.mean_mm)
    estimate = Estimate(
        measure="slope", value=value, u=gain * shift.u_mm, expanded=gain * shift.expanded_mm
    )
    return estimate.widened(gain * shift.bound_mm), gain


def evaluate(case: Case[GibShimSetup, GibShimFinding]) -> GibShimFinding:
    """See `Check.evaluate`."""
    setup = case.setup
    got = gather(case, stations(setup))
    if setup.way == "measure":
        taper, gain = _taper(setup, got)
        share = taper.expanded / taper.value
        # nothing has been fitted yet: the whole shift is missing, as well known as the taper is
        missing = Estimate.within("length", setup.wanted_mm, setup.wanted_mm * share)
        gain_missing = setup.wanted_mm / taper.value * gain
    else:
        taper, gain = _fitted(setup, got)
        missing = got.combine({"shift": -1.0})[0].shifted(setup.wanted_mm)
        gain_missing = 1.0
    shim = _shim(setup, taper, missing)
    return GibShimFinding(
        quantities=_quantities(setup, taper, gain, missing, gain_missing, shim),
        **got.told(),
        lines=_lines(setup, taper, case.history.learnt("taper")),
        taper=taper,
        missing=missing,
        shim=shim,
    )


def _shim(setup: GibShimSetup, taper: Estimate, missing: Estimate) -> Estimate:
    """Taper × shift. What is not known of the two is one doubt, not two: before anything is fitted
    the shift is the wanted one, and afterwards both come from the one shift that was read."""
    doubt = taper.expanded / 1000 * abs(setup.wanted_mm)
    return Estimate.within("length", taper.value / 1000 * missing.value, doubt)


def _quantities(
    setup: GibShimSetup,
    taper: Estimate,
    gain: float,
    missing: Estimate,
    gain_missing: float,
    shim: Estimate,
) -> list[Quantity]:
    size = show_estimate(abs(missing.value), missing.expanded, "length")
    if setup.way == "measure":
        sentence = say(
            "A shim of {shim} brings the gib back by {wanted}.",
            shim=show_estimate(shim.value, shim.expanded, "length"),
            wanted=span(setup.wanted_mm),
        )
    elif missing.value >= 0:
        sentence = say("The gib sits {size} short of where it should.", size=size)
    else:
        sentence = say("The gib came back {size} further than wanted.", size=size)
    return [
        quantity(
            "shift",
            "Shift still wanted",
            missing,
            sentence,
            gain=gain_missing,
            tolerance_key="shift",
        ),
        quantity(
            "taper",
            "Taper",
            taper,
            say("One in {n}.", n=f"{1000 / taper.value:.0f}"),
            gain=gain,
            tolerance_key=None,
            signed=False,
        ),
        quantity(
            "shim",
            "Shim",
            shim,
            None,
            gain=0.0,
            tolerance_key=None,
            signed=False,
        ),
    ]


def _lines(setup: GibShimSetup, taper: Estimate, before: Estimate | None) -> list[Words]:
    lines = [
        say(
            "The taper is one in {n}: {t}.",
            n=f"{1000 / taper.value:.0f}",
            t=show_estimate(taper.value, taper.expanded, "slope"),
        )
    ]
    if setup.way == "fitted" and before is not None:
        lines.append(
            say(
                "Measured off the gib it was {t}. What the shim really did is the better figure "
                "for the next one.",
                t=show(before.value, before.expanded, "slope"),
            )
        )
    return lines
