"""What is really the case on a simulated machine."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field
from scipy.spatial.transform import Rotation

Vector = NDArray[np.float64]


class FootTruth(BaseModel):
    """Where a foot stands and how far it is screwed out."""

    name: str
    x_mm: float
    y_mm: float
    out_mm: float = 0.0


class StandTruth(BaseModel):
    """A base on its feet: it follows them in a plane, and gives in to their twist in part."""

    feet: list[FootTruth] = Field(default_factory=list)
    give: float = Field(0.85, gt=0, le=1)
    """Share of the feet's twist that a stiff base follows."""
    own_twist_mm_per_m2: float = 0.0
    """Twist that is in the casting."""

    def surface_mm(self, x_mm: float, y_mm: float) -> float:
        """Height of the base at a place, from the feet under it."""
        corners = self._corners()
        if corners is None:
            return self.own_twist_mm_per_m2 * x_mm * y_mm / 1e6
        left, right, front, rear, out = corners
        u = (x_mm - left) / (right - left)
        v = (y_mm - front) / (rear - front)
        fl, fr, rl, rr = out
        # half of the diagonals' difference is what a rigid base would refuse to follow
        slack = (1 - self.give) * (fl + rr - fr - rl) / 4
        fl, fr, rl, rr = fl - slack, fr + slack, rl + slack, rr - slack
        sheet = fl * (1 - u) * (1 - v) + fr * u * (1 - v) + rl * (1 - u) * v + rr * u * v
        return sheet + self.own_twist_mm_per_m2 * x_mm * y_mm / 1e6

    def _corners(self) -> tuple[float, float, float, float, list[float]] | None:
        if len(self.feet) != 4:
            return None
        xs, ys = [f.x_mm for f in self.feet], [f.y_mm for f in self.feet]
        left, right, front, rear = min(xs), max(xs), min(ys), max(ys)

        def out(x: float, y: float) -> float:
            nearest = min(self.feet, key=lambda f: (f.x_mm - x) ** 2 + (f.y_mm - y) ** 2)
            return nearest.out_mm

        places = [(left, front), (right, front), (left, rear), (right, rear)]
        return left, right, front, rear, [out(x, y) for x, y in places]


class SlideTruth(BaseModel):
    """One slide: its ways, its gib, its screw and what drives it."""

    travel_mm: float = 300.0
    clearance_mm: float = 0.01
    """Between gib and way where nothing is worn; negative binds."""
    wear_mm: float = 0.0
    """What the middle of the travel is worn by."""
    taper_mm_per_m: float = 20.0
    """Of a tapered gib."""
    gib_thick_mm: float = 6.0
    """At the gib's first station."""
    shim_mm: float = 0.0
    """Behind the gib."""
    shim_before_mm: float = 0.0
    """What was behind it before that."""
    links_mm: dict[str, float] = Field(default_factory=dict)
    """Slack of each link of the drive: nut, bearing, coupling, wheel."""
    worn_screw_mm: float = 0.0
    """How much less slack the screw has at its ends than in its middle."""
    compensated_mm: float = 0.0
    blocks_mm: dict[str, float] = Field(default_factory=dict)
    """Where each end block of the screw stands off its true place, by end and direction."""
    block_float_mm: float = 0.4
    """How far a loosened block can be pushed each way."""
    stalls_above_mm_per_min: float = 6000.0
    stalls_above_mm_per_s2: float = 900.0
    tight_at_mm: float | None = None
    """A place where it is hard to move: it stalls there first."""


class RailsTruth(BaseModel):
    """Two rails by their bolts: how far each place stands off, sideways and in height."""

    at_mm: list[float] = Field(default_factory=lambda: [0.0, 1000.0])
    side_mm: list[float] = Field(default_factory=lambda: [0.0, 0.0])
    """First rail, plus toward the second rail's side (right, or the rear)."""
    second_mm: list[float] = Field(default_factory=lambda: [0.0, 0.0])
    """Second rail, plus away from the first."""
    first_up_mm: list[float] = Field(default_factory=lambda: [0.0, 0.0])
    second_up_mm: list[float] = Field(default_factory=lambda: [0.0, 0.0])
    apart_mm: float = 600.0
    edge_bow_mm: float = 0.0
    """How far the middle of the reference edge stands out."""

    def along(self, values: list[float], at_mm: float) -> float:
        """The value at a place between bolts."""
        return float(np.interp(at_mm, self.at_mm, values))

    def edge_mm(self, at_mm: float) -> float:
        """How far the reference edge stands out at a place."""
        span = self.at_mm[-1] - self.at_mm[0]
        u = 2 * (at_mm - self.at_mm[0]) / span - 1
        return self.edge_bow_mm * (1 - u * u)


