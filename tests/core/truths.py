"""What there really is to find on the machines that the kinds are played on, and what of it each of
them should tell."""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy.optimize import linprog

from tests.core.helpers import about, known
from truing.kit.instruments import (
    FeelerBlades,
)
from truing.machine import Machine
from truing.standin.truth import (
    BoardTruth,
    FaceTruth,
    FootTruth,
    GantryTruth,
    PieceTruth,
    RailsTruth,
    SlideTruth,
    SpindleTruth,
    SquareTruth,
    StandTruth,
    TaperTruth,
    ToolingTruth,
    TravelTruth,
    Truth,
)

Rng = np.random.Generator


# --- tram -----------------------------------------------------------------------------------------


def tram_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    return Truth(
        head_about_y_mrad=rng.normal(0, 0.7),
        head_about_x_mrad=rng.normal(0, 0.4),
        base_about_x_mrad=rng.normal(0, 0.4),
        base_about_y_mrad=rng.normal(0, 0.3),
        beam_twist_mrad_per_m=rng.normal(0, 0.6) if machine.gantry else 0.0,
        tap_gain=rng.uniform(0.85, 1.15),
        tighten_about_y_mrad=rng.normal(0, 0.02),
    )


def tram_known(truth: Truth, setup: Any) -> dict[str, float]:
    found = {}
    for x in setup.along_beam_mm or [0.0]:
        axis = truth.axis(x) / truth.axis(x)[2] * 1000
        at = f"@{x:g}" if setup.along_beam_mm else ""
        found |= {f"lean_x{at}": float(axis[0]), f"nod{at}": float(axis[1])}
    return found


def ridge_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    """A head that leans to one side, and a nod that no head takes out: small where it should be."""
    nods = 0.02 if machine.head and setup.way == "step" else 0.4
    return Truth(
        head_about_y_mrad=rng.normal(0, 0.6),
        head_about_x_mrad=rng.normal(0, nods),
        tap_gain=rng.uniform(0.85, 1.15),
    )


def ridge_known(truth: Truth, setup: Any) -> dict[str, float]:
    axis = truth.axis() / truth.axis()[2] * 1000
    return {"lean_x": float(axis[0]), "nod": float(axis[1])}


def cut_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    return Truth(
        slides={
            d: SlideTruth(links_mm={"nut": rng.uniform(0.0, 0.12)})
            for d in ("left_right", "front_back")
        },
        gantry=GantryTruth(
            right_ahead_mm=rng.normal(0, 0.3),
            scale_x=1 + rng.normal(0, 5e-4),
            scale_y=1 + rng.normal(0, 5e-4),
        ),
        travel=TravelTruth(top_x_mm_per_m=rng.normal(0, 0.2), top_y_mm_per_m=rng.normal(0, 0.2)),
        cutter_over_mm=rng.normal(0, 0.03),
        head_about_y_mrad=rng.normal(0, 0.1),
    )


def cut_known(truth: Truth, setup: Any) -> dict[str, float]:
    gantry = truth.gantry
    known = {
        "square": gantry.right_ahead_mm / (gantry.right_x_mm - gantry.left_x_mm) * 1000,
    }
    if setup.hole:
        known |= {
            "lost_x": truth.slide("left_right").links_mm["nut"],
            "lost_y": truth.slide("front_back").links_mm["nut"],
            "scale_x": (gantry.scale_x - 1) * 1000,
            "scale_y": (gantry.scale_y - 1) * 1000,
            "cutter": truth.cutter_over_mm,
        }
    return known


TRAM = {"radius_mm": 115, "radius_u_mm": 1.0}
BLADES = FeelerBlades(blade_step_mm=0.002, repeatability_mm=0.001)

# --- stand and slides -----------------------------------------------------------------------------


def stand_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    assert machine.feet
    feet = [
        FootTruth(name=f.name, x_mm=f.x_mm, y_mm=f.y_mm, out_mm=rng.normal(0, 0.1))
        for f in machine.feet.places
    ]
    stand = StandTruth(feet=feet, give=rng.uniform(0.7, 1.0))
    return Truth(stand=stand, level_error_mm_per_m=rng.normal(0, 0.05))


def stand_known(truth: Truth, setup: Any) -> dict[str, float]:
    """Twist as the change of slope from one end of a square in the middle to the other."""

    def z(x: float, y: float) -> float:
        return truth.stand.surface_mm(x, y)

    twist = (z(50, 50) - z(50, -50)) - (z(-50, 50) - z(-50, -50))
    return {
        "twist": twist / 0.1**2,
        "slope_x": (z(50, 0) - z(-50, 0)) / 0.1,
        "slope_y": (z(0, 50) - z(0, -50)) / 0.1,
    }


