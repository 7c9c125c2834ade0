"""Jobs to begin with, from the shed's own world, and an empty one."""

from __future__ import annotations

from truing.jobs.features import Engraving, Face, Hole, Job, Outline, SmallCutter, Thickness, Wall


def starting_jobs() -> list[Job]:
    """What the list of jobs offers to begin with."""
    return [
        Job(
            name="Clock plate",
            material="brass",
            features=[
                Face(
                    name="its face",
                    x_mm=90,
                    y_mm=60,
                    cutter_mm=32,
                    stepover_mm=22,
                    flat_tol_mm=0.03,
                ),
                Outline(name="pivot holes", x_mm=62, y_mm=38, square_tol_mm=0.03, size_tol_mm=0.06),
                Hole(
                    name="bushes",
                    depth_mm=3,
                    upright_tol_mm=0.005,
                    place_tol_mm=0.05,
                    size_tol_mm=0.03,
                ),
            ],
        ),
        Job(
            name="Tide dial",
            material="engraver’s brass",
            features=[
                Engraving(
                    name="hours and tides", x_mm=150, y_mm=150, depth_mm=0.15, line_tol_mm=0.06
                ),
                SmallCutter(name="fine lettering", diameter_mm=0.8, chip_mm=0.008, over=0.5),
                Outline(name="rim", x_mm=150, y_mm=150, size_tol_mm=0.2),
            ],
        ),
        Job(
            name="Bored bracket",
            material="aluminium",
            features=[
                Thickness(name="its foot", x_mm=80, y_mm=50, thick_tol_mm=0.03),
                Wall(
                    name="upright side",
                    depth_mm=30,
                    level_mm=6,
                    flute_mm=20,
                    length_mm=80,
                    held="table",
                    upright_tol_mm=0.03,
                ),
                Hole(
                    name="the bore",
                    depth_mm=35,
                    cutter="boring",
                    upright_tol_mm=0.015,
                    place_tol_mm=0.05,
                ),
            ],
        ),
    ]