class FaceTruth(BaseModel):
    """A face on something that is turned about a bolt: where its middle is, which way it runs."""

    along_mm: float = 0.0
    """Where the middle of the face has gone along the travel, with the part's turns."""
    near_mm: float = 0.0
    """How far its middle stands out toward the dial."""
    angle_rad: float = 0.0
    """Its direction against the travel: plus = nearer to the dial toward the plus end."""
    bow_mm: float = 0.0
    pivot_mm: float = 0.0
    """Where it really turns, along the face from its middle."""

    def nearer_mm(self, x_mm: float, length_mm: float) -> float:
        """How far the face stands out at a place of the travel."""
        along = x_mm - self.along_mm
        bow = self.bow_mm * (1 - (2 * along / length_mm) ** 2)
        return self.near_mm + along * float(np.tan(self.angle_rad)) + bow

    def turned(self, by_rad: float) -> FaceTruth:
        """Turned about its pivot: a rotation of the plane that carries the middle with it."""
        before = Rotation.from_euler("z", self.angle_rad).apply([self.pivot_mm, 0.0, 0.0])
        pivot = np.array([self.along_mm, self.near_mm, 0.0]) + before
        middle = np.array([self.along_mm, self.near_mm, 0.0])
        carried = pivot + Rotation.from_euler("z", by_rad).apply(middle - pivot)
        return self.model_copy(
            update={
                "along_mm": float(carried[0]),
                "near_mm": float(carried[1]),
                "angle_rad": self.angle_rad + by_rad,
            }
        )


class GantryTruth(BaseModel):
    """A gantry that two motors lift and two drive: how high and how far ahead its ends are, and
    how the machine's axes are to scale."""

    left_x_mm: float = -430.0
    right_x_mm: float = 430.0
    left_up_mm: float = 0.0
    right_up_mm: float = 0.0
    right_ahead_mm: float = 0.0
    """How far the right end is ahead of the left one, toward the rear."""
    bed_bow_mm: float = 0.0
    """How high the middle of the bed stands over its sides."""
    overrun_mm: float = 0.06
    """How much further a fast touch goes."""
    scale_x: float = 1.0
    """What the machine really moves for each millimetre that it is told."""
    scale_y: float = 1.0

    def height_mm(self, x_mm: float) -> float:
        """Height of the beam over a place."""
        share = (x_mm - self.left_x_mm) / (self.right_x_mm - self.left_x_mm)
        return self.left_up_mm * (1 - share) + self.right_up_mm * share

    def bed_mm(self, x_mm: float) -> float:
        """Height of the bed at a place."""
        half = (self.right_x_mm - self.left_x_mm) / 2
        u = (x_mm - (self.left_x_mm + self.right_x_mm) / 2) / half
        return self.bed_bow_mm * (1 - u * u)

    def drawn_mm(self, x_mm: float, y_mm: float) -> Vector:
        """Where a tool that is sent to a place really comes down: along the beam as it stands, and
        along the bed."""
        skew = self.right_ahead_mm / (self.right_x_mm - self.left_x_mm)
        beam = np.array([np.cos(skew), np.sin(skew)]) * x_mm * self.scale_x
        return np.asarray(beam + np.array([0.0, y_mm * self.scale_y]))


@lru_cache(maxsize=1024)
def _turned(about_x_mrad: float, about_y_mrad: float) -> Rotation:
    return Rotation.from_euler("xy", [about_x_mrad / 1000, about_y_mrad / 1000])


class TravelTruth(BaseModel):
    """Which way the slides really go, in the frame of the table's top: X to the right along it, Z
    square up from it. Turns as in `Truth`, in mrad."""

    top_x_mm_per_m: float = 0.0
    """How much the top rises to the right over the travel that carries it."""
    top_y_mm_per_m: float = 0.0
    top_twist_mm_per_m2: float = 0.0
    plan_mrad: float = 0.0
    """How far the front–back travel drifts to the right of square."""
    column_about_x_mrad: float = 0.0
    column_about_y_mrad: float = 0.0
    """The ways of the column against its foot."""
    quill_about_x_mrad: float = 0.0
    quill_about_y_mrad: float = 0.0
    """The quill against the spindle."""
    knee_about_x_mrad: float = 0.0
    knee_about_y_mrad: float = 0.0
    """The ways of a knee against the table that it carries."""

    def right(self) -> Vector:
        """Left–right travel, as a direction."""
        return np.array([1.0, 0.0, -self.top_x_mm_per_m / 1000])

    def rear(self) -> Vector:
        """Front–back travel."""
        return np.array([np.tan(self.plan_mrad / 1000), 1.0, -self.top_y_mm_per_m / 1000])