def slide_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    slide = SlideTruth(
        travel_mm=300,
        clearance_mm=rng.uniform(0.012, 0.08),
        wear_mm=rng.uniform(0, 0.003),
    )
    return Truth(slides={setup.slide: slide})


def slide_known(truth: Truth, setup: Any) -> dict[str, float]:
    # the worst of several places reads a little high; wear makes the middle the worst place
    slide = truth.slide(setup.slide)
    return {"play": slide.clearance_mm + slide.wear_mm}


def gib_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    return Truth(slides={setup.slide: SlideTruth(taper_mm_per_m=rng.uniform(15, 30))})


def gib_known(truth: Truth, setup: Any) -> dict[str, float]:
    return {"taper": truth.slide(setup.slide).taper_mm_per_m}


# --- rails ----------------------------------------------------------------------------------------


def rail_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    assert machine.rails
    at = [0.0, *setup.places_mm, machine.rails.length_mm]
    n = len(at)
    return Truth(
        rails=RailsTruth(
            at_mm=at,
            side_mm=list(rng.normal(0, 0.06, n)),
            second_mm=list(rng.normal(0, 0.06, n)),
            first_up_mm=list(rng.normal(0, 0.1, n)),
            second_up_mm=list(rng.normal(0, 0.1, n)),
            apart_mm=machine.rails.apart_mm,
            edge_bow_mm=rng.normal(0, 0.03) if getattr(setup, "way", "") == "reversal" else 0.0,
        )
    )


def rail_level_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    """Rails, and a level that is off by itself."""
    found = rail_truth(rng, machine, setup)
    return found.model_copy(update={"level_error_mm_per_m": rng.normal(0, 0.3)})


def rail_slope_known(truth: Truth, setup: Any) -> dict[str, float]:
    """The slope through the ends; straightness is highest less lowest, which noise only adds to."""
    rails = truth.rails
    values = rails.side_mm if setup.plane == "side" else rails.first_up_mm
    low, high = setup.places_mm[0], setup.places_mm[-1]
    rise = rails.along(values, high) - rails.along(values, low)
    return {"slope": rise / (high - low) * 1000}


def parallel_known(truth: Truth, setup: Any) -> dict[str, float]:
    x = np.array(setup.places_mm)
    y = np.array([truth.rails.along(truth.rails.second_mm, v) for v in x])
    return {"taper": float(np.cov(x, y)[0, 1] / np.var(x, ddof=1) * (x[-1] - x[0]))}


def twist_known(truth: Truth, setup: Any) -> dict[str, float]:
    rails = truth.rails
    if setup.way == "stations":
        # between which two parallel planes, as near each other as can be, do all places lie?
        at = [(x, y) for y in (0.0, setup.apart_mm) for x in setup.places_mm]
        z = [
            rails.along(values, x)
            for values in (rails.first_up_mm, rails.second_up_mm)
            for x in setup.places_mm
        ]
        rows = [[sign * v for v in (x, y, 1.0)] + [-1.0] for sign in (1, -1) for x, y in at]
        bounds = [(None, None)] * 4
        best = linprog([0, 0, 0, 1], rows, [*z, *(-v for v in z)], bounds=bounds)
        return {"twist": 2 * best.fun}
    margin = (rails.at_mm[-1] - setup.length_mm) / 2
    low, high = margin, rails.at_mm[-1] - margin
    one, two = rails.first_up_mm, rails.second_up_mm
    b = rails.along(two, low) + rails.along(one, high)
    a = rails.along(one, low) + rails.along(two, high)
    return {"twist": (b - a) / 2}


# --- drive ----------------------------------------------------------------------------------------


def drive_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    links = {
        "nut": rng.uniform(0.02, 0.12),
        "bearing": rng.uniform(0.0, 0.08),
        "coupling": rng.uniform(0.0, 0.004),
    }
    slide = SlideTruth(travel_mm=300, links_mm=links, worn_screw_mm=rng.uniform(0, 0.002))
    return Truth(slides={setup.slide: slide})


def drive_known(truth: Truth, setup: Any) -> dict[str, float]:
    slide = truth.slide(setup.slide)
    total = sum(slide.links_mm.values())
    at = [total - slide.worn_screw_mm * (2 * p / slide.travel_mm) ** 2 for p in setup.places_mm]
    return {"mean": sum(at) / len(at), "share:bearing": slide.links_mm["bearing"]}


