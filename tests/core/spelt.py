"""Programs at random, as they are meant and as somebody may spell them, and a machine that knows
RS-274: a second reader."""

from __future__ import annotations

import cmath
import math
import random
from dataclasses import dataclass, field
from typing import Any

from truing.programs.motions import Kind

Block = list[tuple[str, float]]
PLANES = {17: (0, 1, 2), 18: (2, 0, 1), 19: (1, 2, 0)}
OFFSETS = {17: "IJ", 18: "KI", 19: "JK"}


@dataclass
class Machine:
    """What it does, block by block: `done` has (kind, from, to, centre, feed, turns)."""

    at: list[float] = field(default_factory=lambda: [0.0, 0.0, 5.0])
    scale: float = 1.0
    relative: bool = False
    plane: int = 17
    mode: float = 0
    per: int = 94
    feed: float = 600.0
    rev: float = 0.0
    to_r: bool = False
    centres: bool = False
    """Whether arcs state where their centre is, and not how far from their beginning."""
    cycle: dict[str, float] = field(default_factory=dict)
    done: list[Any] = field(default_factory=list)

    def run(self, block: Block) -> None:
        codes = [v for letter, v in block if letter == "G"]
        word = {letter: v for letter, v in block if letter not in "GM"}
        for g in codes:
            if g in (93, 94, 95):
                # a feed in another way means nothing any more; the same way again changes none
                self.feed = 0.0 if g == 93 or g != self.per else self.feed
                self.per = int(g)
            elif g in (20, 21):
                self.scale = 25.4 if g == 20 else 1.0
            elif g in (90, 91):
                self.relative = g == 91
            elif g in PLANES:
                self.plane = int(g)
            elif g in (98, 99):
                self.to_r = g == 99
            elif g != 4:
                self.mode = g
        # the standard sets units after feed; a program that changes both in a block is not written
        if "F" in word:
            self.feed = word["F"] * (1.0 if self.per == 93 else self.scale)
        self.rev = word.get("S", self.rev)
        if 4 in codes:
            self.done.append((Kind.DWELL, self.at[:], self.at[:], None, word["P"], 1))
            return
        if ("M", 0) in block or ("M", 1) in block:
            self.done.append((Kind.PAUSE, self.at[:], self.at[:], None, None, 1))
        if not word.keys() & set("XYZIJK"):
            return
        to = self.at[:]
        for i, axis in enumerate("XYZ"):
            if axis in word:
                to[i] = word[axis] * self.scale + (self.at[i] if self.relative else 0.0)
        if self.mode >= 73:
            self.drill(to, word)
        elif self.mode in (2, 3):
            self.turn(to, word)
        else:
            self.go(Kind.RAPID if self.mode == 0 else Kind.FEED, to)

    def go(self, kind: Kind, to: list[float], feed: float | None = None) -> None:
        long = math.dist(self.at, to)
        rate = self.rate(long) if feed is None else feed
        self.done.append((kind, self.at[:], to[:], None, None if kind == Kind.RAPID else rate, 1))
        self.at = to[:]

    def rate(self, long: float) -> float:
        return {93: self.feed * long, 94: self.feed, 95: self.feed * self.rev}[self.per]

    def turn(self, to: list[float], word: dict[str, float]) -> None:
        """By complex numbers in its plane."""
        p, q, o = PLANES[self.plane]
        begin, end = complex(self.at[p], self.at[q]), complex(to[p], to[q])
        ccw = self.mode == 3

        def angle(centre: complex) -> float:
            turned = cmath.phase((end - centre) / (begin - centre)) * (1 if ccw else -1)
            return turned % (2 * math.pi) or 2 * math.pi

        if "R" in word:
            r = word["R"] * self.scale
            half, chord = (begin + end) / 2, end - begin
            high = math.sqrt(max(0.0, r * r - abs(chord) ** 2 / 4))
            both = [half + s * 1j * high * chord / abs(chord) for s in (1, -1)]
            # plus R is the shorter way round, minus R the longer
            centre = (min if r > 0 else max)(both, key=angle)
        else:
            i, j = (word.get(letter, 0.0) * self.scale for letter in OFFSETS[self.plane])
            centre = complex(i, j) + (0 if self.centres else begin)
        turns = int(word.get("P", 1))
        swept = 2 * math.pi if abs(end - begin) < 1e-9 else angle(centre)
        flat = abs(begin - centre) * (swept + 2 * math.pi * (turns - 1))
        rate = self.rate(math.hypot(flat, to[o] - self.at[o]))
        kind = Kind.CCW if ccw else Kind.CW
        self.done.append((kind, self.at[:], to[:], centre, rate, turns))
        self.at = to[:]

    def drill(self, to: list[float], word: dict[str, float]) -> None:
        beside = self.at[2] if self.relative else 0.0
        if "R" in word:
            self.cycle["R"] = word["R"] * self.scale + beside
        if "Z" in word:
            below = self.cycle["R"] if self.relative else 0.0
            self.cycle["Z"] = word["Z"] * self.scale + below
        self.cycle |= {k: word[k] * (self.scale if k == "Q" else 1) for k in "QP" if k in word}
        high, low = self.cycle["R"], self.cycle["Z"]
        rate = self.rate(high - low)
        step = [to[0] - self.at[0], to[1] - self.at[1]]
        x, y = to[:2]
        for lap in range(int(word.get("L", 1))):
            if lap and self.relative:
                x, y = x + step[0], y + step[1]
            first = max(self.at[2], high)
            if self.at[2] < high:
                self.go(Kind.RAPID, [*self.at[:2], high])
            self.go(Kind.RAPID, [x, y, self.at[2]])
            self.go(Kind.RAPID, [x, y, high])
            depth = high
            pecks = self.mode in (73, 83)
            while depth > low + 1e-9:
                if depth < high:
                    # out of the way of its chips: all the way, or by a little
                    self.go(Kind.RAPID, [x, y, high if self.mode == 83 else depth + 0.25])
                    self.go(Kind.RAPID, [x, y, depth + 0.25])
                depth = max(low, depth - self.cycle["Q"]) if pecks else low
                self.go(Kind.FEED, [x, y, depth], rate)
            if self.mode in (82, 89) and self.cycle.get("P"):
                self.done.append((Kind.DWELL, self.at[:], self.at[:], None, self.cycle["P"], 1))
            if self.mode in (85, 89):
                self.go(Kind.FEED, [x, y, high], rate)
            self.go(Kind.RAPID, [x, y, high if self.to_r else first])