class SquareTruth(BaseModel):
    """A square or cylinder, as it is first set down."""

    away_mm_per_m: float = 0.0
    """How much its edge leans away from a tip that runs up it."""
    taper_mm_per_m: float = 0.0
    """How much a cylinder's radius grows upward."""


class SpindleTruth(BaseModel):
    """A spindle as it turns, in its own frame: X toward its mark, Z down from the nose."""

    play_across_mm: float = 0.0
    play_along_mm: float = 0.0
    warms_mm: float = 0.0
    """How much its play closes as it warms."""
    worn: bool = False
    """Its bearings turn rough."""
    off_x_mm: float = 0.0
    """Where the axis of its bore stands off the axis it turns about, at the nose."""
    off_y_mm: float = 0.0
    tilt_x_mm_per_m: float = 0.0
    """How much further off it stands for each metre from the nose."""
    tilt_y_mm_per_m: float = 0.0
    bar_x_mm: float = 0.0
    """The bar’s own offset and tilt in the bore, as first seated."""
    bar_y_mm: float = 0.0
    bar_tilt_x_mm_per_m: float = 0.0
    bar_tilt_y_mm_per_m: float = 0.0
    oval_mm: float = 0.0
    """How much further out the bar’s surface stands along one diameter than on the mean."""
    wander_mm: float = 0.0
    """Scatter of where the bearings hold it from turn to turn."""


class PieceTruth(BaseModel):
    """A piece that turns with the spindle: where the axis of what it holds stands off its own, as
    it is seated at its mark."""

    off_x_mm: float = 0.0
    """At the face from which heights are read."""
    off_y_mm: float = 0.0
    tilt_x_mm_per_m: float = 0.0
    """How much further off for each metre outward."""
    tilt_y_mm_per_m: float = 0.0


class BoardTruth(BaseModel):
    """The top of what lies on a bed, over the travel above it: a plane that is bent and twisted,
    and something that sticks out of it."""

    wide_mm: float = 600.0
    deep_mm: float = 400.0
    right_mm_per_m: float = 0.0
    """How much it rises to the right."""
    rear_mm_per_m: float = 0.0
    bow_x_mm: float = 0.0
    """How high its middle stands over its left and right ends."""
    bow_y_mm: float = 0.0
    twist_mm: float = 0.0
    """How high the rear right corner stands over the plane of the other three."""
    speck_mm: float = 0.0
    """Of a screw head, at one place."""
    speck_x_mm: float = 0.0
    speck_y_mm: float = 0.0

    def up_mm(self, x_mm: float, y_mm: float) -> float:
        """Its height at a place over that of mid bed."""
        u, v = 2 * x_mm / self.wide_mm, 2 * y_mm / self.deep_mm
        plane = self.right_mm_per_m * x_mm / 1000 + self.rear_mm_per_m * y_mm / 1000
        bent = -self.bow_x_mm * u * u - self.bow_y_mm * v * v + self.twist_mm * u * v / 4
        near = abs(x_mm - self.speck_x_mm) < 6 and abs(y_mm - self.speck_y_mm) < 6
        return plane + bent + (self.speck_mm if near else 0.0)


class TaperTruth(BaseModel):
    """A holder set up in a lathe on its bore: where the middles of its taper's ends stand off."""

    thin_x_mm: float = 0.0
    thin_y_mm: float = 0.0
    thick_x_mm: float = 0.0
    thick_y_mm: float = 0.0
    bore_mm: float = 0.0
    """How far the bore stands off the lathe's axis."""
    cut_mm: float = 0.0
    """How far the tool has gone in since it first touched."""


class ToolingTruth(BaseModel):
    """What is put into a spindle."""

    pieces: dict[str, PieceTruth] = Field(default_factory=dict)
    """By id in the kit, or by its place in the chain where it is not in the kit."""
    reach_mm: float = 60.0
    """From the nose of the spindle to the face from which heights are read."""
    turned_rad: dict[str, float] = Field(default_factory=dict)
    """How far a piece has been turned on from its first mark, by its place."""
    seat_sd_mm: float = 0.0005
    """How a seat scatters, either way."""
    seats_mm: dict[str, float] = Field(default_factory=dict)
    """What the seat of one piece scatters beside that, by its place."""
    dirt_mm: dict[int, float] = Field(default_factory=dict)
    """What lies in a seat, by the number of the seating."""
    taper: TaperTruth = Field(default_factory=TaperTruth)

    def piece(self, key: str, slot: str) -> PieceTruth:
        """A piece by its id, else by its place; one that runs true where nobody said."""
        return self.pieces.get(key) or self.pieces.get(slot) or PieceTruth()


