"""The cutting template of a shim at full size: outline, tabs, screw relief, oil holes."""

from __future__ import annotations

from truing.checks.gib_shim.evaluate import GibShimFinding
from truing.checks.gib_shim.setup import GibShimSetup
from truing.drawing.shapes import Circle, Drawing, Line, Shape, Text, scale_bar

EDGE_MM = 10.0
BELOW_MM = 42.0
"""Room under the outline for the scale bar and the writing."""


def template(setup: GibShimSetup, finding: GibShimFinding) -> Drawing:
    """The thick end is on the left; the origin of the outline is its lower left corner."""
    x0, y0 = EDGE_MM + setup.tab_mm, BELOW_MM
    length, width, tab = setup.length_mm, setup.width_mm, setup.tab_mm
    shapes: list[Shape] = [_outline(x0, y0, setup)]
    for at in (x0, x0 + length) if tab else ():
        shapes.append(Line(points=[(at, y0), (at, y0 + width)], layer="mark"))
    for at in setup.oil_holes_mm:
        hole = Circle(x_mm=x0 + at, y_mm=y0 + width / 2, radius_mm=setup.oil_hole_mm / 2)
        shapes.append(hole)
    shapes += scale_bar(EDGE_MM, 26.0)
    lines = [
        f"Shim behind the gib: {finding.shim.value:.3f} mm wanted. The thick end is on the left.",
        "Cut the outline, punch the circles, fold at the inner lines of the tabs.",
        "Lay it on the gib before cutting: every hole has to meet its own.",
    ]
    for i, line in enumerate(lines):
        shapes.append(Text(x_mm=EDGE_MM, y_mm=14.0 - 4.2 * i, text=line, size_mm=3.0))
    return Drawing(
        title="Cutting template, 1:1",
        shows="The template: outline, tabs, relief for the screw, oil holes, and a bar that tells "
        "whether the printer kept the scale",
        note="Its measures are under More in Set up. Print at 100 % and measure the bar before you "
        "cut.",
        width_mm=max(length + 2 * tab + 2 * EDGE_MM, 190.0),
        height_mm=y0 + width + EDGE_MM,
        shapes=shapes,
    )


def _outline(x0: float, y0: float, setup: GibShimSetup) -> Line:
    """Clockwise from the lower left: the tabs stand out at both ends, a third of the width wide
    each side of the middle; the screw's relief is a notch in the thick end."""
    length, width, tab = setup.length_mm, setup.width_mm, setup.tab_mm
    low, high = y0 + width / 3, y0 + 2 * width / 3
    points = [(x0, y0)]
    deep = setup.relief_mm / 2
    if setup.relief_mm:
        half = min(setup.relief_mm, width * 0.9) / 2
        mid = y0 + width / 2
        # a notch takes the place of the tab on the side of the screw
        points += [
            (x0, mid - half),
            (x0 + deep, mid - half),
            (x0 + deep, mid + half),
            (x0, mid + half),
        ]
    elif tab:
        points += [(x0, low), (x0 - tab, low), (x0 - tab, high), (x0, high)]
    points.append((x0, y0 + width))
    points.append((x0 + length, y0 + width))
    if tab:
        right = x0 + length
        points += [(right, high), (right + tab, high), (right + tab, low), (right, low)]
    points.append((x0 + length, y0))
    return Line(points=points, closed=True)
