"""Documents of older forms, brought forward when they are read.

Version 1 had one picture, its layers among the steps of its course, and named layers by their colour. What was said about
a layer now holds on to (item, colour) and has an id. Version 2 told the smallest piece in the Colours step; now it is a rule
of the Pieces step, for pieces and windows alike. In version 3 the build "whole", which was also the default, ran every layer on
under all above it; that is called "stacked" now.
In version 4 a background could be found "around a person or an animal"; that is one of the subjects now.
"""

from __future__ import annotations

import re
from typing import Any

from bisectum.core.errors import DocumentError
from bisectum.core.job import JobDocument
from bisectum.core.patterns import ITEM_ID

NEWEST = 5


def read_document(data: Any) -> JobDocument:
    """A document of any version as one of the newest. Raises: DocumentError where it cannot be read."""
    version = data.get("version") if isinstance(data, dict) else None
    if isinstance(version, int) and version > NEWEST:
        raise DocumentError("This job was made by a newer Bisectum; start that one to open it.", code="document_newer",
                            version=version)
    try:
        for older, bring_forward in enumerate((_from_first, _from_second, _from_third, _from_fourth), 1):
            if data.get("version") == older:
                data = bring_forward(data)
        return JobDocument.model_validate(data)
    except (ValueError, LookupError, TypeError, AttributeError) as error:
        raise DocumentError("The settings of this job cannot be read any more. Its pictures are kept; take it out as a bundle.",
                            code="document_unreadable") from error


def _from_first(data: dict[str, Any]) -> dict[str, Any]:
    """Version 1 to version 2."""
    items: list[dict[str, Any]] = []
    records: list[dict[str, Any]] = []
    order: list[str] = []
    make: dict[str, Any] = {}
    minted = len(data["items"])
    for number, old in enumerate(data["items"], 1):
        course = dict(old["course"])
        layers = dict(course.pop("layers", {}))
        known = re.fullmatch(ITEM_ID, old["id"]) and int(old["id"].rsplit("-", 1)[1]) <= minted
        item_id = old["id"] if known else f"picture-{number}"
        items.append({"id": item_id, "kind": "picture", "name": _name_of(old), "source": old["source"],
                      "file_name": old["file_name"], "course": course})
        choices, wished = layers.pop("choices", {}), layers.pop("order", [])
        named = {}
        for colour in dict.fromkeys([*wished, *choices]):
            minted += 1
            named[colour] = f"layer-{minted}"
            # Where in the colour it holds on is not known; the colour itself is.
            anchor = {"item": item_id, "colour": colour.lower(), "x": 0.0, "y": 0.0}
            records.append({"id": named[colour], "anchors": [anchor], **choices.get(colour, {})})
        order += [named[colour] for colour in wished]
        make = make or layers
    return {"version": 2, "name": data["name"], "items": items, "minted": minted,
            "make": {"layers": {**make, "records": records, "order": order}}}


def _from_second(data: dict[str, Any]) -> dict[str, Any]:
    """Version 2 to version 3."""
    items = []
    for item in data["items"]:
        if item.get("kind", "picture") == "picture" and "course" in item:
            course, colours = dict(item["course"]), dict(item["course"].get("colours", {}))
            if "smallest_mm2" in colours:
                smallest = colours.pop("smallest_mm2")
                course["pieces"] = {"smallest_mm2": smallest, "smallest_window_mm2": smallest, **course.get("pieces", {})}
            item = {**item, "course": {**course, "colours": colours}}
        items.append(item)
    return {**data, "version": 3, "items": items}


def _from_third(data: dict[str, Any]) -> dict[str, Any]:
    """Version 3 to version 4."""
    make = dict(data.get("make", {}))
    layers = {"build": "whole", **make.get("layers", {})}
    meetings = [{**one, "build": _stacked(one["build"])} for one in layers.get("meetings", [])]
    make["layers"] = {**layers, "build": _stacked(layers["build"]), "meetings": meetings}
    return {**data, "version": 4, "make": make}


def _from_fourth(data: dict[str, Any]) -> dict[str, Any]:
    """Version 4 to version 5."""
    items = []
    for item in data["items"]:
        background = item.get("course", {}).get("background", {})
        if background.get("mode") == "person":
            item = {**item, "course": {**item["course"], "background": {**background, "mode": "subject"}}}
        items.append(item)
    return {**data, "version": 5, "items": items}


def _stacked(build: str) -> str:
    return "stacked" if build == "whole" else build


def _name_of(old: dict[str, Any]) -> str:
    stem = str(old["file_name"]).rsplit(".", 1)[0].strip()
    return stem or "picture"
