"""Faces of people in a photograph, found by two small networks.

The first sees a face wherever one fills a fair part of what it is shown, so it is shown the whole picture and overlapping tiles
of it (V. Bazarevsky et al., "BlazeFace", 2019). The second puts points on each face that was found, and says whether it is one
(Y. Kartynnik et al., "Real-time Facial Surface Geometry from Monocular Video on Mobile GPUs", 2019).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.face import POINTS, Face
from bisectum.core.raster.networks import answers_of, are_provided
from bisectum.core.raster.resample import reduce_to

SEEN_PX = 810_000  # of the picture at most; a face that is worth cutting is large enough in it
NEAR_PX, POINTS_PX = 128, 192  # sides of the squares that the networks take
CELLS = ((16, 2), (8, 6))  # the first one's answers: cells along a side, and boxes in each
TILES = ((1, 1.0), (2, 0.75), (3, 0.5), (4, 0.375))  # along a side, and how long each is: they overlap by a third or more
LIKELY = 0.7  # of a box, before anything is asked about its points
SURE = 0.9  # of a face by its points
SAME_BOX = 0.3  # intersection over union of boxes of one face
OVER_EDGE = 0.05  # of a tile that a box may stick out of it; what does so more is seen whole in the next tile
ABOUT = 1.5  # times the box is what the points are looked for in


@dataclass(frozen=True, slots=True)
class _Box:
    """corners : (2, 2) px, upper left and lower right; eyes : (2, 2) px; likely: 0 to 1."""

    corners: NDArray[np.float64]
    eyes: NDArray[np.float64]
    likely: float

    @property
    def middle(self) -> NDArray[np.float64]:
        return np.asarray(self.corners.mean(axis=0))

    def holds(self, place: NDArray[np.float64]) -> bool:
        return bool((self.corners[0] < place).all() and (place < self.corners[1]).all())


def find_faces(rgba: NDArray[np.uint8]) -> tuple[Face, ...]:
    """The faces in a picture, the likeliest first; none where no networks are provided. rgba : (H, W, 4) uint8."""
    if not are_provided():
        return ()
    small, factor = reduce_to(rgba, SEEN_PX)
    rgb = np.ascontiguousarray(small[..., :3])
    faces = [_with_points(rgb, box) for box in _boxes(rgb)]
    return tuple(Face(face.points * factor, face.likely) for face in faces if face.likely >= SURE)


def _boxes(rgb: NDArray[np.uint8]) -> list[_Box]:
    """Where faces may be, each once: the likeliest box of those about one middle."""
    height, width = rgb.shape[:2]
    found: list[_Box] = []
    for along, share in TILES:
        size = np.array([share * width, share * height]).astype(int)
        for down in range(along):
            for across in range(along):
                corner = ((np.array([width, height]) - size) * [across, down] // max(1, along - 1)).astype(int)
                tile = rgb[corner[1] : corner[1] + size[1], corner[0] : corner[0] + size[0]]
                found += [_Box(box.corners + corner, box.eyes + corner, box.likely) for box in _near(tile)
                          if along == 1 or _is_within(box, size)]
    kept: list[_Box] = []
    for box in sorted(found, key=lambda one: -one.likely):
        if not any(other.holds(box.middle) for other in kept):
            kept.append(box)
    return kept


def _is_within(box: _Box, size: NDArray[np.int64]) -> bool:
    return bool((box.corners[0] > -OVER_EDGE * size).all() and (box.corners[1] < (1 + OVER_EDGE) * size).all())


def _near(rgb: NDArray[np.uint8]) -> list[_Box]:
    """Faces that fill a fair part of a picture."""
    height, width = rgb.shape[:2]
    times = NEAR_PX / max(height, width)
    size = np.maximum(1, np.rint([width * times, height * times]).astype(int))
    left, top = (NEAR_PX - size) // 2
    shown = np.zeros((NEAR_PX, NEAR_PX, 3), np.uint8)
    shown[top : top + size[1], left : left + size[0]] = cv2.resize(rgb, size.tolist(), interpolation=cv2.INTER_AREA)
    places, answers = answers_of("face-near", shown, ("regressors", "classificators"), signed=True)
    likely = _sigmoid(answers)
    chosen = np.flatnonzero(likely > LIKELY)
    rows = places.reshape(len(likely), 16)[chosen].astype(float) / NEAR_PX
    middles, half = rows[:, :2] + _anchors()[chosen], rows[:, 2:4] / 2
    eyes = rows[:, 4:8].reshape(-1, 2, 2) + _anchors()[chosen][:, None]
    whole = np.concatenate([(middles - half)[:, None], (middles + half)[:, None], eyes], axis=1)
    return _joined((whole * NEAR_PX - [left, top]) / times, likely[chosen])


@cache
def _anchors() -> NDArray[np.float64]:
    """Middles of the cells that the first network's boxes are measured from, as shares of its side: (896, 2)."""
    return np.array([((x + 0.5) / cells, (y + 0.5) / cells)
                     for cells, boxes in CELLS for y in range(cells) for x in range(cells) for _ in range(boxes)])


def _joined(boxes: NDArray[np.float64], likely: NDArray[np.float64]) -> list[_Box]:
    """Boxes of one face as one, weighed by how likely they are. boxes : (N, 4, 2), two corners and two eyes each."""
    found = []
    left = list(np.argsort(-likely))
    while left:
        best = left[0]
        same = [k for k in left if _overlap(boxes[k, :2], boxes[best, :2]) > SAME_BOX] or [best]
        mean = np.average(boxes[same], axis=0, weights=likely[same])
        found.append(_Box(mean[:2], mean[2:], float(likely[best])))
        left = [k for k in left if k not in same]
    return found


def _overlap(one: NDArray[np.float64], other: NDArray[np.float64]) -> float:
    """Intersection over union of two boxes, each (2, 2)."""
    both = float(np.prod(np.clip(np.minimum(one[1], other[1]) - np.maximum(one[0], other[0]), 0, None)))
    return both / max(1e-9, float(np.prod(one[1] - one[0]) + np.prod(other[1] - other[0])) - both)


def _with_points(rgb: NDArray[np.uint8], box: _Box) -> Face:
    """The points of a face, looked for in a square that is turned so that the eyes lie level."""
    step = float(np.max(box.corners[1] - box.corners[0])) * ABOUT / POINTS_PX
    right, left = box.eyes
    angle = np.arctan2(left[1] - right[1], left[0] - right[0])
    turn = step * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    shift = box.middle - turn @ [POINTS_PX / 2, POINTS_PX / 2]
    shown = cv2.warpAffine(rgb, np.column_stack([turn, shift]), (POINTS_PX, POINTS_PX), borderMode=cv2.BORDER_REPLICATE,
                           flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    points, answer = answers_of("face-points", np.asarray(shown, np.uint8), ("conv2d_21", "conv2d_31"))
    places = points.reshape(POINTS, 3)[:, :2].astype(float) @ turn.T + shift
    return Face(places, float(_sigmoid(answer)[0]))


def _sigmoid(answers: NDArray[np.float32]) -> NDArray[np.float64]:
    return np.asarray(1 / (1 + np.exp(-np.clip(answers, -50, 50).astype(float))))
