"""A planar map painted on few pixels: each face with its label."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import flatten
from bisectum.core.model.planar_map import PlanarMap


def painted(planar: PlanarMap, longest_px: int) -> NDArray[np.uint8]:
    """Labels of a map over its whole width and height : (H, W) uint8. longest_px: along its longer side."""
    px = max(planar.width, planar.height) / longest_px
    labels = np.zeros((max(1, round(planar.height / px)), max(1, round(planar.width / px))), np.uint8)
    rings: dict[int, list[NDArray[np.int32]]] = {}
    for face, loop in planar.loops():
        if face >= 0 and planar.face_labels[face]:
            walk = np.concatenate([planar.walk(half)[0] for half in loop])
            rings.setdefault(face, []).append(np.round((flatten(walk, px / 4) / px - 0.5) * 16).astype(np.int32))
    for face, own in rings.items():
        cv2.fillPoly(labels, own, int(planar.face_labels[face]), cv2.LINE_8, 4)
    return labels
