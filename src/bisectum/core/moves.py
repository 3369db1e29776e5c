"""How a hand moves, sizes and lines up the items of a make: from where they stand to a document with their new places.

All lengths are mm on the page, from its upper left corner. A locked item, a border and a hidden item stay where they are.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from bisectum.core.items.settings import MadeSettings
from bisectum.core.job import BorderItem, Item, JobDocument, PictureItem
from bisectum.core.steps.arrange.step import Box

Side = Literal["left", "middle", "right", "top", "centre", "bottom"]
DIGITS = 4  # behind the point of a mm that is kept


@dataclass(frozen=True, slots=True)
class Stand:
    """Where an item stands. box: left, top, right, bottom; size: width and height before it is turned."""

    box: Box
    size: tuple[float, float]

    @property
    def middle(self) -> tuple[float, float]:
        left, top, right, bottom = self.box
        return (left + right) / 2, (top + bottom) / 2


@dataclass(frozen=True, slots=True)
class Stands:
    """Where all items stand, by their ids, hidden ones left out. page: its width and height; origin: its upper left corner on
    the table, where places are kept from."""

    of: Mapping[str, Stand]
    page: tuple[float, float]
    origin: tuple[float, float]

    @classmethod
    def unseen(cls, document: JobDocument) -> Stands | None:
        """Without boxes and sizes, for moves that only shift and turn; None where an item must be seen, as nobody placed it."""
        shown = [item for item in document.items if not item.hidden]
        if not all(item.place.is_given or isinstance(item, BorderItem) for item in shown):
            return None
        nothing = Stand((0.0, 0.0, 0.0, 0.0), (0.0, 0.0))
        return cls({item.id: nothing for item in shown}, (0.0, 0.0), (0.0, 0.0))


@dataclass(frozen=True, slots=True)
class Move:
    """By how much an item moves, how many times as wide and high it becomes, and how far it is turned on, degrees clockwise."""

    dx: float = 0.0
    dy: float = 0.0
    fx: float = 1.0
    fy: float = 1.0
    turn: float = 0.0

    @property
    def sizes(self) -> bool:
        return (self.fx, self.fy) != (1, 1)


def moved(document: JobDocument, stands: Stands, moves: Mapping[str, Move]) -> JobDocument:
    """A document with items moved, each by its own move. Raises: NotFoundError, pydantic.ValidationError."""
    document = pinned(document, stands)
    for item_id, move in moves.items():
        item = document.item(item_id)
        if _can_move(item, stands):
            document = _moved(document, item, stands.of[item_id], move)
    return document


def pinned(document: JobDocument, stands: Stands) -> JobDocument:
    """A document in which items that nobody has placed have the place where they stand, so that they stay there whatever else
    moves."""
    for item in document.items:
        if item.id in stands.of and not isinstance(item, BorderItem) and not item.place.is_given:
            x, y = stands.of[item.id].middle
            document = document.with_changed_item(item.id, {"place": {
                "x_mm": round(x + stands.origin[0], DIGITS), "y_mm": round(y + stands.origin[1], DIGITS)}})
    return document


def brought_to(
    stands: Stands, item: str, x: float | None = None, y: float | None = None, width: float | None = None,
    height: float | None = None,
) -> dict[str, Move]:
    """The move that brings an item's middle to a place, or makes it so wide or high in its proportions. None for one that is
    hidden."""
    if item not in stands.of:
        return {}
    stand = stands.of[item]
    factor = width / stand.size[0] if width is not None else height / stand.size[1] if height is not None else 1.0
    middle = stand.middle
    dx, dy = x - middle[0] if x is not None else 0.0, y - middle[1] if y is not None else 0.0
    return {item: Move(dx, dy, factor, factor)}


def fitted_in(stands: Stands, item: str, width: float, height: float) -> dict[str, Move]:
    """The move that makes an item as large as fits into a frame. None for one that is hidden."""
    if item not in stands.of:
        return {}
    left, top, right, bottom = stands.of[item].box
    factor = min(width / (right - left), height / (bottom - top))
    return {item: Move(fx=factor, fy=factor)}


def copied(document: JobDocument, stands: Stands, item_id: str, moves: Sequence[Move]) -> JobDocument:
    """A document with copies of an item, each moved on from it. Raises: NotFoundError, SettingsError."""
    document = pinned(document, stands)
    place = document.item(item_id).place
    return document.with_copies(item_id, [{
        "x_mm": round((place.x_mm or 0.0) + move.dx, DIGITS), "y_mm": round((place.y_mm or 0.0) + move.dy, DIGITS),
        "turn_deg": _turned(place.turn_deg, move.turn)} for move in moves])


def aligned(document: JobDocument, stands: Stands, items: Sequence[str], side: Side) -> dict[str, Move]:
    """The moves that bring edges or middles to one line: that of all of them, or of the page for one alone."""
    own = _movable(document, stands, items)
    line = _around(stands.of[name].box for name in items if name in stands.of) if len(own) > 1 else (0.0, 0.0, *stands.page)
    at = {"left": 0, "middle": 0, "right": 2, "top": 1, "centre": 1, "bottom": 3}[side]

    def place(box: Box) -> float:
        return (box[at] + box[at + 2]) / 2 if side in ("middle", "centre") else box[at]

    across = side in ("left", "middle", "right")
    by = {name: place(line) - place(stands.of[name].box) for name in own}
    return {name: Move(dx=much) if across else Move(dy=much) for name, much in by.items()}


def spread(document: JobDocument, stands: Stands, items: Sequence[str], across: bool) -> dict[str, Move]:
    """The moves that leave equal gaps between three or more; the first and the last stay."""
    low, high = (0, 2) if across else (1, 3)
    own = sorted(_movable(document, stands, items), key=lambda name: stands.of[name].box[low])
    if len(own) < 3:
        return {}
    boxes = [stands.of[name].box for name in own]
    gap = (boxes[-1][high] - boxes[0][low] - sum(box[high] - box[low] for box in boxes)) / (len(own) - 1)
    moves, at = {}, boxes[0][low]
    for name, box in zip(own, boxes, strict=True):
        moves[name] = Move(dx=at - box[low]) if across else Move(dy=at - box[low])
        at += box[high] - box[low] + gap
    return moves


def _movable(document: JobDocument, stands: Stands, items: Iterable[str]) -> list[str]:
    return [name for name in dict.fromkeys(items) if _can_move(document.item(name), stands)]


def _can_move(item: Item, stands: Stands) -> bool:
    return item.id in stands.of and not isinstance(item, BorderItem) and not item.place.locked


def _around(boxes: Iterable[Box]) -> Box:
    lefts, tops, rights, bottoms = zip(*boxes, strict=True)
    return min(lefts), min(tops), max(rights), max(bottoms)


def _moved(document: JobDocument, item: Item, stand: Stand, move: Move) -> JobDocument:
    """Only what the move changes is changed: a typed place across leaves that down as it is kept."""
    place: dict[str, float] = {}
    if move.dx:
        place["x_mm"] = round((item.place.x_mm or 0.0) + move.dx, DIGITS)
    if move.dy:
        place["y_mm"] = round((item.place.y_mm or 0.0) + move.dy, DIGITS)
    if move.turn:
        place["turn_deg"] = _turned(item.place.turn_deg, move.turn)
    if move.sizes:
        keeps_form = isinstance(item, PictureItem) or not item.made.IS_FREE
        if keeps_form and move.fx != move.fy:
            place["stretch"] = round(item.place.stretch * move.fy / move.fx, DIGITS)
        document = _sized(document, item, stand, move)
    return document.with_changed_item(item.id, {"place": place}) if place else document


def _turned(degrees: float, by: float) -> float:
    return round((degrees + by + 180) % 360 - 180, DIGITS)


def _sized(document: JobDocument, item: Item, stand: Stand, move: Move) -> JobDocument:
    if isinstance(item, PictureItem):
        return document.with_step(item.id, "picture", {"width_mm": round(stand.size[0] * move.fx, DIGITS)})
    made: MadeSettings = item.made
    return document.with_item(item.id, made=made.sized(move.fx, move.fy))
