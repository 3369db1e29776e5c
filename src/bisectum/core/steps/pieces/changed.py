"""What all changes of a map's faces share."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.overlay.overlay import Overlay, overlay
from bisectum.core.model.net import net_of
from bisectum.core.model.offset import curves_of, rings_of
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import labels_from, relabel, without_slivers

Rings = tuple[NDArray[np.float64], NDArray[np.bool_]]


def fields_of(planar: PlanarMap) -> dict[str, Any]:
    """What a map keeps when its faces change."""
    return {"palette": planar.palette, "mm_per_px": planar.mm_per_px, "width": planar.width, "height": planar.height,
            "deviation": planar.deviation, "repaired": planar.repaired, "left_out": planar.left_out}


def with_labels(planar: PlanarMap, labels: NDArray[np.int64], net: Overlay | None = None) -> PlanarMap:
    """With other labels of its faces : (F,); the map itself where none differs."""
    if np.array_equal(labels, planar.face_labels):
        return planar
    return relabel(net or net_of(planar), np.concatenate([[0], labels]), **fields_of(planar))


def laid_under(planar: PlanarMap, rings: Sequence[Rings]) -> tuple[Overlay, NDArray[np.int64], NDArray[np.bool_]]:
    """Shapes laid over a map: the overlay, the label that the map has on each face : (F,), and which faces lie within each of
    the shapes : (shapes, F)."""
    over = overlay([curves_of(planar), *(rings_of(*ring) for ring in rings)])
    return over, labels_from(over, 0, planar), (over.labels[:, 1:] != 0).T


def cut_from(over: Overlay, values: NDArray[np.int64], planar: PlanarMap) -> PlanarMap:
    """The map of an overlay whose faces have these labels : (F,), slivers given to what lies about them."""
    values = values.copy()
    values[0] = 0
    return relabel(over, without_slivers(over, values), **fields_of(planar))