def written(
    rng: random.Random, *, centres: bool = False, inches: bool = False
) -> tuple[str, Machine]:
    """A program, spelt in one of many ways, and what is done by it."""
    scale = 25.4 if inches else 1.0
    machine = Machine(scale=scale, feed=600 * scale, centres=centres)
    units, arcs = "G20" if inches else "G21", " G90.1" if centres else ""
    lines = ["%", f"{units} G17 G90 G94 G54 F600{arcs}", "G0 X0 Y0 Z5"]
    machine.run([("G", 0), ("X", 0), ("Y", 0), ("Z", 5)])
    machine.done.clear()
    for number in range(rng.randrange(3, 25)):
        block = a_block(rng, machine)
        if rng.random() < 0.1:
            # not a part of what is done when the switch is on
            lines.append("/" + spelt(rng, [("G", 1), ("X", 99)], number))
        machine.run(block)
        lines.append(spelt(rng, block, number))
        if rng.random() < 0.1:
            lines.append(rng.choice(["", "(G1 X99)", "; G1 X99", " (a) (b) "]))
    return "\n".join([*lines, "M30", "%", ""]), machine


def a_block(rng: random.Random, machine: Machine) -> Block:
    def size(low: float, high: float) -> float:
        return round(rng.uniform(low, high) / machine.scale, 4)

    ways = ["line", "line", "line", "arc", "radius", "modal", "wait", "stop", "drill", "drill"]
    what = rng.choice(ways)
    if what == "modal":
        first = rng.choice([(20,), (21,), (90,), (91,), (17,), (18,), (19,), (98,), (99,), (94,)])
        more = rng.choice([(), (), (95,)]) if first[0] < 93 else ()
        # what is stated per minute or per turn begins anew with it
        speed = [("S", 1000.0), ("F", 0.25)] if more else [("F", 500.0)] if 94 in first else []
        units = first[0] in (20, 21)
        return [("G", g) for g in first + (() if units else more)] + ([] if units else speed)
    if what == "stop":
        return [("M", rng.choice([0, 1]))]
    if what == "wait":
        return [("G", 4), ("P", float(rng.choice([0.5, 2])))]
    if what == "drill" and machine.plane == 17:
        g = rng.choice([81, 82, 83, 73, 85, 89])
        high, deep, place = size(1, 3), size(4, 9), [("X", size(-20, 20)), ("Y", size(-20, 20))]
        ends = [("Z", -deep), ("R", -high if machine.relative else high)]
        more = {
            83: [("Q", size(1, 3))],
            73: [("Q", size(1, 3))],
            82: [("P", 1.5)],
            89: [("P", 2.0)],
        }
        laps = [("L", 3.0)] if rng.random() < 0.3 else []
        return [("G", g), *place, *ends, *more.get(g, []), *laps]
    if what in ("arc", "radius"):
        g = rng.choice([2, 3])
        p, q, o = PLANES[machine.plane]
        a, b, c = ("XYZ"[i] for i in (p, q, o))
        r, at = rng.uniform(2, 20), rng.uniform(0, 6.2)
        begin = complex(machine.at[p], machine.at[q])
        centre = begin - cmath.rect(r, at)
        end = centre + cmath.rect(r, at + rng.uniform(0.4, 5.8))
        went = [end.real, end.imag]
        if machine.relative:
            went = [end.real - begin.real, end.imag - begin.imag]
        words = [(a, round(went[0] / machine.scale, 4)), (b, round(went[1] / machine.scale, 4))]
        if rng.random() < 0.4:
            words.append((c, size(-3, 3)))
        if what == "radius":
            longer = rng.choice([1, -1]) * (abs(end - begin) / 2 + rng.uniform(0.5, 9))
            return [("G", g), *words, ("R", round(longer / machine.scale, 4))]
        i, j = OFFSETS[machine.plane]
        offset = (centre - (0 if machine.centres else begin)) / machine.scale
        words += [(i, round(offset.real, 4)), (j, round(offset.imag, 4))]
        if rng.random() < 0.2:
            words.append(("P", 3.0))
        return [("G", g), *words]
    axes = rng.sample("XYZ", rng.randrange(1, 4))
    words = [(axis, size(-30, 30)) for axis in axes]
    return [("G", rng.choice([0, 1, 1])), *words]


def spelt(rng: random.Random, block: Block, number: int) -> str:
    """The same words in any order that means the same, as somebody may write them."""
    codes = [w for w in block if w[0] == "G"]
    others = [w for w in block if w[0] != "G"]
    rng.shuffle(others)
    told = []
    for letter, value in codes + others:
        text = f"{value:.4f}".rstrip("0").rstrip(".")
        if 0 < abs(value) < 1 and rng.random() < 0.5:
            text = text.replace("0.", ".", 1)
        if value >= 0 and letter in "XYZIJK" and rng.random() < 0.2:
            text = "+" + text
        if letter == "G" and value < 10 and rng.random() < 0.3:
            text = "0" + text
        gap = rng.choice(["", "", " ", "\t"])
        told.append((letter.lower() if rng.random() < 0.3 else letter) + gap + text)
    line = rng.choice([" ", "", "  "]).join(told)
    line = f"N{number * 10} {line}" if rng.random() < 0.3 else line
    return line + rng.choice(["", "", " (as meant)", " ; as meant", "  "])
