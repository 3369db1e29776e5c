from __future__ import annotations

from typing import Literal

from pydantic import Field

from bisectum.core.steps.settings import StepSettings

HEX = r"^#[0-9a-fA-F]{6}$"


class LayerChoice(StepSettings):
    """What the person has said about one layer."""

    name: str | None = Field(None, min_length=1, max_length=60, title="The layer's own name")
    colour: str | None = Field(None, pattern=HEX, title="The colour it is cut from")


class LayersSettings(StepSettings):
    """The Layers step: how layers meet, in which order, and what they are called."""

    build: Literal["whole", "lapped", "flush"] = Field(
        "whole", title="Whole: each layer runs on under all above it. Lapped: by a set lap. Flush: edge to edge"
    )
    lap_mm: float = Field(
        0.5, ge=0.05, le=10, title="How far a lapped layer reaches under those above it",
        json_schema_extra={"unit": "mm", "step": 0.05},
    )
    order: tuple[str, ...] = Field((), max_length=64, title="Colours from the lowest up; others are put where they belong")
    choices: dict[str, LayerChoice] = Field(default_factory=dict, max_length=64, title="Names and colours of single layers")
    base: str = Field("#ffffff", pattern=HEX, title="The colour of what it is put on")
