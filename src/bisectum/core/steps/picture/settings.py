from __future__ import annotations

from typing import Literal

from pydantic import Field

from bisectum.core.steps.settings import StepSettings


class PictureSettings(StepSettings):
    """The Picture step: how large the make is to be."""

    width_mm: float | None = Field(
        None, ge=5, le=3000, title="Finished width; the file's own size where it is not given",
        json_schema_extra={"unit": "mm", "step": 0.1},
    )
    measured: Literal["artwork", "picture"] = Field(
        "artwork", title="What the width measures, and the page shows: what is cut, or the picture's whole frame"
    )
