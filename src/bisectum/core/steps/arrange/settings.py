from __future__ import annotations

from typing import Literal

from pydantic import Field

from bisectum.core.patterns import COLOUR_KEY, ITEM_ID
from bisectum.core.steps.settings import StepSettings


class Place(StepSettings):
    """Where an item lies in the make. Items that nobody has placed lie side by side, in their order, from left to right."""

    x_mm: float | None = Field(None, ge=-20_000, le=20_000, title="Its middle, across", json_schema_extra={"unit": "mm"})
    y_mm: float | None = Field(None, ge=-20_000, le=20_000, title="Its middle, down", json_schema_extra={"unit": "mm"})
    turn_deg: float = Field(0, ge=-360, le=360, title="Turned clockwise", json_schema_extra={"unit": "°"})
    mirrored: bool = Field(False, title="Mirrored, left for right")
    stretch: float = Field(1, ge=0.05, le=20, title="Height against width, as it came")
    locked: bool = Field(False, title="Stays where it is")

    @property
    def is_given(self) -> bool:
        """Whether the person has said where the item lies."""
        return self.x_mm is not None and self.y_mm is not None


class Target(StepSettings):
    """A layer that a part is about, by a colour of an item that is cut as it."""

    item: str = Field(pattern=ITEM_ID, title="The item")
    colour: str = Field(pattern=COLOUR_KEY, title="The colour's key in the item's palette")


class Part(StepSettings):
    """What an item does to what lies under it.

    adds: it lies on top as a layer of its own; melts: it becomes part of another layer; cuts: it is taken out of what lies
    below; keeps: only what lies inside it stays of what lies below.
    """

    kind: Literal["adds", "melts", "cuts", "keeps"] = Field("adds", title="What it does")
    targets: tuple[Target, ...] = Field((), max_length=64, title="The layers it melts into, or is cut out of; none named: all")
    clear_mm: float | None = Field(None, ge=0, le=50, title="Below it is cleared, this far around it",
                                   json_schema_extra={"unit": "mm", "step": 0.1})


class ArrangeSettings(StepSettings):
    """The Arrange step: how the items of a make lie together."""

    gap_mm: float = Field(
        10, ge=0, le=1000, title="Room between items that lie side by side", json_schema_extra={"unit": "mm", "step": 0.5}
    )
