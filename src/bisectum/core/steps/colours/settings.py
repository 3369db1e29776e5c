from __future__ import annotations

from typing import Literal

from pydantic import Field

from bisectum.core.steps.settings import StepSettings


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
