from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from bisectum.core.model.ink_choice import Taste
from bisectum.core.patterns import COLOUR, COLOUR_KEY
from bisectum.core.steps.settings import StepSettings

MOST_PINS = 24
MOST_CHANGES = 400
MOST_RING = 240
MOST_TONES = 12
OF_PHOTOGRAPHS = ("treatment", "inks", "drawn_top", "fine_mm", "dark_share", "balance_mm", "spacing", "thresholds", "bare",
                  "smallest_width_mm", "bridge_mm", "spots", "light_marks", "not_faces")
OF_INK = ("take_rules", "hand", "bolder_mm", "specks", "other_specks")
Treatment = Literal["colours", "lightness", "dark", "line_shade", "stencil", "silhouette"]
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


class SpotColour(StepSettings):
    """A colour of its own for the area at a place (shares of the width of the picture that came in): eyes, a red collar."""

    x: float = Field(ge=-2, le=3, title="Where, across")
    y: float = Field(ge=-60, le=60, title="Where, down")
    reach: float = Field(9, ge=1, le=60, title="How far from the place's colour it reaches",
                         json_schema_extra={"unit": "DIN99o"})


class LightMark(StepSettings):
    """A mark of the light brush. Places are shares of the width of the picture that came in.

    darker, lighter: by so much, with a soft edge. finer, calmer: more or less detail there. matters: a place that was drawn
    round keeps finer detail and its own contrast. eye: the same of a round place of that width, say an animal's eye or nose.
    """

    kind: Literal["darker", "lighter", "finer", "calmer", "matters", "eye"] = Field(title="What is done")
    points: tuple[RingPlace, ...] = Field(min_length=1, max_length=MOST_RING, title="Where, point by point")
    width: float = Field(0.1, gt=0, le=2, title="Width of the mark, as a share of the picture's")
    amount: float = Field(12, ge=1, le=60, title="How much darker or lighter", json_schema_extra={"unit": "L*"})

    @model_validator(mode="after")
    def _is_whole(self) -> Self:
        if self.kind == "matters" and len(self.points) < 3:
            raise ValueError("a place that matters is drawn round")
        return self


class ColoursSettings(StepSettings):
    """The Colours step: into how many layers the picture goes. Those from `treatment` on concern photographs only, those from
    `take_rules` on pages of ink only."""

    kind: Literal["auto", "clip-art", "photo", "line-drawing", "handwriting", "screenshot"] = Field(
        "auto", title="Kind of picture; told by itself where it is auto"
    )
    count: int | None = Field(
        None, ge=1, le=24, title="How many colours, the background not among them; found by itself where not given",
        json_schema_extra={"unit": "colours", "step": 1},
    )
    shades: int = Field(
        1, ge=1, le=12, title="Into how many even steps shading is cut; one leaves it as it is found",
        json_schema_extra={"unit": "steps", "step": 1},
    )
    pins: tuple[Pin, ...] = Field((), max_length=MOST_PINS, title="Colours that must be in the palette, exactly")
    palette_changes: tuple[PaletteChange, ...] = Field(
        (), max_length=MOST_CHANGES, title="Colours merged, left out, split, or given to other layers, in their order"
    )

    treatment: Treatment = Field(
        "colours", title="What a photograph becomes: few colours, tones of lightness, one dark tone, lines and shade, a stencil "
        "that holds together, or a silhouette"
    )
    inks: Taste = Field(
        "balanced", title="Which colours of a photograph become inks: a little of both, small ones that stand out, or large areas"
    )
    drawn_top: bool = Field(True, title="The darkest lines are drawn over few colours or tones, as a layer of their own")
    fine_mm: float = Field(
        0.4, ge=0.1, le=3, title="Fine or calm: how wide the smallest wobbles are that lines follow",
        json_schema_extra={"unit": "mm", "step": 0.05},
    )
    dark_share: float = Field(22, ge=3, le=70, title="How much is drawn dark", json_schema_extra={"unit": "%", "step": 1})
    balance_mm: float = Field(
        0, ge=0, le=80, title="How far around light is evened out; none where it is zero",
        json_schema_extra={"unit": "mm", "step": 1},
    )
    spacing: Literal["best", "evenly", "by_area"] = Field("best", title="How tones are spaced, where no thresholds are given")
    thresholds: tuple[Annotated[float, Field(ge=0, le=100)], ...] = Field(
        (), max_length=MOST_TONES - 1, title="Lightness that parts the tones, rising; found by spacing where there is none"
    )
    bare: tuple[Annotated[int, Field(ge=0, lt=MOST_TONES)], ...] | None = Field(
        None, max_length=MOST_TONES, title="Tones left to the cloth, counted from the darkest, 0; where not given, the lightest "
        "under lines and shade, and else none"
    )
    smallest_width_mm: float = Field(
        0.8, ge=0, le=5, title="Thinnest part of a photograph; thinner ones go, or are made wider where they tell",
        json_schema_extra={"unit": "mm", "step": 0.1},
    )
    bridge_mm: float = Field(
        2, ge=0.5, le=15, title="Width of the bridges that hold a stencil together", json_schema_extra={"unit": "mm", "step": 0.1}
    )
    spots: tuple[SpotColour, ...] = Field((), max_length=MOST_PINS, title="Areas with a colour of their own")
    light_marks: tuple[LightMark, ...] = Field((), max_length=MOST_CHANGES, title="Marks of the light brush, in their order")
    not_faces: tuple[RingPlace, ...] = Field(
        (), max_length=MOST_PINS, title="What was taken for a face and is none, each by a place in it"
    )

    take_rules: bool = Field(True, title="Rules and margin lines of a page are taken away from handwriting")
    hand: Literal["as_written", "smoother"] = Field("as_written", title="Handwriting as it was written, or a little smoother")
    bolder_mm: float = Field(
        0, ge=0, le=2, title="How much bolder the pen is made, to each side", json_schema_extra={"unit": "mm", "step": 0.05}
    )
    specks: Literal["leave_out", "keep"] = Field("leave_out", title="What becomes of dark spots that are no writing")
    other_specks: tuple[RingPlace, ...] = Field(
        (), max_length=MOST_CHANGES, title="Spots of which the other is done, each by a place in it"
    )

    @model_validator(mode="after")
    def _thresholds_rise(self) -> Self:
        if any(low >= high for low, high in zip(self.thresholds, self.thresholds[1:], strict=False)):
            raise ValueError("thresholds rise")
        return self

    @model_validator(mode="after")
    def _pins_differ(self) -> Self:
        colours = [pin.colour for pin in self.pins]
        twice = next((colour for colour in colours if colours.count(colour) > 1), None)
        if twice is not None:
            raise ValueError(f"{twice} is pinned twice; once is enough")
        return self
