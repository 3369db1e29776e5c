"""The subject of a photograph as two small networks see it, cut out along the strongest edge.

A single look of a network is fickle: the same picture mirrored, or with more about it, may give another subject. So each looks
several times, their answers are averaged, and how far they agree says how sure the answer is. The networks were made for people
before a camera; together they find animals and things as well. The cut is C. Rother et al., "GrabCut", 2004.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import oklab_image
from bisectum.core.raster.networks import NetworkName, answer_of
from bisectum.core.raster.resample import reduce_to
from bisectum.core.steps.background.saliency import saliency
from bisectum.core.steps.background.subject import cut, score

SQUARE, WIDE = (256, 256), (256, 144)  # px that the networks take, width and height
SEEN_PX = 260_000  # the picture is made as small as this before it is pressed into a network's own shape
MARGIN = 0.15  # of a side, put about the picture for one of the looks, and about the box of a closer one
SURE_SUBJECT, SURE_GROUND = 0.97, 0.02  # what the cut may not change
BOXED, TAIL = 0.4, 0.005  # likelihood of what a closer look is at, and the share of it left outside at each side
CLOSER = 0.92  # share of the picture from which a closer look would be the same look
CRUMB, HOLE = 0.05, 0.003  # of the largest part: smaller parts go, smaller holes are filled
BETTER = 0.03  # of the score that the cut of a closer look must be ahead


@dataclass(frozen=True, slots=True)
class Seen:
    """likely : (h, w) float32, 0 to 1, of the small picture; sure: the least intersection over union of two looks; mask : (h, w)
    bool, the subject; closer: the same after a closer look, if there was one; best: whichever of the two looks more like a
    subject."""

    likely: NDArray[np.float32]
    sure: float
    mask: NDArray[np.bool_]
    closer: NDArray[np.bool_] | None
    best: NDArray[np.bool_]

    def outside(self, mask: NDArray[np.bool_]) -> float:
        """How likely the subject is in what a mask leaves out, in the mean: 0 to 1. mask : (h, w) bool."""
        return float(self.likely[~mask].mean()) if not mask.all() else 0.0


def see_subject(rgb: NDArray[np.uint8], small: NDArray[np.uint8]) -> Seen:
    """rgb : (H, W, 3) uint8, the whole picture; small : (h, w, 3), the same as large as the answer is to be."""
    height, width = small.shape[:2]
    seen, _ = reduce_to(np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)]), SEEN_PX)
    looks = _looks(np.ascontiguousarray(seen[..., :3]))
    sure = min(overlap(one > 0.5, other > 0.5) for one, other in combinations(looks, 2))
    square, wide = np.mean(looks[:3], axis=0), np.mean(looks[3:], axis=0)
    likely = _resized((square + wide) / 2, width, height)
    lab = oklab_image(small)
    salient = saliency(lab)
    mask = _cut(small, likely)
    closer = _closer(rgb, likely)
    if closer is None:
        return Seen(likely, sure, mask, None, mask)
    nearer = _cut(small, closer)
    is_better = score(lab, salient, nearer) > score(lab, salient, mask) + BETTER
    return Seen(likely, sure, mask, nearer, nearer if is_better else mask)


def overlap(one: NDArray[np.bool_], other: NDArray[np.bool_]) -> float:
    """Intersection over union."""
    return float((one & other).sum() / max(1, (one | other).sum()))


def _looks(rgb: NDArray[np.uint8]) -> list[NDArray[np.float32]]:
    """Three looks of the square network and two of the wide one, each as (256, 256) float32 over the whole picture."""
    down, across = round(MARGIN * rgb.shape[0]), round(MARGIN * rgb.shape[1])
    wider = np.asarray(cv2.copyMakeBorder(rgb, down, down, across, across, cv2.BORDER_REFLECT_101), np.uint8)
    about = _resized(_look("subject-square", wider), wider.shape[1], wider.shape[0])
    inner = about[down : down + rgb.shape[0], across : across + rgb.shape[1]]
    mirrored = rgb[:, ::-1]
    found = [_look("subject-square", rgb), _look("subject-square", mirrored)[:, ::-1], inner,
             _look("subject-wide", rgb), _look("subject-wide", mirrored)[:, ::-1]]
    return [_resized(one, *SQUARE) for one in found]


def _look(name: NetworkName, rgb: NDArray[np.uint8]) -> NDArray[np.float32]:
    """How likely the subject is in each place. rgb : (H, W, 3), pressed into the network's shape. Returns that shape's rows."""
    size = WIDE if name == "subject-wide" else SQUARE
    pressed = cv2.resize(np.ascontiguousarray(rgb), size, interpolation=cv2.INTER_AREA)
    return answer_of(name, np.asarray(pressed, np.uint8)).reshape(size[1], size[0])


def _closer(rgb: NDArray[np.uint8], likely: NDArray[np.float32]) -> NDArray[np.float32] | None:
    """What is likely after a look at the box about it; None where there is nothing to look at more closely."""
    rows, columns = np.nonzero(likely > BOXED)
    if not len(rows):
        return None
    (top, bottom), (left, right) = (_widened(values, size) for values, size in
                                    zip((rows, columns), likely.shape, strict=True))
    if (bottom - top) * (right - left) > CLOSER:
        return None
    height, width = rgb.shape[:2]
    part = rgb[int(top * height) : max(int(bottom * height), int(top * height) + 2),
               int(left * width) : max(int(right * width), int(left * width) + 2)]
    result = likely.copy()
    rows_down, across = likely.shape
    box = result[int(top * rows_down) : int(bottom * rows_down), int(left * across) : int(right * across)]
    if min(box.shape) < 2:
        return None
    box[:] = (box + 2 * _resized(_look("subject-square", part), box.shape[1], box.shape[0])) / 3
    return result


def _widened(places: NDArray[np.intp], size: int) -> tuple[float, float]:
    """From where to where places reach without their tails, and a margin, as shares of a side."""
    low, high = np.quantile(places, [TAIL, 1 - TAIL]) / size
    margin = MARGIN * (high - low) + 0.02
    return max(0.0, float(low - margin)), min(1.0, float(high + margin))


def _cut(small: NDArray[np.uint8], likely: NDArray[np.float32]) -> NDArray[np.bool_]:
    """small : (h, w, 3) uint8; likely : (h, w)."""
    mask = cut(small, likely > 0.5, likely > SURE_SUBJECT, likely < SURE_GROUND)
    count, parts, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=4)
    if count < 2:
        return mask
    largest = stats[1:, cv2.CC_STAT_AREA].max()
    mask = np.append(False, stats[1:, cv2.CC_STAT_AREA] > CRUMB * largest)[parts]
    _, holes, stats, _ = cv2.connectedComponentsWithStats((~mask).astype(np.uint8), connectivity=4)
    return mask | np.append(False, stats[1:, cv2.CC_STAT_AREA] < HOLE * largest)[holes]


def _resized(values: NDArray, width: int, height: int) -> NDArray[np.float32]:
    shrinks = width < values.shape[1]
    way = cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(np.ascontiguousarray(values, np.float32), (width, height), interpolation=way), np.float32)
