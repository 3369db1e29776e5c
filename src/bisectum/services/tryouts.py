"""Try-outs of a picture file, for the command line: a plain SVG each, and a table."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from bisectum.core.course import CourseSettings
from bisectum.core.errors import SettingsError
from bisectum.core.formats.exporters import PLAIN, exporter
from bisectum.core.tryouts.try_out import recipes_of, try_out
from bisectum.services.decode import decode


@dataclass(frozen=True, slots=True)
class TriedFile:
    """svg: empty where nothing came out; row: of the table, with the reason then."""

    name: str
    svg: bytes
    row: dict[str, Any]


def try_outs_of(data: bytes, settings: CourseSettings) -> Iterator[TriedFile]:
    """One after the other, as they are made. Raises: PictureError, SettingsError."""
    source, _ = decode(data)
    cache: dict[str, Any] = {}
    svg = exporter("svg")
    for number, recipe in enumerate(recipes_of(source, settings, cache, like_this=False), 1):
        count = recipe.values.get("count")
        name = f"{number:02}-{recipe.code.replace('_', '-')}{f'-{count}' if count else ''}"
        try:
            made = try_out(source, recipe.treatment.on(settings), cache)
        except SettingsError as nothing:
            yield TriedFile(name, b"", {"name": name, "reason": nothing.message})
            continue
        made.artwork.check()
        text = svg.write(made.artwork, name, PLAIN)
        svg.verify(text, made.artwork, PLAIN)
        work = made.work
        yield TriedFile(name, text, {
            "name": name, "likeness": round(made.likeness, 1), "minutes": round(work.minutes, 1), "layers": work.layers,
            "pieces": work.pieces, "windows": work.windows, "nodes": work.nodes, "cut_mm": round(work.cut_mm, 1),
            "colours": recipe.treatment.colours, "lines": recipe.treatment.lines,
        })


def as_table(rows: list[dict[str, Any]]) -> str:
    lines = [f"{'try-out':<28}{'likeness':>9}{'minutes':>9}{'layers':>8}{'pieces':>8}{'nodes':>8}"]
    lines += [f"{row['name']:<28}{row['likeness']:>9}{row['minutes']:>9}{row['layers']:>8}{row['pieces']:>8}{row['nodes']:>8}"
              if "reason" not in row else f"{row['name']:<28}  {row['reason']}" for row in rows]
    return "\n".join(lines)
