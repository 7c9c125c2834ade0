"""What a program comes to on its ground, and everything that is wrong with it, worst first."""

from __future__ import annotations

from collections import Counter
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from truing.measure.words import Words, plain
from truing.programs.faults import LOST
from truing.programs.ground import Ground
from truing.programs.motions import (
    FEED,
    LINE,
    SPEED,
    TOOL,
    Z0,
    Z1,
    Odd,
)
from truing.programs.read import Program
from truing.programs.report import LevelCut, ProgramFault, Report, Tone
from truing.programs.rules import MOST_OF_A_KIND, faults
from truing.programs.run import Mask, Progress, Run, run_of
from truing.programs.spans import whole_span
from truing.programs.timing import Drives

SHOWN_LEVELS = 12


def check(
    program: Program,
    ground: Ground,
    drives: Drives | None = None,
    progress: Progress = lambda share, line: None,
) -> Report:
    """Check a program on its ground; `progress` may raise to stop it."""
    progress(0.1, 0)
    most = 0.7 if program.without is None else 0.35
    run = run_of(
        program.motions,
        ground,
        drives,
        lambda share, line: progress(0.1 + most * share, line),
    )
    found = list(faults(program, run))
    if program.without is not None:
        seen = {(f.code, f.line) for f in found}
        other = run_of(
            program.without,
            ground,
            drives,
            lambda share, line: progress(0.45 + most * share, line),
        )
        found += [
            f.model_copy(update={"slashed": True})
            for f in faults(program, other)
            if (f.code, f.line) not in seen
        ]
    progress(0.9, 0)
    return _report(program, run, _sorted(found))


# --- the report -----------------------------------------------------------------------------------

_RANK: dict[Tone, int] = {"danger": 0, "wrong": 1, "ask": 2}


def _sorted(faults: list[ProgramFault]) -> list[ProgramFault]:
    """Worst first, then by line; of one kind no more than anybody reads, and how many more."""
    shown: list[ProgramFault] = []
    last: dict[tuple[str, bool], int] = {}
    count: Counter[tuple[str, bool]] = Counter()
    for fault in sorted(faults, key=lambda f: (_RANK[f.tone], f.line, f.code)):
        kind = (fault.code, fault.slashed)
        count[kind] += 1
        if count[kind] <= MOST_OF_A_KIND:
            last[kind] = len(shown)
            shown.append(fault)
        else:
            before = shown[last[kind]]
            more = before.more + 1 + fault.more
            shown[last[kind]] = before.model_copy(update={"more": more})
    return shown


def _levels(run: Run, cuts: Mask) -> list[LevelCut]:
    at = run.motions.at
    flat = cuts & (at[:, Z0] == at[:, Z1])
    if not flat.any():
        return []
    # an arc that stands upright dips between two ends of one height
    z, which = np.unique(np.round(run.low[flat], 3), return_inverse=True)
    length = np.bincount(which, weights=run.times.length_mm[flat])
    order = np.argsort(-length)[:SHOWN_LEVELS]
    found = [LevelCut(z_mm=float(z[i]), length_mm=float(length[i])) for i in order]
    return sorted(found, key=lambda level: -level.z_mm)


def _report(program: Program, run: Run, faults: list[ProgramFault]) -> Report:
    motions, length = run.motions, run.times.length_mm
    at, cuts = motions.at, motions.cuts
    lost = [int(o[0]) for o in motions.odd if Odd(int(o[1])) in LOST]
    known = np.isfinite(at[:, : Z1 + 1]).all(axis=1)
    low = np.where(cuts, run.low, np.nan)
    deepest = int(np.nanargmin(low)) if np.isfinite(low).any() else -1
    speeds = np.unique(np.abs(at[cuts, SPEED]))
    feeds = at[cuts, FEED]
    # of what is held for a bite: the rounding of a grid is none
    inside = float(run.swept.inside_mm[cuts & run.bit].sum(dtype=float))
    bad = [f for f in faults if f.tone != "ask"]
    verdict: Literal["sound", "faults", "incomplete"] = "faults" if bad else "sound"
    if lost and not any(f.tone == "danger" for f in faults):
        verdict = "incomplete"
    return Report(
        verdict=verdict,
        sentence=_sentence(verdict, faults, lost),
        lines=int(program.words.lines),
        motions=int(((length > 0) | (run.times.seconds > 0) | ~known).sum()),
        units=program.units,
        cutting=_extents(run, cuts),
        rapids=_extents(run, motions.rapids),
        deepest_mm=float(low[deepest]) if deepest >= 0 else None,
        deepest_line=int(motions.how[deepest, LINE]) if deepest >= 0 else 0,
        levels=_levels(run, cuts),
        feeds_mm_min=_few(feeds[np.isfinite(feeds)]),
        speeds_rev_min=_few(speeds[np.isfinite(speeds)]),
        tools=[int(t) for t in np.unique(motions.how[cuts, TOOL])][:SHOWN_LEVELS],
        seconds=float(run.times.seconds.sum()),
        cutting_mm=inside,
        air_mm=max(0.0, float(length[cuts].sum()) - inside),
        removed_mm3=run.swept.volume_mm3,
        removed=_volume(run.swept.volume_mm3),
        unknown_from=min(lost, default=0),
        faults=faults,
    )


def _extents(run: Run, of: Mask) -> list[float] | None:
    """Least X, Y, Z and most X, Y, Z of these motions (mm); None where one is nowhere known."""
    found = whole_span(run.spans, of)
    return None if found is None else [float(v) for v in (*found[::2], *found[1::2])]


def _volume(mm3: float) -> Words:
    return Words(metric=f"{mm3 / 1000:,.1f} cm³", inch=f"{mm3 / 25.4**3:,.2f} in³")


def _few(values: NDArray[Any]) -> list[float]:
    return [float(v) for v in np.unique(np.round(values, 1))[:SHOWN_LEVELS]]


def _sentence(verdict: str, faults: list[ProgramFault], lost: list[int]) -> Words:
    count = sum(f.tone == "danger" for f in faults)
    if verdict == "sound":
        asks = len(faults)
        more = f" {_things(asks, 'thing')} to look at." if asks else ""
        return plain("Nothing was found that speaks against running it, in the air first." + more)
    if count:
        first = min((f for f in faults if f.tone == "danger"), key=lambda f: f.line or 10**9)
        where = f", the first in line {first.line}" if first.line else ""
        return plain(f"Do not run it: {_things(count, 'place')} that would do harm{where}.")
    if verdict == "incomplete":
        return plain(
            f"Not everything is known from line {min(lost)} on: what it does there is not checked."
        )
    return plain(f"It would not do what is meant: {_things(len(faults), 'fault')}.")


def _things(count: int, what: str) -> str:
    return f"{count:,} {what}{'' if count == 1 else 's'}"
