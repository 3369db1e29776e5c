"""Changes of items that are no pictures, and of how items lie: from what the screen sends to the document."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from bisectum.core.errors import SettingsError
from bisectum.core.items.drawn import nodes_of_stroke
from bisectum.core.items.settings import LONGEST_TEXT
from bisectum.core.job import JobDocument, LiftedItem
from bisectum.core.moves import DIGITS, Stand, Stands, pinned
from bisectum.services.compute import Outcome

MadeKind = Literal["lettering", "shape", "drawn", "border", "lifted", "lines"]
ItemChanges = Mapping[str, Mapping[str, Any]]
"""By the items' ids: their fields; and of a picture width_mm, its finished width."""


@dataclass(frozen=True, slots=True)
class NewItem:
    """An item to be added. fields: made, place, part; without a place it comes to lie in the middle of the page, without a size
    it is as large as suits the page. stroke: places of the pointer on the table, mm; mm_per_px: what a pixel of the screen was
    then. lifts: changes of the Pieces step of the picture that pieces are lifted out of."""

    kind: MadeKind
    name: str
    fields: dict[str, Any]
    stroke: list[tuple[float, float]] = field(default_factory=list)
    mm_per_px: float = 0.1
    lifts: list[dict[str, Any]] = field(default_factory=list)


SHARES = {"lettering": {"capital_mm": 0.09}, "shape": {"width_mm": 0.3, "height_mm": 0.28}}
"""Sizes of new items against the width of the page."""
LEAST_NEW_MM, MOST_CAPITAL_MM = 3.0, 500.0


def stands_of(outcome: Outcome) -> Stands:
    """Where the items of a result stand."""
    page = outcome.artwork.width, outcome.artwork.height
    return Stands({item.id: Stand(item.box, item.size) for item in outcome.items}, page, outcome.origin)


def with_new(document: JobDocument, new: NewItem, stands: Stands) -> JobDocument:
    """A document with one more item; the others stay where they stand. Raises: SettingsError, pydantic.ValidationError."""
    fields = _with_defaults(new, stands)
    _refuse_long(fields)
    if new.kind == "drawn" and new.stroke:
        nodes, closed, (x, y) = nodes_of_stroke(np.array(new.stroke, float), new.mm_per_px)
        fields["made"] = {**fields.get("made", {}), "nodes": nodes, "closed": closed}
        fields["place"] = {**fields.get("place", {}), "x_mm": x, "y_mm": y}
    document = pinned(document, stands).with_made(new.kind, new.name, fields)
    added = document.items[0] if new.kind == "border" else document.items[-1]
    if isinstance(added, LiftedItem):
        pieces = document.picture(added.made.source).course.pieces
        lifts = [{**lift, "kind": "lift", "item": added.id} for lift in new.lifts]
        document = document.with_step(added.made.source, "pieces", {"changes": (*pieces.changes, *lifts)})
    return document


def _with_defaults(new: NewItem, stands: Stands) -> dict[str, Any]:
    """Its fields with a place and a size; as they came where there is no page yet."""
    if not stands.of:
        return dict(new.fields)
    width, height = stands.page
    sizes = {name: min(MOST_CAPITAL_MM, max(LEAST_NEW_MM, round(width * share * 2) / 2))
             for name, share in SHARES.get(new.kind, {}).items()}
    middle = {"x_mm": round(width / 2 + stands.origin[0], DIGITS), "y_mm": round(height / 2 + stands.origin[1], DIGITS)}
    fields = dict(new.fields)
    if sizes:
        fields["made"] = sizes | fields.get("made", {})
    return fields if new.kind == "border" else {"place": middle} | fields


def with_changes(document: JobDocument, changes: ItemChanges) -> JobDocument:
    """A document with fields of items changed. Raises: NotFoundError, SettingsError, pydantic.ValidationError."""
    for item_id, own in changes.items():
        fields = dict(own)
        _refuse_long(fields)
        width = fields.pop("width_mm", None)
        if width is not None:
            document = document.with_step(item_id, "picture", {"width_mm": width})
        if fields:
            document = document.with_changed_item(item_id, fields)
    return document


def _refuse_long(fields: Mapping[str, Any]) -> None:
    """Say in words that a text is too long or empty, before its bounds do."""
    made = fields.get("made")
    text = made.get("text") if isinstance(made, dict) else None
    if isinstance(text, str) and len(text) > LONGEST_TEXT:
        raise SettingsError(f"This text has {len(text)} characters; {LONGEST_TEXT} are the most. Part it into several.",
                            code="text_too_long", most=LONGEST_TEXT, has=len(text))
    if isinstance(text, str) and not text.strip():
        raise SettingsError("There are no words in this lettering; write some, or take it out.", code="text_empty")
