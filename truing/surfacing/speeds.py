"""How fast a cutter turns and feeds in a material, and what sets the limit."""

from __future__ import annotations

import math

from pydantic import BaseModel

from truing.measure.words import Words, plain, say, show

MATERIALS: dict[str, tuple[str, float, float]] = {
    # name, surface speed (m/min), chip per tooth (mm): a beginning, the user's to change
    "mdf": ("fibre board", 2400.0, 0.15),
    "ply": ("plywood", 2100.0, 0.12),
    "softwood": ("softwood", 2400.0, 0.15),
    "hardwood": ("hardwood", 1800.0, 0.10),
    "plastic": ("plastic", 600.0, 0.08),
    "aluminium": ("aluminium", 250.0, 0.03),
    "brass": ("brass", 120.0, 0.03),
    "steel": ("mild steel", 60.0, 0.03),
}


class Speeds(BaseModel):
    """A speed and a feed, and why not more."""

    rev_per_min: float
    feed_mm_min: float
    rim_m_s: float
    rev_limit: str
    """What sets the speed: material, cutter or spindle."""
    feed_limit: str
    """What sets the feed: chip or drives."""
    words: Words


def speeds(
    material: str,
    diameter_mm: float,
    teeth: int,
    *,
    rated_rev: float = 0.0,
    spindle_rev: float = 0.0,
    chip_mm: float = 0.0,
    most_feed_mm_min: float = 0.0,
) -> Speeds:
    """Speeds for a cutter; 0 stands for what is not stated."""
    name, surface, usual = MATERIALS[material]
    limits = {name: surface * 1000 / (math.pi * diameter_mm)}
    if rated_rev:
        limits["the cutter’s rated speed"] = rated_rev
    if spindle_rev:
        limits["the spindle"] = spindle_rev
    why = min(limits, key=lambda k: limits[k])
    rev = limits[why]
    # a round figure, never above the limit
    step = 10 ** max(0, math.floor(math.log10(rev)) - 1)
    rev = max(1.0, math.floor(rev / step) * step)
    chip = chip_mm or usual
    feed, held = rev * teeth * chip, "the chip"
    if most_feed_mm_min and most_feed_mm_min < feed:
        feed, held = most_feed_mm_min, "what the drives have proven"
    feed = max(1.0, math.floor(feed / 10) * 10 if feed > 100 else math.floor(feed))
    rim = math.pi * diameter_mm / 1000 * rev / 60
    return Speeds(
        rev_per_min=rev,
        feed_mm_min=feed,
        rim_m_s=rim,
        rev_limit=why,
        feed_limit=held,
        words=say(
            "{rev} rev/min, set by {why}; {feed}, set by {held}. Its rim runs at {rim}.",
            rev=f"{rev:,.0f}",
            why=why,
            feed=show(feed, 10 if feed > 100 else 1, "feed"),
            held=held,
            rim=plain(f"{rim:.0f} m/s"),
        ),
    )
