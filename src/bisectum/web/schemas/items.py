"""What the API says about items that are no pictures, and about fonts."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, StringConstraints

from bisectum.core.job import LONGEST_NAME, MOST_ITEMS
from bisectum.core.patterns import ITEM_ID
from bisectum.services.fonts import ShippedFont, Style
from bisectum.services.items import MadeKind, NewItem
from bisectum.web.schemas.jobs import Revision

MOST_POINTS = 20_000
Id = Annotated[str, StringConstraints(pattern=ITEM_ID)]
Length = Annotated[float, Field(ge=-40_000, le=40_000, allow_inf_nan=False)]
Fields = Annotated[dict[str, Any], Field(max_length=20)]
Did = Literal[
    "moved", "sized", "turned", "mirrored", "stretched", "locked", "unlocked", "hidden", "shown", "part", "text", "made",
    "coloured", "aligned", "spread", "node", "origin",
]


class ItemsPreview(BaseModel):
    """Own fields of items by their ids: name, place, part, hidden, origin, made; of a picture width_mm. What is not given
    stays."""

    items: dict[Id, Fields] = Field(min_length=1, max_length=MOST_ITEMS)


class ItemsChange(ItemsPreview):
    """did: a word for the history."""

    revision: Revision
    did: Did
    ticket: str | None = Field(None, pattern=r"^[\w-]{1,40}$")


class NewItemPreview(BaseModel):
    """An item to be added: of lettering, a shape or a border what it is made from; of a drawn line the places of the pointer on
    the table, mm. places: of items that nobody had placed yet. lifts: of lifted pieces their changes of the Pieces step."""

    kind: MadeKind
    name: str = Field(min_length=1, max_length=LONGEST_NAME, pattern=r"\S")
    fields: Fields = Field(default_factory=dict)
    places: dict[Id, Fields] = Field(default_factory=dict, max_length=MOST_ITEMS)
    stroke: list[tuple[Length, Length]] = Field(default_factory=list, max_length=MOST_POINTS)
    mm_per_px: float = Field(0.1, gt=0, le=100, allow_inf_nan=False)
    lifts: list[Fields] = Field(default_factory=list, max_length=400)

    def new(self) -> NewItem:
        return NewItem(self.kind, self.name, self.fields, self.places, self.stroke, self.mm_per_px, self.lifts)


class NewItemIn(NewItemPreview):
    revision: Revision
    ticket: str | None = Field(None, pattern=r"^[\w-]{1,40}$")


class Copies(BaseModel):
    """places: fields of the place of each copy."""

    revision: Revision
    places: list[Fields] = Field(min_length=1, max_length=MOST_ITEMS)


class FontOut(BaseModel):
    id: str
    name: str
    style: Style

    @classmethod
    def of(cls, font: ShippedFont) -> FontOut:
        return cls(id=font.id, name=font.name, style=font.style)
