from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from bisectum.core.patterns import COLOUR, COLOUR_KEY
from bisectum.core.steps.settings import StepSettings

MOST_PINS = 24
MOST_CHANGES = 400
MOST_RING = 240
RingPlace = Annotated[tuple[float, float], Field(title="Across and down")]
ChangeKind = Literal["merge", "clear", "fill", "give", "split"]


class Pin(StepSettings):
    """A colour that must be in the palette, exactly as it is."""

    colour: str = Field(pattern=COLOUR, title="The colour")
    name: str = Field("", max_length=60, title="What it is called; a plain name where empty")


class PaletteChange(StepSettings):
    """One change of the palette by hand.

    merge: `colour` becomes part of `into`. clear: it becomes see-through. fill: its neighbours fill it. split: it is parted in
    two by likeness. give: the area at a place (shares of the width of the picture that came in), or all areas within a ring of
    such places, whatever their colours, go to `into`, or to layers of their own where that is not given.
    """

    kind: ChangeKind = Field(title="What is done")
    colour: str | None = Field(None, pattern=COLOUR_KEY, title="Which colour")
    into: str | None = Field(None, pattern=COLOUR_KEY, title="Which colour it goes to")
    x: float | None = Field(None, ge=-2, le=3, title="Where, across")
    y: float | None = Field(None, ge=-60, le=60, title="Where, down")
    ring: tuple[RingPlace, ...] = Field((), max_length=MOST_RING, title="The areas' surroundings, place by place")

    @model_validator(mode="after")
    def _is_whole(self) -> Self:
        if self.kind != "give" and self.colour is None:
            raise ValueError("this change is of a colour")
        if self.kind == "merge" and (self.into is None or self.into == self.colour):
            raise ValueError("a merged colour goes into another one")
        if self.kind == "give" and (self.x is None or self.y is None) and len(self.ring) < 3:
            raise ValueError("an area that is given away has a place, or a ring about it")
        return self


class ColoursSettings(StepSettings):
    """The Colours step: into how many layers the picture goes, and what is too small to cut."""

    kind: Literal["auto", "clip-art", "photo", "line-drawing", "handwriting", "screenshot"] = Field(
        "auto", title="Kind of picture; told by itself where it is auto"
    )
    count: int | None = Field(
        None, ge=1, le=24, title="How many colours, the background not among them; found by itself where not given",
        json_schema_extra={"unit": "colours", "step": 1},
    )
    smallest_mm2: float = Field(
        1.0, ge=0, le=400, title="Smallest piece; smaller ones go to their neighbours",
        json_schema_extra={"unit": "mm²", "step": 0.1},
    )
    shades: int = Field(
        1, ge=1, le=12, title="Into how many even steps shading is cut; one leaves it as it is found",
        json_schema_extra={"unit": "steps", "step": 1},
    )
    pins: tuple[Pin, ...] = Field((), max_length=MOST_PINS, title="Colours that must be in the palette, exactly")
    palette_changes: tuple[PaletteChange, ...] = Field(
        (), max_length=MOST_CHANGES, title="Colours merged, left out, split, or given to other layers, in their order"
    )

    @model_validator(mode="after")
    def _pins_differ(self) -> Self:
        colours = [pin.colour for pin in self.pins]
        twice = next((colour for colour in colours if colours.count(colour) > 1), None)
        if twice is not None:
            raise ValueError(f"{twice} is pinned twice; once is enough")
        return self
