"""What was seen and measured when a board had been surfaced."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from truing.measure.fields import Mm, hint, length


class Done(BaseModel):
    """Pencil marks, thickness and ridges, as somebody found them."""

    model_config = ConfigDict(extra="forbid")

    marks_gone: bool = Field(
        False,
        title="The pencil marks are gone everywhere",
        json_schema_extra=hint("Where one is left the cutter never touched.", field="switch"),
    )
    where: str = Field(
        "",
        max_length=200,
        title="Where one is left",
        json_schema_extra=hint("One more pass there.", field="text"),
    )
    thickness_mm: Mm | None = length(
        "Thickness now", None, gt=0, le=200, prompt="By caliper at an edge; empty to reckon it."
    )
    ridges: bool = Field(
        False,
        title="A finger feels ridges",
        json_schema_extra=hint("They tell how the spindle leans.", field="switch"),
    )
    note: str = Field("", max_length=400, title="Note", json_schema_extra=hint("", field="text"))
