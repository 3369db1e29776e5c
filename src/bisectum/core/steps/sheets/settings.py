from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from bisectum.core.model.sheet import CarrierKind
from bisectum.core.model.stock import LARGEST_MM, LONGEST_NAME
from bisectum.core.patterns import ITEM_ID
from bisectum.core.steps.settings import StepSettings
from bisectum.core.units import MM_PER_INCH

MOST_COPIES = 500
MOST_BY_HAND = 2000


class Carrier(StepSettings):
    """What holds the material, as it was when it was chosen. The usable area lies in its middle; that of a roll begins at its
    end."""

    name: str = Field(min_length=1, max_length=LONGEST_NAME, pattern=r"\S", title="What it is called")
    kind: CarrierKind = Field(title="A mat, a roll or a card")
    width_mm: float = Field(gt=0, le=LARGEST_MM, title="Its width", json_schema_extra={"unit": "mm"})
    height_mm: float = Field(gt=0, le=LARGEST_MM, title="Its length", json_schema_extra={"unit": "mm"})
    usable_width_mm: float = Field(ge=0, le=LARGEST_MM, title="How wide one can cut", json_schema_extra={"unit": "mm"})
    usable_height_mm: float = Field(ge=0, le=LARGEST_MM, title="How long one can cut", json_schema_extra={"unit": "mm"})


def inches(name: str, width: float, height: float, usable_width: float, usable_height: float) -> Carrier:
    return Carrier(name=name, kind="mat", width_mm=width * MM_PER_INCH, height_mm=height * MM_PER_INCH,
                   usable_width_mm=usable_width * MM_PER_INCH, usable_height_mm=usable_height * MM_PER_INCH)


SMALL_MAT = inches("12 × 12 in mat", 12, 12, 11.5, 11.5)


class ItemCopies(StepSettings):
    """How often one item is cut for each make."""

    item: str = Field(pattern=ITEM_ID, title="The item")
    count: int = Field(ge=0, le=MOST_COPIES, title="How often for each make")


class ByHand(StepSettings):
    """Where a person put a part of a layer. It is found again by its layer, its copy and a place in it."""

    layer: Annotated[str, StringConstraints(max_length=20)] = Field(title="The layer's id, or its colour where it has none")
    copy_number: int = Field(ge=0, le=MOST_COPIES, title="Which copy")
    at_x: float = Field(ge=-5, le=6, title="A place in it, shares of the page's width")
    at_y: float = Field(ge=-100, le=101, title="The same down")
    sheet: int = Field(ge=0, le=999, title="The sheet of its stock, from 0")
    x_mm: float = Field(ge=-LARGEST_MM, le=LARGEST_MM, title="Where that place lies on the carrier, across")
    y_mm: float = Field(ge=-LARGEST_MM, le=LARGEST_MM, title="The same down")
    turn_deg: float = Field(0, ge=-360, le=360, title="Turned by", json_schema_extra={"unit": "°"})


class SheetsSettings(StepSettings):
    """The Sheets step: what the material lies on, and how pieces are laid out on it."""

    carrier: Carrier = Field(SMALL_MAT, title="What the material lies on")
    layout: Literal["in_place", "ganged"] = Field(
        "in_place", title="Every layer on a sheet of its own at the same place; or all of one stock close together"
    )
    spacing_mm: float = Field(3, ge=0, le=200, title="Room between pieces", json_schema_extra={"unit": "mm", "step": 0.5})
    margin_mm: float = Field(0, ge=0, le=200, title="Room along the edge of the usable area",
                             json_schema_extra={"unit": "mm", "step": 0.5})
    turns: Literal["none", "quarter", "any"] = Field("quarter", title="How pieces may be turned")
    copies: int = Field(1, ge=1, le=MOST_COPIES, title="How often the make is cut")
    of_items: tuple[ItemCopies, ...] = Field((), max_length=50, title="Items that are cut more or less often")
    fill: bool = Field(False, title="As many copies as one sheet takes")
    together: Literal["pieces", "near", "layer"] = Field(
        "near", title="What stays together: every piece by itself, pieces near each other, or all of a layer"
    )
    together_mm: float = Field(5, ge=0.1, le=100, title="How near", json_schema_extra={"unit": "mm", "step": 0.5})
    in_windows: bool = Field(False, title="Small pieces may lie in windows of large ones")
    seconds: int = Field(3, ge=1, le=120, title="How long a close layout is looked for", json_schema_extra={"unit": "s"})
    by_hand: tuple[ByHand, ...] = Field((), max_length=MOST_BY_HAND, title="Parts that a person put where they lie")
    turned: bool = Field(False, title="The make lies across the carrier")
    centred: bool = Field(False, title="In the middle of the usable area, else in its corner")
    mirror: Literal["by_material", "all", "none"] = Field(
        "by_material", title="Heat-transfer vinyl is cut mirrored; or all, for the back of glass; or nothing"
    )
    marks: Literal["none", "brackets", "cross", "triangles"] = Field("none", title="Register marks")
    mark_mm: float = Field(5, ge=2, le=30, title="How large they are", json_schema_extra={"unit": "mm", "step": 0.5})
    mark_off_mm: float = Field(3, ge=0, le=50, title="How far off the make", json_schema_extra={"unit": "mm", "step": 0.5})
    frame: bool = Field(False, title="A frame around what is cut, for weeding")
    frame_mm: float = Field(3, ge=0.5, le=50, title="How far off it stands", json_schema_extra={"unit": "mm", "step": 0.5})
    weed_every_mm: float = Field(0, ge=0, le=300, title="Cuts across the waste, so far apart; 0 for none",
                                 json_schema_extra={"unit": "mm", "step": 5})
    split: Literal["none", "straight", "calm"] = Field(
        "none", title="What is larger than the carrier: left, cut straight, or along the calmest way"
    )
    split_lap_mm: float = Field(3, ge=0, le=50, title="How far the parts of it lap", json_schema_extra={"unit": "mm", "step":
    0.5})
