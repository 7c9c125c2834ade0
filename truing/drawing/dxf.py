"""A drawing as DXF in millimetres, each layer by its name."""

from __future__ import annotations

import io

from truing.drawing.shapes import Circle, Drawing, Line

_COLOURS = {"cut": 7, "mark": 5, "paper": 8}


def to_dxf(drawing: Drawing) -> str:
    """DXF text (R2010)."""
    # a tenth of what every start of the application would load, for what is seldom asked for
    from ezdxf import units
    from ezdxf.filemanagement import new

    document = new("R2010")
    document.units = units.MM
    for name, colour in _COLOURS.items():
        document.layers.add(name, color=colour)
    space = document.modelspace()
    for shape in drawing.shapes:
        on = {"layer": shape.layer}
        if isinstance(shape, Line):
            space.add_lwpolyline(shape.points, close=shape.closed, dxfattribs=on)
        elif isinstance(shape, Circle):
            space.add_circle((shape.x_mm, shape.y_mm), shape.radius_mm, dxfattribs=on)
        else:
            space.add_text(shape.text, height=shape.size_mm, dxfattribs=on).set_placement(
                (shape.x_mm, shape.y_mm)
            )
    out = io.StringIO()
    document.write(out)
    return out.getvalue()
