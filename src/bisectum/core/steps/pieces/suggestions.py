"""What looks as if it should go, and is left to the person."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import bounds
from bisectum.core.model.inside import place_inside
from bisectum.core.model.offset import outlines, outlines_of_faces
from bisectum.core.model.piece_map import Suggestion
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.steps.pieces.faces import Faces

LIKE_GROUND = 10.0  # CIEDE2000: hardly another colour (common practice, no source)
SMALL_SHARE = 0.02  # of what is cut: more is no left-over
AROUND, HOLLOW = 0.97, 0.35  # of the whole width and height that a frame has; of its own box that it fills at most
FEWEST_SPECKS, SPECK_MM2 = 5, 4.0


def suggestions(planar: PlanarMap, faces: Faces, ground: tuple[int, int, int] | None, scale: float) -> tuple[Suggestion, ...]:
    """planar: the map whose net the graph is of; ground: the colour of the background, where it has one; scale: mm of the
    finished size to a mm of the map."""
    cut = [face for face in faces.roots() if faces.label[face] > 0]
    found = [("ground_left", _ground_left(planar, faces, cut, ground)), ("frame", _frame(planar, faces, cut)),
             ("specks", _specks(faces, cut, scale))]
    return tuple(Suggestion(kind, _places(planar, own)) for kind, own in found if own)  # type: ignore[arg-type]


def _places(planar: PlanarMap, own: list[int]) -> NDArray[np.float64]:
    drawn = outlines_of_faces(planar, [face - 1 for face in own])
    return np.array([place_inside(drawn[face - 1][0]) for face in own])


def _ground_left(planar: PlanarMap, faces: Faces, cut: list[int], ground: tuple[int, int, int] | None) -> list[int]:
    """Small pieces of hardly another colour than the ground."""
    if ground is None:
        return []
    lab = cielab(np.array([ground, *(colour.rgb for colour in planar.palette.colours)], np.uint8))
    away = ciede2000(lab[1:], lab[:1])
    whole = sum(faces.area[face] for face in cut)
    found = [face for face in cut if away[faces.label[face] - 1] < LIKE_GROUND and faces.area[face] < SMALL_SHARE * whole]
    return found if len(found) < len(cut) else []


def _frame(planar: PlanarMap, faces: Faces, cut: list[int]) -> list[int]:
    """One piece that runs around all others."""
    if len(cut) < 2:
        return []
    every = np.append(planar.face_labels > 0, False)
    left, top, right, bottom = bounds(outlines(planar, every)[0])
    largest = sorted(cut, key=lambda own: -faces.area[own])[:8]
    drawn = outlines_of_faces(planar, [face - 1 for face in largest])
    for face in largest:
        a, b, c, d = bounds(drawn[face - 1][0])
        hollow = faces.area[face] < HOLLOW * (c - a) * (d - b)
        if hollow and c - a > AROUND * (right - left) and d - b > AROUND * (bottom - top):
            return [face]
    return []


def _specks(faces: Faces, cut: list[int], scale: float) -> list[int]:
    """Several small pieces of one colour between the same two others: what an edge has left."""
    groups: dict[tuple[int, ...], list[int]] = {}
    for face in cut:
        if faces.area[face] * scale**2 < SPECK_MM2:
            around = sorted({faces.label[other] for other in faces.beside[face]})
            if len(around) == 2:
                groups.setdefault((faces.label[face], *around), []).append(face)
    best = max(groups.values(), key=len, default=[])
    return best if len(best) >= FEWEST_SPECKS else []
