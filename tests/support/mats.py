"""Makes for laying out, and what is really in a file of a sheet: read by svgelements, measured by shapely."""

from __future__ import annotations

import io
from dataclasses import replace
from typing import Any

import numpy as np
import svgelements
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from bisectum.core.formats.exporters import export
from bisectum.core.geom.bezier import bounds
from bisectum.core.items.lettering import lettering_rings
from bisectum.core.items.ready import welded
from bisectum.core.items.settings import Lettering, Shape
from bisectum.core.items.shapes import shape_rings
from bisectum.core.model.artwork import Artwork, Layer, Piece
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.shapes_of import moved as put
from bisectum.core.model.shapes_of import shape_of
from bisectum.core.model.sheet import SheetPlan
from bisectum.core.model.stroke import Stroke
from bisectum.core.steps.sheets.nest import Layouts
from bisectum.core.steps.sheets.settings import SheetsSettings
from bisectum.core.steps.sheets.step import Desk, lay_out
from bisectum.services.fonts import shipped_files
from bisectum.services.nester import nest

FORMS = ("rectangle", "ellipse", "star", "heart", "polygon", "drop", "tag")
RED, BLUE = (196, 66, 46), (46, 92, 122)


def shape(form: str, width: float, height: float, at: tuple[float, float], **more: Any) -> tuple[Piece, ...]:
    planar = welded(shape_rings(Shape(form=form, width_mm=width, height_mm=height, **more)), "#000000")  # type: ignore[arg-type]
    return moved(pieces_of_faces(planar, np.append(planar.face_labels > 0, False), False), at)


def letters(text: str, capital: float, at: tuple[float, float]) -> tuple[Piece, ...]:
    made = Lettering(text=text, capital_mm=capital)
    rings, _ = lettering_rings(made, {made.font: shipped_files(made.font)})
    planar = welded(rings, "#000000")
    return moved(pieces_of_faces(planar, np.append(planar.face_labels > 0, False), False), at)


def moved(pieces: tuple[Piece, ...], at: tuple[float, float]) -> tuple[Piece, ...]:
    shift = np.array([[1.0, 0.0, at[0]], [0.0, 1.0, at[1]]])
    return tuple(piece.placed(shift) for piece in pieces)


def mixed(count: int, seed: int, largest: float = 60.0) -> tuple[Piece, ...]:
    """Shapes and letters of many sizes, none on another."""
    rng = np.random.default_rng(seed)
    found: list[Piece] = []
    words = "QUILHAVENBRSTY4789&"
    for k in range(count):
        at = (40 + 1.6 * largest * (k % 10), 40 + 1.6 * largest * (k // 10))
        width, height = rng.uniform(0.25 * largest, largest, 2)
        if k % 3 == 2:
            found += letters(words[int(rng.integers(len(words)))], 0.7 * width, at)[:1]
        else:
            found += shape(FORMS[int(rng.integers(len(FORMS)))], width, height, at, hole_mm=0.15 * min(width, height))
    return tuple(found)


def artwork(*layers: tuple[Piece, ...], size: tuple[float, float] = (200, 150), **more: Any) -> Artwork:
    colours = [RED, BLUE, (240, 196, 84), (250, 250, 248)]
    made = tuple(Layer(f"#{k:06x}", f"Layer {k + 1}", colours[k % 4], pieces) for k, pieces in enumerate(layers))
    found = replace(Artwork(made, *size, "whole"), **more)
    found.check()
    return found


def folded() -> Artwork:
    """Letters, shapes with windows, and a fold and a pen line."""
    flat = artwork((*shape("frame", 60, 40, (40, 30), band_mm=6), *letters("Qa8&", 14, (90, 60))),
                   (*shape("heart", 20, 18, (40, 30)), *shape("tag", 30, 20, (110, 20), hole_mm=4)), size=(140, 80))
    bend = np.array([[(5, 70), (25, 60), (45, 80), (65, 70)]], float)
    level = np.array([[(5, 75), (25, 75), (45, 75), (65, 75)]], float)
    strokes = tuple(Stroke(segments, np.array([straight]), role, role, 0.5, (5.0, 70.0))  # type: ignore[arg-type]
                    for segments, straight, role in ((bend, False, "score"), (level, True, "draw")))
    return replace(flat, layers=(replace(flat.layers[0], strokes=strokes), flat.layers[1]))


def fitted(*layers: tuple[Piece, ...]) -> Artwork:
    """On a page that is no larger than what is cut."""
    left, top, right, bottom = bounds(np.concatenate([piece.outline.segments for own in layers for piece in own]))
    return artwork(*(moved(own, (-left, -top)) for own in layers), size=(right - left, bottom - top))


def planned(make: Artwork, layouts: Layouts | None = None, material: Any = "adhesive vinyl", **settings: Any) -> SheetPlan:
    """Laid out; the plan and every drawing of it are sound."""
    desk = Desk(SheetsSettings.model_validate({"seconds": 1, **settings}), material, nest, {} if layouts is None else layouts)
    plan = lay_out(make, desk)
    plan.check()
    for number in range(len(plan.sheets)):
        plan.drawn(number).check()
    return plan


def in_file(plan: SheetPlan, number: int) -> dict[str, list[NDArray[np.float64]]]:
    """What is cut on a sheet, as it stands in its file: by layer, each subpath as many points. mm."""
    document = svgelements.SVG.parse(io.BytesIO(export("svg", plan.drawn(number), "sheet")), ppi=25.4)
    found: dict[str, list[NDArray[np.float64]]] = {}
    for group in document:
        for path in group if isinstance(group, svgelements.Group) else ():
            if isinstance(path, svgelements.Path):
                for sub in path.as_subpaths():
                    own = svgelements.Path(sub)
                    points = [segment.point(t) for segment in own if not isinstance(segment, svgelements.Move)
                              for t in np.linspace(0, 1, 33)[:-1]]
                    found.setdefault(str(group.id), []).append(np.array([(point.x, point.y) for point in points]))
    return found


def pieces_on(plan: SheetPlan, number: int) -> list[BaseGeometry]:
    """The pieces on a sheet, finely flattened, before it is mirrored; one geometry for each part."""
    return [put(shape_of(plan.parts[laid.part].pieces, plan.parts[laid.part].strokes, 0.002), laid.matrix)
            for laid in plan.sheets[number].laid]
