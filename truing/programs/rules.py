"""Everything that can be wrong with a program that was run, rule by rule."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from truing.measure.words import Words, join, plain, say, show
from truing.programs.faults import odd_words, trouble_words
from truing.programs.ground import Ground
from truing.programs.motions import (
    CYCLE,
    FEED,
    FLAGS,
    HIGH,
    KIND,
    LINE,
    RELATIVE,
    SPEED,
    TOOL,
    X0,
    X1,
    Y0,
    Y1,
    Z0,
    Z1,
    Kind,
    Odd,
)
from truing.programs.read import Program
from truing.programs.report import ProgramFault, Tone
from truing.programs.run import TOUCHES_MM, Mask, Run
from truing.programs.spans import whole_span
from truing.programs.sweep import steep_drop

ROUNDED_MM = 0.002
"""What the digits of a program may be off."""
MOST_OF_A_KIND = 20
NEAR = 3
"""Motions apart at which two faults of a kind are one slip."""
AT_ONCE = 0.2
"""Of the time that a spindle takes: a cut that begins before that meets one that hardly turns."""
MM_PER_INCH = 25.4
FAR = 3.0
"""Times the board: no program goes on so far by what it means."""
FITS = 1.5
"""Times the board: what is no larger than that, in another unit, was meant in it."""


def faults(program: Program, run: Run) -> Iterator[ProgramFault]:
    """What is wrong with it, rule after rule."""
    for line, column, what, byte in program.words.trouble:
        yield ProgramFault(
            code="unreadable",
            tone="wrong",
            line=int(line),
            text=trouble_words(int(column), int(what), int(byte)),
        )
    for line, what, value in run.motions.odd:
        odd = Odd(int(what))
        if odd == Odd.MALFORMED:
            continue
        tone, text = odd_words(odd, float(value))
        yield ProgramFault(code=odd.name.lower(), tone=tone, line=int(line), text=text)
    for rule in (_tools, _rapids, _cuts, _spindle, _speeds, _limits, _upright, _end):
        yield from rule(run)
    yield from _units(program, run)


def _at(
    run: Run, which: Mask, code: str, tone: Tone, text: Callable[[int], Words]
) -> list[ProgramFault]:
    """A fault for each motion of a mask, the first few one by one."""
    found = np.flatnonzero(which)
    # the same slip goes on in the motions after it
    begins = np.flatnonzero(np.diff(found, prepend=-NEAR - 1) > NEAR)[:MOST_OF_A_KIND]
    counts = np.diff(begins, append=len(found))
    faults: list[ProgramFault] = []
    for k, count in zip(found[begins], counts, strict=True):
        x, y = run.motions.at[k, X1], run.motions.at[k, Y1]
        known = np.isfinite(x) and np.isfinite(y)
        faults.append(
            ProgramFault(
                code=code,
                tone=tone,
                line=int(run.motions.how[k, LINE]),
                text=_by_distances(run, int(k), tone, text(int(k))),
                x_mm=float(x) if known else None,
                y_mm=float(y) if known else None,
                more=int(count) - 1,
            )
        )
    return faults


def _by_distances(run: Run, k: int, tone: Tone, text: Words) -> Words:
    """Where distances are on, harm is often that of places that were meant."""
    if tone != "danger" or not run.motions.how[k, FLAGS] & RELATIVE:
        return text
    return join([text, plain("Distances (G91) are on here: were places meant?")])


def _tools(run: Run) -> Iterator[ProgramFault]:
    """Tools that nobody has described, where there is more than one, or a table."""
    cuts, numbers = run.motions.cuts, run.motions.how[:, TOOL]
    used = np.unique(numbers[cuts])
    if len(used) < 2 and not run.ground.tools:
        return
    for tool in used[:MOST_OF_A_KIND]:
        if int(tool) in run.ground.tools:
            continue
        yield from _at(
            run,
            _first(cuts & (numbers == tool)),
            "tool",
            "ask",
            lambda k, tool=tool: say(  # type: ignore[misc]
                "It cuts with T{t}, which is not in the table of tools: it is taken for the usual "
                "one, {d} across."
                if tool
                else "It cuts before it has named a tool: that is taken for the usual one, {d} "
                "across.",
                t=str(int(tool)),
                d=show(run.ground.cutter.diameter_mm, 0.01),
            ),
        )


def _rapids(run: Run) -> Iterator[ProgramFault]:
    at, ground = run.motions.at, run.ground
    rapid = run.motions.rapids
    flags = run.motions.how[:, FLAGS]
    cycle = (flags & CYCLE) > 0
    up = (at[:, Z1] >= at[:, Z0]) & ~run.sideways
    near = run.over(ground.board, run.of_cutters("diameter_mm") / 2)
    hits = rapid & run.bit & ~up & ~(cycle & ~run.sideways)
    # what runs into a thing is told of that
    hits &= ~_collides(run)
    # from a height that is not known, down to below the face
    blind = rapid & ~np.isfinite(run.low) & run.sideways & near & ((flags & HIGH) == 0)
    into = rapid & ~run.sideways & np.isnan(at[:, Z0]) & (at[:, Z1] < ground.highest_mm) & near
    into &= ~run.bit
    yield from _at(
        run,
        hits & run.sideways,
        "rapid_through",
        "danger",
        lambda k: say(
            "A rapid goes sideways through material, {d} deep.", d=_deep(run.bites_mm[k])
        ),
    )
    yield from _at(
        run,
        (hits & ~run.sideways) | into,
        "rapid_into",
        "danger",
        lambda k: say("A rapid goes down into the work, to {z}.", z=_z(at[k, Z1])),
    )
    low = rapid & run.sideways & near & ~hits & (run.low < ground.safe - ROUNDED_MM)
    yield from _at(
        run,
        low & ~_collides(run),
        "rapid_low",
        "danger",
        lambda k: say(
            "A rapid goes sideways at {z}, below the {safe} that is safe here.",
            z=_z(run.low[k]),
            safe=_z(ground.safe),
        ),
    )
    # distances that were left on are named by themselves
    if (run.motions.odd[:, 1] == Odd.BLIND).any():
        return
    yield from _at(
        run,
        _first(blind),
        "rapid_blind",
        "danger",
        lambda k: plain("A rapid goes sideways while its height is not known."),
    )


def _collides(run: Run) -> Mask:
    """Rapids that run into something in the way; straight up they only leave it."""
    at = run.motions.at
    if run.trespass is None:
        return np.zeros(len(at), np.bool_)
    up = (at[:, Z1] >= at[:, Z0]) & ~run.sideways
    return run.motions.rapids & ~up & (run.trespass > TOUCHES_MM)


def _cuts(run: Run) -> Iterator[ProgramFault]:
    at, how, ground = run.motions.at, run.motions.how, run.ground
    cuts = run.motions.cuts
    deep = run.bites_mm
    typical = float(np.median(deep[cuts & run.bit])) if (cuts & run.bit).any() else 0.0
    drills, plunges = run.of_cutters("drill"), run.of_cutters("plunges")
    stated = run.of_cutters("depth_mm")
    most = np.where(stated > 0, 1.5 * stated + 0.05, 3 * typical + 1.0)
    yield from _at(
        run,
        cuts & (deep > most) & ~drills,
        "bite",
        "danger",
        lambda k: say(
            "It bites {d} deep at once, far more than {usual}. Was a decimal lost?",
            d=_deep(deep[k]),
            usual=(
                say("the {d} that the cutter takes", d=show(run.cutter_at(k).depth_mm, 0.01))
                if run.cutter_at(k).depth_mm
                else say("the usual {d}", d=_deep(typical))
            ),
        ),
    )
    slot = cuts & (deep > 2 * run.of_cutters("diameter_mm")) & (deep <= most)
    yield from _at(
        run,
        slot & ~plunges,
        "slot",
        "ask",
        lambda k: say(
            "It cuts {d} deep in one pass, more than twice as deep as the cutter is wide.",
            d=_deep(deep[k]),
        ),
    )
    yield from _at(
        run,
        _first(cuts & ~np.isfinite(run.low) & ((how[:, FLAGS] & HIGH) > 0)),
        "cut_blind",
        "wrong",
        lambda k: plain("It cuts while its height is not known: state Z first."),
    )
    down = at[:, Z0] - at[:, Z1]
    run_mm = np.hypot(at[:, X1] - at[:, X0], at[:, Y1] - at[:, Y0])
    # of an arc its way round
    arcs = cuts & (how[:, KIND] >= Kind.CW)
    run_mm[arcs] = np.sqrt(np.maximum(run.times.length_mm[arcs] ** 2 - down[arcs] ** 2, 0.0))
    steep = np.zeros(len(at), np.bool_)
    for part in run.parts:
        if part.cutter.plunges:
            continue
        ramp = float(np.tan(np.radians(part.cutter.ramp_deg)))
        here = slice(part.first, part.end)
        steep[here] = (down[here] > run_mm[here] * ramp + 1e-6) & (down[here] > TOUCHES_MM)
        steep[here] |= steep_drop(part.of(run.motions), ramp, ground.highest_mm) > TOUCHES_MM
    yield from _at(
        run,
        cuts & run.bit & steep,
        "plunge",
        "danger",
        lambda k: say(
            "It plunges {d} into material; this cutter has to come down a ramp, or from outside.",
            d=_deep(deep[k]),
        ),
    )
    yield from _met(run)
    if ground.floor_mm is not None:
        floor = ground.floor_mm
        yield from _at(
            run,
            cuts & run.over(ground.board, 0.0) & (run.low - ground.lean_mm < floor - ROUNDED_MM),
            "floor",
            "danger",
            lambda k: say(
                "It cuts to {z}, {d} below what has to stay.",
                z=_z(run.low[k]),
                d=_deep(floor - run.low[k] + ground.lean_mm),
            ),
        )


def _met(run: Run) -> Iterator[ProgramFault]:
    """What runs too near to something in the way, or right into it."""
    at, ground = run.motions.at, run.ground
    if run.trespass is None:
        return
    deep = run.trespass
    yield from _at(
        run,
        (deep > TOUCHES_MM) & ~run.motions.rapids,
        "keep_out",
        "danger",
        lambda k: say(
            "It runs {d} too deep past {what}.", d=_deep(deep[k]), what=_nearest(ground, at[k])
        ),
    )
    yield from _at(
        run,
        _collides(run),
        "collision",
        "danger",
        lambda k: say(
            "A collision: a rapid runs into {what}, {d} too low.",
            d=_deep(deep[k]),
            what=_nearest(ground, at[k]),
        ),
    )


def _nearest(ground: Ground, row: NDArray[np.float64]) -> str:
    import shapely

    line = shapely.LineString([(row[X0], row[Y0]), (row[X1], row[Y1])])
    never = [k for k in ground.kept if not k.may_meet]
    return min(never, key=lambda k: k.shape.distance(line)).name


def _spindle(run: Run) -> Iterator[ProgramFault]:
    at, ground = run.motions.at, run.ground
    cuts = run.motions.cuts & run.bit
    if not cuts.any():
        return
    first = int(np.flatnonzero(cuts)[0])
    if ground.by_hand:
        if not (run.motions.how[:first, KIND] == Kind.PAUSE).any():
            yield from _at(
                run,
                _only(run, first),
                "no_pause",
                "wrong",
                lambda k: plain(
                    "It cuts without a stop (M0) before, at which the spindle is switched on."
                ),
            )
        return
    off = cuts & ~(at[:, SPEED] > 0)
    backward = off & (at[:, SPEED] < 0)
    yield from _at(
        run,
        _first(off & ~backward),
        "spindle_off",
        "danger",
        lambda k: plain("It cuts while the spindle stands still (M3 and a speed are missing)."),
    )
    yield from _at(
        run,
        _first(backward),
        "spindle_backward",
        "danger",
        lambda k: plain("It cuts while the spindle turns the wrong way (M4)."),
    )
    turning = at[:, SPEED] > 0
    started = turning & ~np.concatenate([[False], turning[:-1]])
    # at the least, where nobody said how fast the machine goes by itself
    feed = np.where(at[:, FEED] > 0, at[:, FEED], np.inf) / 60
    least = np.where(run.motions.cuts, run.times.length_mm / feed, 0.0)
    dwells = run.motions.how[:, KIND] == Kind.DWELL
    least[dwells] = run.times.seconds[dwells]
    lasts = run.times.seconds if run.rates_known else least
    since = np.concatenate([[0.0], np.cumsum(lasts)])
    # of a rapid from a place that is not known nobody knows either
    goes = run.motions.rapids & (run.sideways | (run.times.length_mm > 0))
    if run.rates_known:
        goes &= run.times.length_mm == 0
    between = np.concatenate([[0], np.cumsum(goes)])
    which = np.flatnonzero(cuts)
    begun = np.flatnonzero(started)
    after = np.searchsorted(which, begun)
    begun, after = begun[after < len(which)], which[after[after < len(which)]]
    early = since[after] - since[begun] < ground.spin_up_s - 1e-6
    for k, cut in list(zip(begun[early], after[early], strict=True))[:MOST_OF_A_KIND]:
        waited = float(since[cut] - since[k])
        told = bool(between[cut] > between[k])
        at_once = waited < AT_ONCE * ground.spin_up_s and not told
        yield from _at(
            run,
            _only(run, int(cut)),
            "spin_up",
            "danger" if at_once else "ask",
            lambda k, waited=waited, told=told: plain(  # type: ignore[misc]
                f"It may cut {waited:.1f} s after the spindle was switched on, which takes "
                f"{ground.spin_up_s:g} s to come up to speed"
                + (", and how long its rapids take is not known" if told else "")
                + ". A wait (G4) makes sure."
            ),
        )


def _only(run: Run, k: int) -> Mask:
    found = np.zeros(len(run.motions.at), bool)
    found[k] = True
    return found


def _first(which: Mask) -> Mask:
    found = np.zeros(len(which), bool)
    found[np.flatnonzero(which)[:1]] = True
    return found


def _speeds(run: Run) -> Iterator[ProgramFault]:
    at, ground = run.motions.at, run.ground
    cuts = run.motions.cuts
    yield from _at(
        run,
        _first(cuts & ~(at[:, FEED] > 0)),
        "no_feed",
        "wrong",
        lambda k: plain("It cuts before a feed is set (F)."),
    )
    if ground.most_feed_mm_min:
        yield from _at(
            run,
            _first(cuts & (at[:, FEED] > ground.most_feed_mm_min * 1.0001)),
            "feed",
            "wrong",
            lambda k: say(
                "It feeds at {v}; {most} is what the drives are good for.",
                v=show(at[k, FEED], 1, "feed"),
                most=show(ground.most_feed_mm_min, 1, "feed"),
            ),
        )
    rated = run.of_cutters("rated_rev_per_min")
    most = np.where(rated > 0, rated, np.inf)
    if ground.most_rev_per_min > 0:
        most = np.minimum(most, ground.most_rev_per_min)
    # the first of each stretch with one cutter
    fast = np.flatnonzero(np.abs(at[:, SPEED]) > most * 1.0001)
    begins = np.searchsorted([part.end for part in run.parts], fast, side="right")
    for k in fast[np.unique(begins, return_index=True)[1]][:MOST_OF_A_KIND]:
        yield from _at(
            run,
            _only(run, int(k)),
            "speed",
            "danger",
            lambda k: plain(
                f"It turns at {abs(at[k, SPEED]):.0f} rev/min; cutter and spindle are good for "
                f"{float(np.broadcast_to(most, len(at))[k]):.0f}."
            ),
        )


def _limits(run: Run) -> Iterator[ProgramFault]:
    reach = run.ground.reach
    if reach is None:
        return
    slack = 0.01
    furthest = []
    out = np.zeros(len(run.motions.at), np.bool_)
    for axis in (0, 1):
        low, high = run.spans[:, 2 * axis], run.spans[:, 2 * axis + 1]
        before, beyond = low < reach[axis] - slack, high > reach[2 + axis] + slack
        out |= before | beyond
        ends = run.motions.at[:, 3 + axis]
        furthest.append(np.where(beyond, high, np.where(before, low, ends)))
    yield from _at(
        run,
        _first(out),
        "reach",
        "danger",
        lambda k: say(
            "It runs to {x}, {y}, further than the machine reaches from this origin.",
            x=_z(furthest[0][k]),
            y=_z(furthest[1][k]),
        ),
    )


def _upright(run: Run) -> Iterator[ProgramFault]:
    """Beyond what the spindle goes up or down."""
    ground = run.ground
    high = run.spans[:, 5]
    out = np.zeros(len(high), np.bool_)
    if ground.low_mm is not None:
        out |= run.low < ground.low_mm - ROUNDED_MM
    if ground.high_mm is not None:
        out |= high > ground.high_mm + ROUNDED_MM
    yield from _at(
        run,
        _first(out),
        "reach_z",
        "danger",
        lambda k: say(
            "It goes to {z}, further than the machine goes up or down from this zero.",
            z=_z(
                high[k] if ground.high_mm is not None and high[k] > ground.high_mm else run.low[k]
            ),
        ),
    )


def _units(program: Program, run: Run) -> Iterator[ProgramFault]:
    """Whether its figures look like those of another unit than the one that it states."""
    at = run.motions.at
    cuts = run.motions.cuts
    box = whole_span(run.spans, cuts)
    if box is None:
        return
    size = float(max(box[1] - box[0], box[3] - box[2]))
    left, front, right, rear = run.ground.board
    room = max(right - left, rear - front)
    times = size / room
    deep = run.ground.highest_mm - float(box[4])
    feeds = at[cuts, FEED]
    text = None
    if times > FAR:
        meant = "look at its units, and at the work that it is for."
        if program.units == "inch" and times / MM_PER_INCH < FITS:
            meant = "was millimetre meant, and inch stated?"
        elif times > 100 and times / 1000 < FITS:
            meant = "were thousandths of a millimetre meant?"
        text = f"It is {times:,.3g} times as large as the board: {meant}"
    elif program.units != "inch":
        slow = np.nanmax(feeds, initial=0.0) < 120
        if 0 < times < 1 / 12 and 0 < deep < 0.2 and slow:
            text = "All of it is small, shallow and slow: was inch meant, and millimetre stated?"
    if text:
        yield ProgramFault(code="units", tone="danger", line=0, text=plain(text))


def _end(run: Run) -> Iterator[ProgramFault]:
    at = run.motions.at
    moves = np.flatnonzero(run.motions.how[:, KIND] <= Kind.CCW)
    if not len(moves):
        return
    last = int(moves[-1])
    if at[last, Z1] < run.ground.safe - ROUNDED_MM:
        yield from _at(
            run,
            _only(run, last),
            "no_retract",
            "wrong",
            lambda k: say("It ends at {z} without going up first.", z=_z(at[k, Z1])),
        )
    for line, what, value in run.motions.odd:
        if int(what) == Odd.NO_END and value:
            text = plain("It ends while the spindle turns (M5 or M30 is missing).")
            yield ProgramFault(code="no_stop", tone="wrong", line=int(line), text=text)


def _deep(value: float) -> Words:
    return show(float(value), 0.01)


def _z(value: float) -> Words:
    return show(float(value), 0.01, unit=True)
