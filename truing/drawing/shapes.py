"""A drawing in millimetres: lines, circles and texts on named layers."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, Field

from truing.measure.names import tidied

Layer = Literal["cut", "mark", "paper"]
"""What is cut out, what is marked or punched, and what only explains."""


Written = Annotated[str, AfterValidator(tidied)]
"""Without what nobody sees, which would break the line of a file that it is written into."""


class Line(BaseModel):
    """A line through points (mm), x to the right and y up."""

    type: Literal["line"] = "line"
    points: list[tuple[float, float]] = Field(min_length=2)
    closed: bool = False
    layer: Layer = "cut"


class Circle(BaseModel):
    """A circle about a centre (mm)."""

    type: Literal["circle"] = "circle"
    x_mm: float
    y_mm: float
    radius_mm: float = Field(gt=0)
    layer: Layer = "cut"


class Text(BaseModel):
    """A line of text whose baseline starts at a place."""

    type: Literal["text"] = "text"
    x_mm: float
    y_mm: float
    text: Written
    size_mm: float = 3.5
    layer: Layer = "paper"


Shape = Annotated[Line | Circle | Text, Field(discriminator="type")]


class Drawing(BaseModel):
    """Shapes on a sheet of their own size; origin at the lower left."""

    title: Written
    shows: str = ""
    """What is to be seen, for those who cannot see it."""
    note: str = ""
    """What to mind before it is printed."""
    width_mm: float = Field(gt=0)
    height_mm: float = Field(gt=0)
    shapes: list[Shape]


BAR_MM = 100.0
"""Length of the bar that shows whether a printer keeps the scale."""


def rectangle(x: float, y: float, width: float, height: float, layer: Layer = "cut") -> Line:
    """A closed rectangle from its lower left corner."""
    return Line(
        points=[(x, y), (x + width, y), (x + width, y + height), (x, y + height)],
        closed=True,
        layer=layer,
    )


def scale_bar(x: float, y: float) -> list[Shape]:
    """A bar of 100 mm with a tick every 10, and what to do with it."""
    shapes: list[Shape] = [Line(points=[(x, y), (x + BAR_MM, y)], layer="paper")]
    for i in range(11):
        tall = 4.0 if i in (0, 5, 10) else 2.0
        at = x + i * BAR_MM / 10
        shapes.append(Line(points=[(at, y), (at, y + tall)], layer="paper"))
    shapes.append(
        Text(
            x_mm=x,
            y_mm=y - 4.5,
            text="This bar is 100 mm (3.937 in). If it is not, the printer has scaled the sheet: "
            "print at 100 %.",
            size_mm=2.6,
        )
    )
    return shapes