def block_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    blocks = {f"{e}{w}": rng.uniform(-0.3, 0.3) for e in (0, 1) for w in "vh"}
    return Truth(slides={setup.slide: SlideTruth(blocks_mm=blocks)})


def block_known(truth: Truth, setup: Any) -> dict[str, float]:
    return truth.slide(setup.slide).blocks_mm


def motor_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    tight = float(rng.choice([-95.0, 95.0])) if rng.random() < 0.3 else None
    ramps = setup.ladder == "accel"
    slide = SlideTruth(
        # accelerations are raised at a feed that is proven
        stalls_above_mm_per_min=rng.uniform(6000 if ramps else 1500, 9000),
        stalls_above_mm_per_s2=rng.uniform(500, 4500) if ramps else 2000,
        tight_at_mm=tight,
    )
    return Truth(slides={setup.slide: slide})


def faults(rng: Rng, machine: Machine, setup: Any) -> Truth:
    picked = rng.choice(setup.places, size=2, replace=False)
    return Truth(faults={str(k): str(rng.choice(["list", "danger", "mended"])) for k in picked})


def travels(truth: Truth, setup: Any) -> dict[str, float]:
    return {f"travel:{d}": truth.slide(d).travel_mm for d in setup.directions}


def all_told(truth: Truth, setup: Any, finding: Any) -> None:
    assert {s.station: s.grade for s in [*finding.open, *finding.mended]} == truth.faults
    assert all(s.grade != "mended" for s in finding.open)


def no_returns(truth: Truth, setup: Any) -> dict[str, float]:
    return {"return": 0.0}


def not_too_much(truth: Truth, setup: Any, finding: Any) -> None:
    slide = truth.slide(setup.slide)
    ramps = setup.ladder == "accel"
    most = slide.stalls_above_mm_per_s2 if ramps else slide.stalls_above_mm_per_min
    holds = most * (1.0 if slide.tight_at_mm is None else 0.6)
    if finding.recommended is not None:
        assert finding.recommended <= finding.proven <= holds
        assert finding.recommended <= 0.5 * max(holds + setup.step, setup.top)
    if finding.fails is not None:
        assert finding.fails > holds * 0.95
        assert finding.fails - (finding.proven or 0.0) <= 2 * setup.step


def lift_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    lift = machine.lift
    assert lift is not None
    return Truth(
        gantry=GantryTruth(
            left_x_mm=lift.left_x_mm,
            right_x_mm=lift.right_x_mm,
            left_up_mm=rng.normal(0, 0.2),
            right_up_mm=rng.normal(0, 0.4),
            bed_bow_mm=rng.normal(0, 0.05),
        )
    )


def lift_known(truth: Truth, setup: Any) -> dict[str, float]:
    return {"level": truth.gantry.right_up_mm - truth.gantry.left_up_mm}


def skew_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    drive = machine.gantry_drive
    assert drive is not None
    return Truth(
        gantry=GantryTruth(
            left_x_mm=drive.left_x_mm,
            right_x_mm=drive.right_x_mm,
            right_ahead_mm=rng.normal(0, 0.8),
            scale_x=1 + rng.normal(0, 2e-4),
            scale_y=1 + rng.normal(0, 2e-4),
        )
    )


def skew_known(truth: Truth, setup: Any) -> dict[str, float]:
    gantry = truth.gantry
    found = {"square": gantry.right_ahead_mm / (gantry.right_x_mm - gantry.left_x_mm) * 1000}
    if setup.sides:
        found |= {"scale_x": (gantry.scale_x - 1) * 1000, "scale_y": (gantry.scale_y - 1) * 1000}
    return found


def face_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    face = FaceTruth(
        near_mm=rng.normal(0, 0.2),
        angle_rad=rng.normal(0, 2e-3),
        bow_mm=rng.normal(0, 0.002),
        pivot_mm=setup.pivot_mm + rng.normal(0, 0.05) * setup.face_mm,
    )
    return Truth(faces={setup.subject.key: face}, tap_gain=rng.uniform(0.85, 1.15))


def face_known(truth: Truth, setup: Any) -> dict[str, float]:
    face = truth.face(setup.subject.key)
    # a bow leans nowhere where the places are even about the middle
    at = np.array(sorted(setup.places_mm))
    seen = [face.nearer_mm(float(x), setup.face_mm) for x in at]
    return {"face": float(np.polyfit(at, seen, 1)[0]) * 1000}


def top_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    travel = TravelTruth(
        top_x_mm_per_m=rng.normal(0, 0.05),
        top_y_mm_per_m=rng.normal(0, 0.05),
        top_twist_mm_per_m2=rng.normal(0, 0.1),
    )
    return Truth(travel=travel)


