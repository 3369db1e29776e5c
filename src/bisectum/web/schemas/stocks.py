"""What the API says about stocks."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, BeforeValidator, Field

from bisectum.core.model.stock import KINDS, LARGEST_MM, LONGEST_NAME, Stock, StockKind
from bisectum.core.patterns import HEX, STOCK_ID
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.difference import Nearness
from bisectum.core.steps.sheets.settings import Carrier
from bisectum.core.text import one_line
from bisectum.services.stocks import Matches
from bisectum.store.stocks import Drawer
from bisectum.store.usage import Usage


class StockOut(BaseModel):
    """As it is kept, by whatever rules it once came in."""

    name: str
    kind: StockKind
    colour: str
    width_mm: float
    height_mm: float
    on_hand: bool
    finish: str
    patterned: bool
    id: str

    @classmethod
    def of(cls, stock: Stock) -> StockOut:
        kind = stock.kind if stock.kind in KINDS else "other"
        return cls(name=one_line(stock.name), kind=kind, colour=stock.colour, width_mm=stock.width_mm,
                   height_mm=stock.height_mm, on_hand=stock.on_hand, finish=one_line(stock.finish), patterned=stock.patterned,
                   id=stock.id)


Words = Annotated[str, BeforeValidator(lambda text: one_line(text) if isinstance(text, str) else text)]


class StockBody(BaseModel):
    name: Words = Field(min_length=1, max_length=LONGEST_NAME, pattern=r"\S")
    kind: StockKind
    colour: str = Field(pattern=HEX)
    width_mm: float = Field(gt=0, le=LARGEST_MM, allow_inf_nan=False)
    height_mm: float = Field(gt=0, le=LARGEST_MM, allow_inf_nan=False)
    on_hand: bool
    finish: Words = Field(max_length=LONGEST_NAME)
    patterned: bool = False
    id: str = Field("", pattern=f"^$|{STOCK_ID}")

    def stock(self) -> Stock:
        return Stock(self.name, self.kind, rgb_of(self.colour), self.width_mm, self.height_mm, self.on_hand, self.finish,
                     self.patterned, self.id)


class UsageOut(BaseModel):
    """What files that were taken along took of a stock: mm² of material, and how many makes."""

    taken_mm2: float
    makes: int


class DrawerOut(BaseModel):
    """version: to be sent back with a change, so that two windows do not overwrite each other. used: by the id of the stock."""

    version: str
    stocks: list[StockOut]
    used: dict[str, UsageOut]

    @classmethod
    def of(cls, drawer: Drawer, used: dict[str, Usage]) -> DrawerOut:
        return cls(version=drawer.version, stocks=[StockOut.of(stock) for stock in drawer.stocks],
                   used={stock: UsageOut(taken_mm2=own.taken_mm2, makes=own.makes) for stock, own in used.items()})


class DrawerChange(BaseModel):
    version: str = Field(max_length=64)
    stocks: list[StockBody] = Field(max_length=2000)


class MatchQuestion(BaseModel):
    colours: list[Annotated[str, Field(max_length=20)]] = Field(max_length=256)
    kind: StockKind | None = None


class MatchOut(BaseModel):
    """stock: number in the drawer; difference: CIEDE2000."""

    stock: int
    difference: float
    nearness: Nearness


class MatchesOut(BaseModel):
    """matches: one for each colour, none where no stock is of the kind. doubles: colours that would be cut from one stock.
    missing: names of stocks that are not on hand."""

    matches: list[MatchOut | None]
    doubles: list[list[int]]
    missing: list[str]

    @classmethod
    def of(cls, found: Matches) -> MatchesOut:
        return cls(
            matches=[MatchOut(stock=one.number, difference=one.difference, nearness=one.word) if one else None
                     for one in found.matches],
            doubles=[list(own) for own in found.doubles], missing=list(found.missing),
        )


class CarriersOut(BaseModel):
    """What materials lie on: what comes with the program, and the person's own."""

    shipped: list[Carrier]
    own: list[Carrier]


class CarriersChange(BaseModel):
    own: list[Carrier] = Field(max_length=100)
