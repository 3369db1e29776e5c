"""The subject of a photograph: a first guess by saliency, then cut out along the strongest edge.

The cut is C. Rother et al., "GrabCut: Interactive Foreground Extraction using Iterated Graph Cuts", 2004, worked on a small
picture; larger ones are slow and no better.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import oklab_image
from bisectum.core.steps.background.saliency import saliency

SOLVED_PX = 100_000
ROUNDS = 2
RING = 2  # px along the border that are background for certain
SEED = 20
SURE = 0.5  # score from which a subject is believed
CRUMB = 0.02  # of the largest part
UNLIKELY = 0.6  # of the largest part's mean saliency
HOLE = 0.002


@dataclass(frozen=True, slots=True)
class Guess:
    """mask : (h, w) bool, True where the subject is; score: 0 to 1, how much it looks like one; likely : (h, w) float32, the
    saliency it came from; fine: the same mask more finely, of a larger picture, if it is known."""

    mask: NDArray[np.bool_]
    score: float
    likely: NDArray[np.float32]
    fine: NDArray[np.bool_] | None = None


def find_subject(rgb: NDArray[np.uint8]) -> Guess:
    """The best of a few cuts. rgb : (h, w, 3) uint8, small."""
    lab = oklab_image(rgb)
    likely = saliency(lab)
    half = _otsu(likely)
    guesses = []
    for level in (half, (3 * half + 1) / 4, (half + 1) / 2, *np.quantile(likely, (0.9, 0.95)).tolist()):
        mask = without_crumbs(cut(rgb, likely > level), likely)
        guesses.append(Guess(mask, score(lab, likely, mask), likely))
    return max(guesses, key=lambda guess: guess.score)


def without_crumbs(mask: NDArray[np.bool_], likely: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Drop parts that are tiny or not likely beside the largest, and fill tiny holes. mask, likely : (h, w)."""
    import cv2

    count, parts, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=4)
    if count < 2:
        return mask
    areas = stats[:, cv2.CC_STAT_AREA].astype(float)
    means = np.bincount(parts.ravel(), likely.ravel(), count) / areas
    largest = 1 + int(np.argmax(areas[1:]))
    stays = (areas >= CRUMB * areas[largest]) & (means >= UNLIKELY * means[largest])
    stays[0] = False
    result = stays[parts]
    count, holes, stats, _ = cv2.connectedComponentsWithStats((~result).astype(np.uint8), connectivity=4)
    tiny = stats[:, cv2.CC_STAT_AREA] < HOLE * areas[largest]
    tiny[0] = False
    return result | tiny[holes]


def cut(rgb: NDArray[np.uint8], probable: NDArray[np.bool_], keep: NDArray[np.bool_] | None = None,
        drop: NDArray[np.bool_] | None = None, rounds: int = ROUNDS) -> NDArray[np.bool_]:
    """The subject near `probable`. rgb : (h, w, 3); masks (h, w) bool. keep, drop: certain on either side.

    Without `drop` the border is dropped. Where a side is empty the answer is `probable`.
    """
    import cv2

    marks = np.where(probable, cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    if drop is None:
        marks[:RING] = marks[-RING:] = cv2.GC_BGD
        marks[:, :RING] = marks[:, -RING:] = cv2.GC_BGD
    else:
        marks[drop] = cv2.GC_BGD
    if keep is not None:
        marks[keep] = cv2.GC_FGD
    inside = (marks & 1) == 1
    if min(inside.sum(), (~inside).sum()) < 20:
        return inside
    cv2.setRNGSeed(SEED)
    cv2.grabCut(np.ascontiguousarray(rgb[..., ::-1]), marks, (0, 0, 1, 1), np.zeros((1, 65)), np.zeros((1, 65)), rounds,
                cv2.GC_INIT_WITH_MASK)
    return (marks & 1) == 1


def score(lab: NDArray[np.float32], likely: NDArray[np.float32], mask: NDArray[np.bool_]) -> float:
    """How much a mask looks like a subject: its colours are not the ground's, it is where the subject is likely, its outline
    lies on strong edges, it keeps off the border, and is compact. 0 to 1.

    lab : (H, W, 3), OKLab; likely : (H, W); mask : (H, W) bool.
    """
    import cv2

    if not 0.005 <= mask.mean() <= 0.95:
        return 0.0
    bins = np.clip(lab * (12, 40, 40) + (0, 16, 16), 0, 31).astype(np.int64)
    coded = (bins[..., 0] * 32 + bins[..., 1]) * 32 + bins[..., 2]
    inside, outside = (np.bincount(coded[part], minlength=32**3) / part.sum() for part in (mask, ~mask))
    apart = 1.0 - float(np.minimum(inside, outside).sum())
    agreement = 2 * float(likely[mask].sum()) / float(likely.sum() + mask.sum())
    slopes = np.zeros(mask.shape)
    for channel in range(3):
        for slope in np.gradient(cv2.GaussianBlur(lab[..., channel], (0, 0), 1.0)):
            slopes += slope**2
    outline = mask & (cv2.erode(mask.astype(np.uint8), np.ones((3, 3), np.uint8)) == 0)
    on_edges = float((slopes[outline] > np.quantile(slopes, 0.8)).mean())
    border = np.concatenate([mask[0], mask[-1], mask[:, 0], mask[:, -1]])
    off_border = 1.0 - min(1.0, 1.5 * float(border.mean()))
    hull = cv2.convexHull(np.argwhere(mask).astype(np.int32))
    solid = min(1.0, float(mask.sum()) / max(1.0, cv2.contourArea(hull)))
    return apart**3 * math.sqrt(agreement) * on_edges**0.2 * off_border * solid**0.25


def _otsu(values: NDArray[np.float32]) -> float:
    """The threshold that parts values best in two (N. Otsu, 1979). values : 0 to 1."""
    counts, edges = np.histogram(values, 64, (0.0, 1.0))
    middles = (edges[1:] + edges[:-1]) / 2
    below = np.cumsum(counts)
    sums = np.cumsum(counts * middles)
    above = below[-1] - below
    first, second = sums / np.maximum(below, 1), (sums[-1] - sums) / np.maximum(above, 1)
    return float(edges[1 + int(np.argmax(below * above * (first - second) ** 2))])