class Truth(BaseModel):
    """A simulated machine. Angles in mrad about fixed axes; heights in mm.

    `head` and `base` are turns of the spindle's carrier about Y (right-hand rule: a positive turn
    takes the top to +X) and about X (a positive turn takes the top to −Y).
    """

    head_about_x_mrad: float = 0.0
    head_about_y_mrad: float = 0.0
    base_about_x_mrad: float = 0.0
    base_about_y_mrad: float = 0.0
    beam_twist_mrad_per_m: float = 0.0
    """Turn about X that a gantry's beam adds for each metre to the right."""
    saddle_mm: float = 0.0
    """Height of the table at a corner of a 100 mm square about its centre, as a saddle."""
    bow_mm: float = 0.0
    """Height at 100 mm from the centre along X, as a bow."""
    tap_gain: float = 1.0
    """What this machine makes of a tap, on the average."""
    tighten_about_x_mrad: float = 0.0
    tighten_about_y_mrad: float = 0.0
    """What tightening does to it every time."""
    noise_share: float = Field(1.0, ge=0, le=10)
    """Scatter of readings in units of the instrument's stated repeatability."""
    stand: StandTruth = Field(default_factory=StandTruth)
    level_error_mm_per_m: float = 0.0
    """How far the level is off, toward its marked end."""
    slides: dict[str, SlideTruth] = Field(default_factory=dict)
    rails: RailsTruth = Field(default_factory=RailsTruth)
    gantry: GantryTruth = Field(default_factory=GantryTruth)
    travel: TravelTruth = Field(default_factory=TravelTruth)
    turning: SpindleTruth = Field(default_factory=SpindleTruth)
    cutter_over_mm: float = 0.0
    """How much wider than stated an end mill cuts."""
    board: BoardTruth = Field(default_factory=BoardTruth)
    tooling: ToolingTruth = Field(default_factory=ToolingTruth)
    square: SquareTruth = Field(default_factory=SquareTruth)
    faces: dict[str, FaceTruth] = Field(default_factory=dict)
    """By the thing that has it; "" for the column's own."""
    faults: dict[str, str] = Field(default_factory=dict)
    """What a walk round the machine finds: station -> grade."""

    def slide(self, direction: str) -> SlideTruth:
        """The slide that moves this way; a usual one where nobody said."""
        return self.slides.get(direction) or SlideTruth()

    def face(self, key: str) -> FaceTruth:
        """The face of a thing; one that runs true where nobody said."""
        return self.faces.get(key) or FaceTruth()

    def spindle(self, x_mm: float = 0.0) -> Rotation:
        """Attitude of the spindle with the carriage at x."""
        about_x = self.head_about_x_mrad + self.beam_twist_mrad_per_m * x_mm / 1000
        base = _turned(self.base_about_x_mrad, self.base_about_y_mrad)
        return base * _turned(about_x, self.head_about_y_mrad)

    def rising(self, by: str) -> Vector:
        """Unit vector along what lifts the tool from the work: head, quill, knee or carriage. What
        leans the column's foot leans the ways on it; a knee and its table go with it together."""
        t = self.travel
        if by == "knee":
            turn = _turned(t.knee_about_x_mrad, t.knee_about_y_mrad)
        elif by == "quill":
            turn = self.spindle() * _turned(t.quill_about_x_mrad, t.quill_about_y_mrad)
        else:
            base = _turned(self.base_about_x_mrad, self.base_about_y_mrad)
            turn = base * _turned(t.column_about_x_mrad, t.column_about_y_mrad)
        return np.asarray(turn.apply([0.0, 0.0, 1.0]))

    def surface_mm(self, x_mm: float, y_mm: float) -> float:
        """Height of the table's top."""
        return self.saddle_mm * (x_mm**2 - y_mm**2) / 100**2 + self.bow_mm * (x_mm / 100) ** 2

    def axis(self, x_mm: float = 0.0) -> Vector:
        """Unit vector along the spindle, up."""
        return np.asarray(self.spindle(x_mm).apply([0.0, 0.0, 1.0]))
