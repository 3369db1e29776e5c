from __future__ import annotations

from typing import Literal

from pydantic import Field

from bisectum.core.steps.settings import StepSettings


class BackgroundSettings(StepSettings):
    """The Background step: what is taken away."""

    mode: Literal["auto", "keep", "colour"] = Field("auto", title="Find it by itself, keep everything, or take a colour")
    colour: str | None = Field(None, pattern=r"^#[0-9a-fA-F]{6}$", title="The background's colour, for the mode colour")
    reach: float | None = Field(
        None, ge=0.4, le=40, title="How far from its colour the background reaches; found by itself where not given",
        json_schema_extra={"unit": "OKLab / 100", "step": 0.2},
    )
