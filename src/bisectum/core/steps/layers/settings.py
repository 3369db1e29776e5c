from __future__ import annotations

from typing import Literal

from pydantic import Field

from bisectum.core.patterns import COLOUR_KEY, HEX, ITEM_ID, LAYER_ID
from bisectum.core.steps.settings import StepSettings

MOST_LAYERS = 256
MOST_ANCHORS = 200


class Anchor(StepSettings):
    """What something done by hand holds on to: a colour of an item, and a place in it.

    The place is kept in shares of the width of the picture that came in, so it stays where it is when the picture is
    traced anew. It finds the colour again when another exposure has changed it.
    """

    item: str = Field(pattern=ITEM_ID, title="The item")
    colour: str = Field(pattern=COLOUR_KEY, title="The colour's key in the item's palette")
    x: float = Field(ge=-2, le=3, title="A place in it, across")
    y: float = Field(ge=-60, le=60, title="A place in it, down")


class LayerRecord(StepSettings):
    """A layer that the person has said something about. Its id is given once and never used again."""

    id: str = Field(pattern=LAYER_ID, title="The layer's id")
    anchors: tuple[Anchor, ...] = Field(min_length=1, max_length=MOST_ANCHORS, title="The colours that are cut as this layer")
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
    order: tuple[str, ...] = Field(
        (), max_length=MOST_LAYERS, title="Ids of layers from the lowest up; others are put where they belong"
    )
    records: tuple[LayerRecord, ...] = Field((), max_length=MOST_LAYERS, title="Layers that something was said about")
    folds: Literal["score", "perforate"] = Field(
        "score", title="Folds are scored, or cut in dashes by a machine that has no tool for scoring"
    )
    perforation_mm: float = Field(
        3, ge=0.2, le=50, title="Length of the cuts along a fold", json_schema_extra={"unit": "mm", "step": 0.1}
    )
    perforation_gap_mm: float = Field(
        2, ge=0.2, le=50, title="What holds between the cuts along a fold", json_schema_extra={"unit": "mm", "step": 0.1}
    )
    base: str = Field("#ffffff", pattern=HEX, title="The colour of what it is put on")