def top_known(truth: Truth, setup: Any) -> dict[str, float]:
    t = truth.travel
    # the angle between the top's normal and each travel, short of a right one
    normal = np.array([0.0, 0.0, 1.0])
    ways = {"slope_x": t.right(), "slope_y": t.rear()}
    return {
        key: float(-np.arcsin(normal @ way / np.linalg.norm(way))) * 1000
        for key, way in ways.items()
        if setup.way in ("grid", f"along_{key[-1]}")
    }


def play_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    spindle = SpindleTruth(
        play_across_mm=rng.uniform(0, 0.04),
        play_along_mm=rng.uniform(0, 0.04),
        warms_mm=0.002,
    )
    return Truth(turning=spindle)


def play_known(truth: Truth, setup: Any) -> dict[str, float]:
    s = truth.turning
    closes = s.warms_mm if setup.way == "warm" else 0.0
    return {
        "radial": max(0.0, s.play_across_mm - closes),
        "axial": max(0.0, s.play_along_mm - closes),
    }


def runout_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    seated_twice = len(setup.turned) > 1
    bar = {k: rng.normal(0, 0.004) for k in ("bar_x_mm", "bar_y_mm")} if seated_twice else {}
    spindle = SpindleTruth(
        off_x_mm=rng.normal(0, 0.004),
        off_y_mm=rng.normal(0, 0.004),
        tilt_x_mm_per_m=rng.normal(0, 0.05),
        tilt_y_mm_per_m=rng.normal(0, 0.05),
        oval_mm=rng.normal(0, 0.002) if setup.way == "angles" else 0.0,
        **bar,
    )
    return Truth(turning=spindle)


def runout_known(truth: Truth, setup: Any) -> dict[str, float]:
    s = truth.turning

    def at(z: float) -> float:
        x = s.off_x_mm + s.tilt_x_mm_per_m * z / 1000
        y = s.off_y_mm + s.tilt_y_mm_per_m * z / 1000
        return 2 * float(np.hypot(x, y))

    found = {f"tir@{z:g}": at(z) for z in setup.distances_mm}
    nose = 0.0 if len(setup.distances_mm) > 1 else setup.distances_mm[0]
    return {**found, "nose": at(nose)}


def tooling_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    """Pieces that all add something; of those that are tried the last runs true."""
    spindle = SpindleTruth(
        off_x_mm=rng.normal(0, 0.001),
        off_y_mm=rng.normal(0, 0.001),
        tilt_x_mm_per_m=rng.normal(0, 0.005),
        tilt_y_mm_per_m=rng.normal(0, 0.005),
    )

    def piece(sd: float) -> PieceTruth:
        off = {f"off_{a}_mm": rng.normal(0, sd) for a in "xy"}
        tilt = {f"tilt_{a}_mm_per_m": rng.normal(0, 0.02) for a in "xy"}
        return PieceTruth(**off, **tilt)

    size = {"holder": 0.006, "collet": 0.003, "nut": 0.0005, "tool": 0.0002}
    pieces = {slot: piece(sd) for slot, sd in size.items()}
    tried = {key: piece(0.02) for key in setup.compared[:-1]}
    last = {key: piece(0.0002) for key in setup.compared[-1:]}
    if setup.way == "swap":
        pieces["holder"] = piece(0.001)
    return Truth(turning=spindle, tooling=ToolingTruth(pieces={**pieces, **tried, **last}))


def tooling_known(truth: Truth, setup: Any) -> dict[str, float]:
    """By complex numbers: what everything comes to at its mark, and what each part adds."""
    z = setup.judged_at_mm
    t, s = truth.tooling, truth.turning
    nose = complex(s.off_x_mm, s.off_y_mm)
    nose += complex(s.tilt_x_mm_per_m, s.tilt_y_mm_per_m) * (t.reach_mm + z) / 1000

    def off(key: str, slot: str) -> complex:
        p = t.piece(key, slot)
        return complex(
            p.off_x_mm + p.tilt_x_mm_per_m * z / 1000, p.off_y_mm + p.tilt_y_mm_per_m * z / 1000
        )

    parts, turned = {}, 0.0
    for slot in setup.slots:
        turned += t.turned_rad.get(slot, 0.0)
        parts[slot] = off(setup.piece(slot), slot) * complex(np.cos(turned), np.sin(turned))
    whole = nose + sum(parts.values())
    if setup.way == "swap":
        others = whole - parts[setup.swapped]
        tried = {k: off(k, setup.swapped) for k in setup.compared}
        now = parts[setup.swapped]
        return {
            "tool": 2 * abs(whole),
            **{f"with:{k}": 2 * abs(others + v) for k, v in tried.items()},
            **{f"against:{k}": 2 * abs(v - now) for k, v in tried.items()},
        }
    if setup.way == "index" and setup.reads == "angles":
        adds = {"adds:spindle": 2 * abs(nose)}
        if setup.joints == ("holder", "collet", "tool"):
            adds["adds:collet+nut"] = 2 * abs(parts["collet"] + parts["nut"])
            adds["adds:tool"] = 2 * abs(parts["tool"])
            whole -= parts["tool"]
        return {"tool": 2 * abs(whole), **adds}
    return {"tool": 2 * abs(whole)}


