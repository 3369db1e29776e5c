from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from bisectum.core.model.stock import LARGEST_MM, LONGEST_NAME, Stock, StockKind
from bisectum.core.patterns import CLOTH_ID, COLOUR_KEY, HEX, ITEM_ID, LAYER_ID, STOCK_ID
from bisectum.core.raster.colour import rgb_of
from bisectum.core.steps.settings import StepSettings

MOST_LAYERS = 256
MOST_ANCHORS = 200
MOST_CLOTHS = 8
LONGEST_CLOTH = 40
Build = Literal["whole", "lapped", "flush", "stacked"]


class Anchor(StepSettings):
    """What something done by hand holds on to: a colour of an item, and a place in it.

    The place is kept in shares of the width of the picture that came in, so it stays where it is when the picture is
    traced anew. It finds the colour again when another exposure has changed it.
    """

    item: str = Field(pattern=ITEM_ID, title="The item")
    colour: str = Field(pattern=COLOUR_KEY, title="The colour's key in the item's palette")
    x: float = Field(ge=-2, le=3, title="A place in it, across")
    y: float = Field(ge=-60, le=60, title="A place in it, down")


class CutFrom(StepSettings):
    """A stock as it was when it was chosen for a layer: the job stays as it is when the drawer changes, or loses it."""

    id: str = Field(pattern=STOCK_ID, title="Its id in the drawer")
    name: str = Field(min_length=1, max_length=LONGEST_NAME, pattern=r"\S", title="What it is called")
    kind: StockKind = Field(title="What it is")
    colour: str = Field(pattern=HEX, title="Its colour")
    width_mm: float = Field(gt=0, le=LARGEST_MM, title="Its width", json_schema_extra={"unit": "mm"})
    height_mm: float = Field(gt=0, le=LARGEST_MM, title="Its length", json_schema_extra={"unit": "mm"})
    patterned: bool = Field(False, title="Pieces of it are not turned")

    def stock(self) -> Stock:
        return Stock(self.name, self.kind, rgb_of(self.colour), self.width_mm, self.height_mm, patterned=self.patterned,
                     id=self.id)


class LayerRecord(StepSettings):
    """A layer that the person has said something about. Its id is given once and never used again."""

    id: str = Field(pattern=LAYER_ID, title="The layer's id")
    anchors: tuple[Anchor, ...] = Field(min_length=1, max_length=MOST_ANCHORS, title="The colours that are cut as this layer")
    name: str | None = Field(None, min_length=1, max_length=60, title="The layer's own name")
    colour: str | None = Field(None, pattern=HEX, title="The colour it is cut from")
    stock: CutFrom | None = Field(None, title="The stock it is cut from")


class Meeting(StepSettings):
    """How one layer meets another one that lies on it, where that is not as it is for all."""

    lower: str = Field(pattern=LAYER_ID, title="The layer below")
    upper: str = Field(pattern=LAYER_ID, title="The layer above")
    build: Build = Field(title="How they meet")


class Backing(StepSettings):
    """A solid shape under everything."""

    kind: Literal["none", "same", "margin"] = Field("none", title="None, the same outline, or one with a margin")
    margin_mm: float = Field(2, ge=0.1, le=100, title="How far it goes beyond what lies on it",
                             json_schema_extra={"unit": "mm", "step": 0.1})
    corners: Literal["round", "sharp"] = Field("round", title="What the corners of its margin are like")
    windows: Literal["keep", "fill"] = Field("fill", title="Whether windows within stay open or are filled")
    name: str | None = Field(None, min_length=1, max_length=60, title="What it is called")
    colour: str = Field("#ffffff", pattern=HEX, title="The colour it is cut from")
    stock: CutFrom | None = Field(None, title="The stock it is cut from")


class Reverse(StepSettings):
    """What is cut of a make in reverse: all that the make leaves open within a shape, and nothing else."""

    within: Literal["none", "frame", "ellipse", "outline"] = Field(
        "none", title="No reverse; within a frame around the make, an ellipse around it, or its own outline filled"
    )
    margin_mm: float = Field(5, ge=0.1, le=200, title="How far the shape goes beyond the make",
                             json_schema_extra={"unit": "mm", "step": 0.1})
    colour: str = Field("#ffffff", pattern=HEX, title="The colour it is cut from")
    stock: CutFrom | None = Field(None, title="The stock it is cut from")


class BareTones(StepSettings):
    """Which tones of a photograph are left to the cloth."""

    item: str = Field(pattern=ITEM_ID, title="The picture")
    tones: tuple[Annotated[int, Field(ge=0, lt=20)], ...] = Field(max_length=20, title="Numbers of its tones, darkest first")


class Variant(StepSettings):
    """The same make for another cloth. Its id is given once and never used again."""

    id: str = Field(pattern=CLOTH_ID, title="The variant's id")
    cloth: str = Field(min_length=1, max_length=LONGEST_CLOTH, pattern=r"\S", title="What the cloth is called")
    base: str = Field(pattern=HEX, title="The cloth's colour")
    bare: tuple[str, ...] = Field((), max_length=MOST_LAYERS, title="Ids of layers that the cloth itself shows")
    tones: tuple[BareTones, ...] = Field((), max_length=50, title="Tones of photographs that the cloth itself shows")
    reverse: Reverse = Field(default_factory=Reverse, title="What is cut in reverse")


class LayersSettings(StepSettings):
    """The Layers step: how layers meet, in which order, what they are called and cut from, and the cloths they are for."""

    build: Literal["auto", Build] = Field(
        "auto", title="Whole: pieces have no holes where something lies on them, and lap under their neighbours. Lapped: the lap "
                      "only. Flush: edge to edge. Stacked: each layer runs on under all above it. Automatic: flush for film that "
                      "is pressed on, whole for all else"
    )
    meetings: tuple[Meeting, ...] = Field((), max_length=1000, title="Pairs of layers that meet in another way")
    lap_mm: float = Field(
        0.5, ge=0.05, le=10, title="How far a whole or lapped layer reaches under those that it borders",
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
    material: StockKind = Field("adhesive vinyl", title="What layers are cut from that have no stock of their own")
    backing: Backing = Field(default_factory=Backing, title="A solid shape under everything")
    knock_out: bool = Field(False, title="Film of heat-transfer vinyl is left out where other film lies on it")
    knock_mm: float = Field(0.3, ge=0, le=5, title="The gap around film that lies above",
                            json_schema_extra={"unit": "mm", "step": 0.05})
    base: str = Field("#ffffff", pattern=HEX, title="The colour of what it is put on")
    cloth: str = Field("", max_length=LONGEST_CLOTH, title="What the cloth is called")
    bare: tuple[str, ...] = Field((), max_length=MOST_LAYERS, title="Ids of layers that the cloth itself shows")
    reverse: Reverse = Field(default_factory=Reverse, title="What is cut in reverse")
    variants: tuple[Variant, ...] = Field((), max_length=MOST_CLOTHS, title="The same make for other cloths")
