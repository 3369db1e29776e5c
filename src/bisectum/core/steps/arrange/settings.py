from __future__ import annotations

from typing import Literal

from pydantic import Field

from bisectum.core.steps.settings import StepSettings


class Place(StepSettings):
    """Where an item lies in the make. Items that nobody has placed lie side by side, in their order, from left to right."""

    x_mm: float | None = Field(None, ge=-20_000, le=20_000, title="Its middle, across", json_schema_extra={"unit": "mm"})
    y_mm: float | None = Field(None, ge=-20_000, le=20_000, title="Its middle, down", json_schema_extra={"unit": "mm"})

    @property
    def is_given(self) -> bool:
        """Whether the person has said where the item lies."""
        return self.x_mm is not None and self.y_mm is not None


class Part(StepSettings):
    """What an item does to what lies under it."""

    kind: Literal["adds"] = Field("adds", title="It is cut beside the others, in layers of its own or shared ones")


class ArrangeSettings(StepSettings):
    """The Arrange step: how the items of a make lie together."""

    gap_mm: float = Field(
        10, ge=0, le=1000, title="Room between items that lie side by side", json_schema_extra={"unit": "mm", "step": 0.5}
    )