def taper_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    off = {f"{e}_{a}_mm": rng.normal(0, 0.02) for e in ("thin", "thick") for a in "xy"}
    return Truth(tooling=ToolingTruth(taper=TaperTruth(**off, bore_mm=0.0003)))


def taper_known(truth: Truth, setup: Any) -> dict[str, float]:
    """Before anything is cut: twice what each section stands off."""
    t = truth.tooling.taper
    thin, thick = complex(t.thin_x_mm, t.thin_y_mm), complex(t.thick_x_mm, t.thick_y_mm)
    if t.cut_mm:
        return {}
    ends = {"tir@thin": thin, "tir@middle": (thin + thick) / 2, "tir@thick": thick}
    return {**{k: 2 * abs(v) for k, v in ends.items()}, "off": 2 * max(abs(thin), abs(thick))}


def bed_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    bent = {k: rng.normal(0, 0.04) for k in ("bow_x_mm", "bow_y_mm", "twist_mm")}
    slopes = {k: rng.normal(0, 0.1) for k in ("right_mm_per_m", "rear_mm_per_m")}
    board = BoardTruth(wide_mm=machine.table_x_mm, deep_mm=machine.table_y_mm, **bent, **slopes)
    return Truth(board=board)


def bed_known(truth: Truth, setup: Any) -> dict[str, float]:
    """The heights themselves at the places that are read; bows over the part that is read."""
    b = truth.board
    if setup.way == "log":
        return {"slope_x": b.right_mm_per_m, "slope_y": b.rear_mm_per_m}
    up = [b.up_mm(x, y) for x in setup.x_places_mm for y in setup.y_places_mm]
    wide = (max(setup.x_places_mm) - min(setup.x_places_mm)) / b.wide_mm
    deep = (max(setup.y_places_mm) - min(setup.y_places_mm)) / b.deep_mm
    return {
        "area": max(up) - min(up),
        "slope_x": b.right_mm_per_m,
        "slope_y": b.rear_mm_per_m,
        "bow_x": b.bow_x_mm * wide**2,
        "bow_y": b.bow_y_mm * deep**2,
        "twist": b.twist_mm * wide * deep,
    }


TOP = {"slope_x": 0.03, "slope_y": -0.02}
TABLE = known("table_travel", **{k: about(v, 0.004) for k, v in TOP.items()})


def square_truth(rng: Rng, machine: Machine, setup: Any) -> Truth:
    turns = {
        f"{what}_about_{axis}_mrad": rng.normal(0, 0.3)
        for what in ("column", "quill", "knee")
        for axis in "xy"
    }
    travel = TravelTruth(
        **turns,
        top_x_mm_per_m=TOP["slope_x"],
        top_y_mm_per_m=TOP["slope_y"],
        plan_mrad=rng.normal(0, 0.3),
    )
    own = 0.0 if setup.way == "trusted" else rng.normal(0, 0.3)
    taper = rng.uniform(-1, 1) * 0.004 / 2 / 150 * 1000 if setup.way == "cylinder" else 0.0
    return Truth(
        base_about_x_mrad=rng.normal(0, 0.2),
        base_about_y_mrad=rng.normal(0, 0.2),
        head_about_x_mrad=rng.normal(0, 0.2),
        travel=travel,
        square=SquareTruth(away_mm_per_m=own, taper_mm_per_m=taper),
    )


def square_known(truth: Truth, setup: Any) -> dict[str, float]:
    """The angle between two directions of travel, short of a right one."""
    if setup.upright is None:
        one, other = truth.travel.right()[:2], truth.travel.rear()[:2]
    else:
        one = truth.travel.right() if setup.upright[1] == "left_right" else truth.travel.rear()
        other = truth.rising(setup.upright[0])
    return {"square": float(one @ other / np.linalg.norm(one) / np.linalg.norm(other)) * 1000}
