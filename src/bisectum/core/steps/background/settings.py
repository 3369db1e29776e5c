from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from bisectum.core.model.ground import CutoutName
from bisectum.core.patterns import HEX
from bisectum.core.steps.settings import StepSettings

Mode = Literal["auto", "border", "subject", "keep", "colour"]
TouchKind = Literal["keep", "drop", "clear", "restore", "spot_clear", "spot_restore"]
# Bounds are the validator's own, which looks at thousands of marks at once.
Across = Annotated[float, Field(ge=-2, le=3)]
Down = Annotated[float, Field(ge=-60, le=60)]
Pressure = Annotated[float, Field(ge=0, le=1)]
MOST_TOUCHES = 4000
MOST_POINTS = 4000


class Touch(StepSettings):
    """One thing done by hand. Places are shares of the width of the picture that came in, from its upper left corner.

    keep, drop: a loose stroke over what stays or goes; the outline is found anew around it. clear, restore: a mark of the
    brush, exactly where it was drawn. spot_clear, spot_restore: what hangs together with a place within `reach`, or all of
    that colour.
    """

    kind: TouchKind = Field(title="What is done")
    points: tuple[tuple[Across, Down], ...] = Field(min_length=1, max_length=MOST_POINTS, title="Where, point by point")
    width: float = Field(0.02, gt=0, le=2, title="Width of the stroke or mark")
    pressures: tuple[Pressure, ...] = Field(
        (), max_length=MOST_POINTS, title="Share of the width at each point; all of it if none"
    )
    reach: float = Field(4, ge=0.4, le=40, title="How far from the place's colour a spot reaches",
                         json_schema_extra={"unit": "OKLab / 100"})
    everywhere: bool = Field(False, title="All of the place's colour, not only what hangs together with it")

    @cached_property
    def places(self) -> NDArray[np.float64]:
        """The points as (N, 2) float64, worked out once."""
        return np.array(self.points, np.float64)

    @model_validator(mode="after")
    def _is_whole(self) -> Self:
        if self.pressures and len(self.pressures) != len(self.points):
            raise ValueError("a mark has one pressure for each of its points, or none")
        return self


class EnclosedChoice(StepSettings):
    """Whether one spot of enclosed background goes: a place in it, as a share of the picture's width."""

    x: float = Field(ge=-2, le=3, title="Where, across")
    y: float = Field(ge=-60, le=60, title="Where, down")
    take: bool = Field(title="Whether it goes")


class BackgroundSettings(StepSettings):
    """The Background step: what is taken away."""

    mode: Mode = Field("auto", title="Find it by itself, from the border, around the subject, keep everything, or take a colour")
    cutout: Literal["auto", CutoutName] = Field(
        "auto", title="Which cut-out of the subject, for the mode subject; the most likely one, or one by its name"
    )
    colour: str | None = Field(None, pattern=HEX, title="The background's colour, for the mode colour")
    reach: float | None = Field(
        None, ge=0.4, le=40, title="How far from its colour the background reaches; found by itself where not given",
        json_schema_extra={"unit": "OKLab / 100", "step": 0.2},
    )
    shadow: bool = Field(True, title="Shadow that the subject casts on a plain background goes with it")
    enclosed: Literal["auto", "all", "none"] = Field(
        "auto", title="Which background shut in by the drawing goes: only what is certain, all, or none"
    )
    enclosed_choices: tuple[EnclosedChoice, ...] = Field((), max_length=400, title="Single spots that go or stay")
    touches: tuple[Touch, ...] = Field((), max_length=MOST_TOUCHES, title="Strokes, spots and brush marks, in their order")
    loose_parts: bool = Field(
        False, title="Where all was kept at first: parts of it that no keep stroke touches stay, too"
    )
    edge_mm: float = Field(0, ge=-20, le=20, title="Outline moved out, or in where below zero", json_schema_extra={"unit": "mm"})
    edge_smooth_mm: float = Field(0, ge=0, le=10, title="Outline smoothed by this radius", json_schema_extra={"unit": "mm"})
    halo: bool = Field(True, title="Fuzz along the outline takes the subject's colour")
    parts_kept: Literal["all", "largest"] = Field("all", title="All parts of the subject, or the largest only")
    smallest_part_mm2: float = Field(
        0, ge=0, le=10_000, title="Smaller parts of the subject go", json_schema_extra={"unit": "mm²"}
    )
    reverse: bool = Field(False, title="Keep the background and drop the subject")
