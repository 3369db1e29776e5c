"""Outlines at a distance: of faces of a planar map, outwards or inwards.

What the outlines sweep over on the way (core/geom/sweep.py) is laid over the map; added to the faces, or taken away from them,
it gives the new outline. Thin parts vanish, and what comes to touch grows together, without being looked for.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.hermite import fewer_curves
from bisectum.core.geom.overlay.network import Curves
from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.geom.sweep import FIT_MM, Corners, swept
from bisectum.core.model.picture import frozen
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel, without_slivers

SPECK_MM2 = 1e-4  # a hundredth of a millimetre across: smaller is what rounding leaves where bends are tight
Windows = Literal["keep", "drop"]


def curves_of(planar: PlanarMap, matrix: NDArray[np.float64] | None = None, sound: bool = True) -> Curves:
    """A map as an input of an overlay, there face f has the label f + 1. matrix : (2, 3), where it is laid.

    sound: it is known that no line crosses another one.
    """
    count = len(planar.face_labels)
    value = (planar.sides.astype(np.int64) + 1) % (count + 1)
    change = np.repeat(value[:, 0] - value[:, 1], np.diff(planar.first)).astype(np.int32)
    segments = planar.segments
    if matrix is not None:
        segments = segments @ matrix[:, :2].T + matrix[:, 2]
        if np.linalg.det(matrix[:, :2]) < 0:
            change = -change
    return Curves(np.ascontiguousarray(segments), planar.straight, change, planar=sound)


def rings_of(segments: NDArray[np.float64], straight: NDArray[np.bool_]) -> Curves:
    """Closed rings as an input of an overlay, there labels are winding numbers: 1 within a ring that runs clockwise."""
    return Curves(np.ascontiguousarray(segments), straight, np.full(len(segments), -1, np.int32), planar=False)


Outlines = tuple[NDArray[np.float64], NDArray[np.bool_], NDArray[np.int64]]


def outlines(planar: PlanarMap, inside: NDArray[np.bool_], windows: Windows = "keep") -> Outlines:
    """The outlines of faces taken together, walked with them at the right. inside : (F + 1,) bool, the last for the open page.

    windows: whether those within are among them. Returns (S, 4, 2), (S,) straight, and where each begins : (R + 1,).
    """
    return outlines_and_beyond(planar, inside, windows)[:3]


def outlines_and_beyond(
    planar: PlanarMap, inside: NDArray[np.bool_], windows: Windows = "keep"
) -> tuple[NDArray[np.float64], NDArray[np.bool_], NDArray[np.int64], NDArray[np.int32]]:
    """The outlines of faces, and for each segment the face on its other side : (S,), -1 for the open page."""
    areas = planar.half_areas()
    loops = [loop for _, loop in planar.loops(inside) if windows == "keep" or areas[loop].sum() > 0]
    walks = [planar.walk(half) for loop in loops for half in loop]
    of_chain = np.diff(planar.first)
    sizes = np.array([of_chain[np.array(loop) >> 1].sum() for loop in loops], np.int64)
    if not walks:
        return np.empty((0, 4, 2)), np.empty(0, bool), np.zeros(1, np.int64), np.empty(0, np.int32)
    halves = np.concatenate(loops)
    return (np.concatenate([walk[0] for walk in walks]), np.concatenate([walk[1] for walk in walks]),
            np.concatenate([[0], np.cumsum(sizes)]), np.repeat(planar.sides.ravel()[halves], of_chain[halves >> 1]))


def outlines_of_faces(planar: PlanarMap, faces: Collection[int]) -> dict[int, tuple[NDArray[np.float64], NDArray[np.bool_]]]:
    """The outlines of single faces, each with its windows: (S, 4, 2), (S,) straight, one after the other. faces: numbers."""
    wanted = set(faces)
    walks: dict[int, list[tuple[NDArray[np.float64], NDArray[np.bool_]]]] = {}
    for face, loop in planar.loops():
        if face in wanted:
            walks.setdefault(face, []).extend(planar.walk(half) for half in loop)
    return {face: (np.concatenate([one[0] for one in own]), np.concatenate([one[1] for one in own]))
            for face, own in walks.items()}


def sweep_of(
    planar: PlanarMap, inside: NDArray[np.bool_], distance: float, corners: Corners = "round", windows: Windows = "keep",
) -> Curves:
    """What lies within a distance (mm) of faces, outwards above zero, inwards below, as an input of an overlay."""
    return rings_of(*swept(*outlines(planar, inside, windows), distance, corners))


def offset(
    planar: PlanarMap, inside: NDArray[np.bool_], distance: float, corners: Corners = "round", windows: Windows = "keep",
    **of_map: Any,
) -> PlanarMap:
    """Faces with their outline at a distance, all with label 1. inside : (F + 1,) bool; distance: mm, inwards below zero.

    windows "drop": those of the faces are filled. of_map: as for relabel.
    """
    own = rings_of(*outlines(planar, inside, windows)[:2])
    if not distance:
        over = overlay([own])
        return relabel(over, over.labels[:, 0] > 0, **of_map)
    over = overlay([own, sweep_of(planar, inside, distance, corners, windows)])
    within, near = over.labels[:, 0] > 0, over.labels[:, 1] > 0
    values = within | near if distance > 0 else within & ~near
    return with_fewer_nodes(relabel(over, without_slivers(over, values, SPECK_MM2), **of_map))


def with_fewer_nodes(planar: PlanarMap) -> PlanarMap:
    """With neighbouring curves of a chain joined that one curve draws as well."""
    may_join = np.ones(len(planar.segments), bool)
    may_join[planar.first[1:] - 1] = False
    segments, straight, made_of = fewer_curves(planar.segments, planar.straight, may_join, FIT_MM)
    return replace(planar, segments=frozen(segments), straight=frozen(straight),
                   first=frozen(np.searchsorted(made_of, planar.first)))
