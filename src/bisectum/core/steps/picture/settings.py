from __future__ import annotations

from typing import Literal

from pydantic import Field

from bisectum.core.steps.settings import StepSettings


class Crop(StepSettings):
    """The part that is used: a box in shares of the width of the picture that came in, after straightening."""

    x: float = Field(ge=-0.5, le=1.5, title="Left edge")
    y: float = Field(ge=-0.5, le=60, title="Top edge")
    width: float = Field(gt=0.002, le=1, title="Width of the part")
    height: float = Field(gt=0.002, le=60, title="Height of the part")


class PictureSettings(StepSettings):
    """The Picture step: how large the make is to be, and which part of the picture, how turned and how lit."""

    width_mm: float | None = Field(
        None, ge=5, le=3000, title="Finished width; the file's own size where it is not given",
        json_schema_extra={"unit": "mm", "step": 0.1},
    )
    measured: Literal["artwork", "picture"] = Field(
        "artwork", title="What the width measures, and the page shows: what is cut, or the picture's whole frame"
    )
    straighten_deg: float = Field(
        0, ge=-45, le=45, title="Turned clockwise by this much", json_schema_extra={"unit": "°", "step": 0.1}
    )
    crop: Crop | None = Field(None, title="The part that is used; all of it where not given")
    turn: Literal[0, 90, 180, 270] = Field(0, title="Quarter turns clockwise, in degrees")
    flip: bool = Field(False, title="Mirrored left to right")
    exposure: float = Field(0, ge=-3, le=3, title="Lighter or darker", json_schema_extra={"unit": "stops", "step": 0.05})
    contrast: float = Field(0, ge=-0.9, le=2, title="Contrast, 0 for as it is")
    black: int = Field(0, ge=0, le=250, title="Values up to this become black")
    white: int = Field(255, ge=5, le=255, title="Values from this on become white")
    enlarge: Literal[1, 2, 4] = Field(1, title="How many times as many pixels along a side")
