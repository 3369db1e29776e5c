"""What the API says about items that are no pictures, and about fonts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, StringConstraints

from bisectum.core.job import LONGEST_NAME, MOST_ITEMS, JobDocument
from bisectum.core.moves import Move, Side, Stands, aligned, brought_to, fitted_in, spread
from bisectum.core.patterns import ITEM_ID
from bisectum.services.fonts import ShippedFont, Style
from bisectum.services.items import MadeKind, NewItem
from bisectum.web.schemas.jobs import At

MOST_POINTS = 20_000
Id = Annotated[str, StringConstraints(pattern=ITEM_ID)]
Length = Annotated[float, Field(ge=-40_000, le=40_000, allow_inf_nan=False)]
Size = Annotated[float, Field(gt=0, le=40_000, allow_inf_nan=False)]
Factor = Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)]
Fields = Annotated[dict[str, Any], Field(max_length=20)]
Did = Literal[
    "moved", "sized", "turned", "mirrored", "stretched", "locked", "unlocked", "hidden", "shown", "part", "text", "made",
    "coloured", "aligned", "spread", "node", "origin",
]


class ItemsPreview(BaseModel):
    """Own fields of items by their ids: name, place, part, hidden, origin, made; of a picture width_mm. What is not given
    stays."""

    items: dict[Id, Fields] = Field(min_length=1, max_length=MOST_ITEMS)


class ItemsChange(ItemsPreview, At):
    """did: a word for the history."""

    did: Did


class NewItemIn(At):
    """An item to be added: of lettering, a shape or a border what it is made from; of a drawn line the places of the pointer on
    the table, mm. lifts: of lifted pieces their changes of the Pieces step."""

    kind: MadeKind
    name: str = Field(min_length=1, max_length=LONGEST_NAME, pattern=r"\S")
    fields: Fields = Field(default_factory=dict)
    stroke: list[tuple[Length, Length]] = Field(default_factory=list, max_length=MOST_POINTS)
    mm_per_px: float = Field(0.1, gt=0, le=100, allow_inf_nan=False)
    lifts: list[Fields] = Field(default_factory=list, max_length=400)

    def new(self) -> NewItem:
        return NewItem(self.kind, self.name, self.fields, self.stroke, self.mm_per_px, self.lifts)


class MoveIn(BaseModel):
    """By how much an item moves, mm; how many times as wide and high it becomes; how far it is turned on, degrees clockwise."""

    dx: Length = 0.0
    dy: Length = 0.0
    fx: Factor = 1.0
    fy: Factor = 1.0
    turn: float = Field(0.0, ge=-720, le=720, allow_inf_nan=False)

    def move(self) -> Move:
        return Move(self.dx, self.dy, self.fx, self.fy, self.turn)


class MoveBy(BaseModel):
    """Each item by a move of its own."""

    act: Literal["by"]
    items: dict[Id, MoveIn] = Field(min_length=1, max_length=MOST_ITEMS)

    def moves(self, document: JobDocument, stands: Stands) -> Mapping[str, Move]:
        return {name: own.move() for name, own in self.items.items()}


class BringTo(BaseModel):
    """An item's middle to a place on the page, or the item made so wide or high in its proportions; what is not given stays."""

    act: Literal["to"]
    item: Id
    x: Length | None = None
    y: Length | None = None
    width: Size | None = None
    height: Size | None = None

    def moves(self, document: JobDocument, stands: Stands) -> Mapping[str, Move]:
        return brought_to(stands, self.item, self.x, self.y, self.width, self.height)


class FitIn(BaseModel):
    """An item as large as fits into a frame."""

    act: Literal["fit"]
    item: Id
    width: Size
    height: Size

    def moves(self, document: JobDocument, stands: Stands) -> Mapping[str, Move]:
        return fitted_in(stands, self.item, self.width, self.height)


class Align(BaseModel):
    """Edges or middles of items to one line, of one item to the page."""

    act: Literal["align"]
    items: list[Id] = Field(min_length=1, max_length=MOST_ITEMS)
    side: Side

    def moves(self, document: JobDocument, stands: Stands) -> Mapping[str, Move]:
        return aligned(document, stands, self.items, self.side)


class Spread(BaseModel):
    """Equal gaps between items."""

    act: Literal["spread"]
    items: list[Id] = Field(min_length=1, max_length=MOST_ITEMS)
    across: bool

    def moves(self, document: JobDocument, stands: Stands) -> Mapping[str, Move]:
        return spread(document, stands, self.items, self.across)


class ItemsMove(At):
    """How a hand moves items. did: a word for the history."""

    how: Annotated[MoveBy | BringTo | FitIn | Align | Spread, Field(discriminator="act")]
    did: Did

    @property
    def shifts(self) -> bool:
        """Whether it only shifts or turns."""
        return isinstance(self.how, MoveBy) and not any(own.move().sizes for own in self.how.items.values())


class Copies(At):
    """moves: how each copy is moved on from the item."""

    moves: list[MoveIn] = Field(min_length=1, max_length=MOST_ITEMS)


class FontOut(BaseModel):
    id: str
    name: str
    style: Style

    @classmethod
    def of(cls, font: ShippedFont) -> FontOut:
        return cls(id=font.id, name=font.name, style=font.style)
