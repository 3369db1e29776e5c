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

MadeKind = Literal["lettering", "shape", "drawn", "border", "lifted", "lines"]
ItemChanges = Mapping[str, Mapping[str, Any]]
"""By the items' ids: their fields; and of a picture width_mm, its finished width."""


@dataclass(frozen=True, slots=True)
class NewItem:
    """An item to be added. fields: made, place, part. places: where items come to lie that nobody had placed yet, so that they
    stay where they are seen. stroke: places of the pointer on the table, mm; mm_per_px: what a pixel of the screen was then.
    lifts: changes of the Pieces step of the picture that pieces are lifted out of."""

    kind: MadeKind
    name: str
    fields: dict[str, Any]
    places: dict[str, dict[str, Any]] = field(default_factory=dict)
    stroke: list[tuple[float, float]] = field(default_factory=list)
    mm_per_px: float = 0.1
    lifts: list[dict[str, Any]] = field(default_factory=list)


def with_new(document: JobDocument, new: NewItem) -> JobDocument:
    """A document with one more item. Raises: SettingsError, pydantic.ValidationError."""
    fields = dict(new.fields)
    _refuse_long(fields)
    if new.kind == "drawn" and new.stroke:
        nodes, closed, (x, y) = nodes_of_stroke(np.array(new.stroke, float), new.mm_per_px)
        fields["made"] = {**fields.get("made", {}), "nodes": nodes, "closed": closed}
        fields["place"] = {**fields.get("place", {}), "x_mm": x, "y_mm": y}
    document = with_changes(document, {name: {"place": place} for name, place in new.places.items()})
    document = document.with_made(new.kind, new.name, fields)
    added = document.items[0] if new.kind == "border" else document.items[-1]
    if isinstance(added, LiftedItem):
        pieces = document.picture(added.made.source).course.pieces
        lifts = [{**lift, "kind": "lift", "item": added.id} for lift in new.lifts]
        document = document.with_step(added.made.source, "pieces", {"changes": (*pieces.changes, *lifts)})
    return document


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
