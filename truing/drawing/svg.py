"""A drawing as SVG at full size."""

from __future__ import annotations

from html import escape

from truing.drawing.shapes import Circle, Drawing, Line

_WIDTH_MM = {"cut": 0.25, "mark": 0.18, "paper": 0.15}


def to_svg(drawing: Drawing) -> str:
    """SVG text whose user unit is one millimetre; y is turned to run downwards."""

    def y(value: float) -> str:
        return f"{drawing.height_mm - value:.3f}"

    parts = []
    for shape in drawing.shapes:
        width = _WIDTH_MM[shape.layer]
        pen = f'class="{shape.layer}" fill="none" stroke="#23262b" stroke-width="{width}"'
        if isinstance(shape, Line):
            path = "L".join(f"{px:.3f} {y(py)}" for px, py in shape.points)
            parts.append(f'<path {pen} d="M{path}{"Z" if shape.closed else ""}"/>')
        elif isinstance(shape, Circle):
            parts.append(
                f'<circle {pen} cx="{shape.x_mm:.3f}" cy="{y(shape.y_mm)}" '
                f'r="{shape.radius_mm:.3f}"/>'
            )
        else:
            parts.append(
                f'<text class="{shape.layer}" x="{shape.x_mm:.3f}" y="{y(shape.y_mm)}" '
                f'font-family="sans-serif" font-size="{shape.size_mm}" fill="#23262b">'
                f"{escape(shape.text)}</text>"
            )
    w, h = f"{drawing.width_mm:g}", f"{drawing.height_mm:g}"
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w}mm" height="{h}mm" '
        f'viewBox="0 0 {w} {h}"><title>{escape(drawing.title)}</title>{"".join(parts)}</svg>\n'
    )
