"""The palette of a picture file, for the command line."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from bisectum.core.course import CourseSettings
from bisectum.core.model.palette import Colour
from bisectum.core.model.stock import Stock, match
from bisectum.core.raster.regions import regions_of
from bisectum.core.steps.background.step import find_background
from bisectum.core.steps.colours.step import separate_colours
from bisectum.core.steps.picture.step import prepare_picture
from bisectum.services.decode import decode


def palette_of(data: bytes, settings: CourseSettings, stocks: Sequence[Stock] = ()) -> list[dict[str, Any]]:
    """One row for each colour. Raises: PictureError, SettingsError."""
    source, _ = decode(data)
    picture = prepare_picture(source.rgba, source.natural_mm_per_px, settings.picture)
    ground = find_background(picture, settings.background)
    label_map = separate_colours(picture.without(ground.cleared), ground, settings.colours)
    pieces = np.bincount(regions_of(label_map.labels).labels, minlength=len(label_map.palette.colours) + 1)
    names = label_map.palette.names()
    return [
        {"colour": colour.key, "name": name, "share": round(colour.share, 6), "pieces": int(pieces[number]),
         "small": colour.small, "pinned": colour.pinned, **stock_row(colour, stocks)}
        for number, (colour, name) in enumerate(zip(label_map.palette.colours, names, strict=True), 1)
    ]


def stock_row(colour: Colour, stocks: Sequence[Stock]) -> dict[str, Any]:
    """The stock nearest to a colour, empty without stocks."""
    found = match(colour.rgb, stocks)
    if found is None:
        return {}
    stock = stocks[found.number]
    return {"stock": stock.name, "difference": round(found.difference, 2), "nearness": found.word, "on_hand": stock.on_hand}


def as_table(rows: list[dict[str, Any]]) -> str:
    lines = [f"{'colour':<10}{'name':<20}{'share':>8}{'pieces':>8}  remarks"]
    for row in rows:
        remarks = [word for word, told in (("small", row["small"]), ("pinned", row["pinned"])) if told]
        if "stock" in row:
            buy = "" if row["on_hand"] else ", to be bought"
            remarks.append(f"{row['stock']} ({row['nearness']}, {row['difference']:.1f}{buy})")
        lines.append(f"{row['colour']:<10}{row['name']:<20}{row['share']:>8.2%}{row['pieces']:>8}  {', '.join(remarks)}".rstrip())
    return "\n".join(lines)
