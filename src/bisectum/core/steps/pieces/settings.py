from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from bisectum.core.patterns import COLOUR_KEY, ITEM_ID
from bisectum.core.steps.settings import StepSettings

MOST_CHANGES = 2000
MOST_POINTS = 400
Across = Annotated[float, Field(ge=-2, le=3)]
Down = Annotated[float, Field(ge=-60, le=60)]
Fill = Literal["around", "open"]
ChangeKind = Literal["drop", "keep", "give", "own", "largest", "lift", "move", "grow", "smooth", "bar", "cut", "bridge"]
DRAWN = ("bar", "cut", "bridge")
WITH_AMOUNT = ("grow", "smooth", "bar", "cut", "bridge")


class Held(StepSettings):
    """What says which piece is meant: as in PieceChange."""

    x: Across = Field(title="Where, across")
    y: Down = Field(title="Where, down")
    area: float = Field(0, ge=0, le=200, title="How large it was")
    colour: str | None = Field(None, pattern=COLOUR_KEY, title="What colour it had; none for a window")


class PieceChange(StepSettings):
    """One change by hand of a piece or a window. Places are shares of the width of the picture that came in.

    x, y: a place well inside the piece; area: how large it was, in shares squared; colour: the key of its colour, none for a
    window. Together they say which piece is meant, after every new trace.
    drop: it goes; what lies around fills the place, or nothing does. A dropped window is closed. keep: no rule takes it. give:
    it becomes part of the layer `into`. own: it becomes a layer of its own. largest: of its colour only the largest piece stays.
    lift: it becomes the item `item`. move: it goes by dx, dy, turned and sized about its middle, and the pieces in `also` with
    it: all are lifted out, then all are set down; where one of them is not found none goes. grow: its outline goes
    outwards by amount_mm, inwards below zero. smooth: it is evened out to bends of no less than amount_mm. bar: a bar along
    `line`, amount_mm wide, melts into the layer `colour`. cut: what lies along `line`, amount_mm wide, is cut away, of the
    layer `colour` where it is given. bridge: as bar, and the bridges that a rule makes leave these ends alone.
    """

    kind: ChangeKind = Field(title="What is done")
    x: Across = Field(0, title="Where, across")
    y: Down = Field(0, title="Where, down")
    area: float = Field(0, ge=0, le=200, title="How large it was")
    colour: str | None = Field(None, pattern=COLOUR_KEY, title="What colour it had; none for a window")
    into: str | None = Field(None, pattern=COLOUR_KEY, title="Which layer it goes to")
    fill: Fill = Field("around", title="What fills its place")
    amount_mm: float = Field(0, ge=-20, le=50, title="By how much, or how wide", json_schema_extra={"unit": "mm", "step": 0.05})
    dx: float = Field(0, ge=-5, le=5, title="How far it goes, across")
    dy: float = Field(0, ge=-60, le=60, title="How far it goes, down")
    turn_deg: float = Field(0, ge=-360, le=360, title="Turned clockwise", json_schema_extra={"unit": "°"})
    scale: float = Field(1, ge=0.1, le=10, title="Made larger by")
    line: tuple[tuple[Across, Down], ...] = Field((), max_length=MOST_POINTS, title="Along what, place by place")
    item: str | None = Field(None, pattern=ITEM_ID, title="The item it has become")
    also: tuple[Held, ...] = Field((), max_length=MOST_CHANGES, title="Other pieces that go with it")

    @model_validator(mode="after")
    def _is_whole(self) -> Self:
        if self.kind == "give" and self.into is None:
            raise ValueError("a piece that is given away goes to a layer")
        if self.kind in DRAWN and len(self.line) < 2:
            raise ValueError("a drawn bar or cut has two places or more")
        if self.kind in ("bar", "bridge", "largest") and self.colour is None:
            raise ValueError("this change is of a colour")
        if self.kind in (*DRAWN, "smooth") and self.amount_mm <= 0:
            raise ValueError("this change has a width above zero")
        if self.kind == "lift" and self.item is None:
            raise ValueError("a piece that is lifted out becomes an item")
        return self


SMALLEST_MM2 = 1.0  # from memory: what can be weeded
OF_PEN = 0.2  # of its width squared: a dot of a pen is as large as this, or larger


class PiecesSettings(StepSettings):
    """The Pieces step: rules for all layers of a picture, and what is done by hand. Lengths are of the finished size."""

    smallest_mm2: float | None = Field(
        None, ge=0, le=400, title="Smallest piece; where not given 1 mm², and on a page of ink what its pen could not write",
        json_schema_extra={"unit": "mm²", "step": 0.1},
    )
    smallest_window_mm2: float | None = Field(
        None, ge=0, le=400, title="Smallest window, smaller ones are closed; where not given as the smallest piece",
        json_schema_extra={"unit": "mm²", "step": 0.1},
    )
    thinnest_mm: float = Field(
        0, ge=0, le=10, title="Thinnest part; hairs and necks that are thinner go", json_schema_extra={"unit": "mm", "step": 0.1}
    )
    fill: Fill = Field("around", title="What fills the place of what goes: what lies around it, or nothing")
    keep: Literal["all", "largest"] = Field("all", title="Which pieces of each colour stay")
    spare_telling: bool = Field(True, title="Small parts that stand out, with a colour of their own, stay")
    join_mm: float = Field(
        0, ge=0, le=10, title="Gaps within a layer that are narrower are closed", json_schema_extra={"unit": "mm", "step": 0.1}
    )
    thicken_mm: float = Field(
        0, ge=0, le=10, title="What is thinner is made so wide, and only there", json_schema_extra={"unit": "mm", "step": 0.1}
    )
    bridge_mm: float = Field(
        0, ge=0, le=20, title="Width of the bridges that tie everything together; none where zero",
        json_schema_extra={"unit": "mm", "step": 0.1},
    )
    changes: tuple[PieceChange, ...] = Field((), max_length=MOST_CHANGES, title="Changes by hand, in their order")

    def areas(self, pen_mm: float | None = None) -> tuple[float, float]:
        """How large pieces and windows are at least, mm². pen_mm: the width of the pen a page was written with, if it is one."""
        least = SMALLEST_MM2 if pen_mm is None else min(SMALLEST_MM2, OF_PEN * pen_mm**2)
        piece = self.smallest_mm2 if self.smallest_mm2 is not None else least
        return piece, self.smallest_window_mm2 if self.smallest_window_mm2 is not None else piece
