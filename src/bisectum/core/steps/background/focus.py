"""A sharp subject before a ground that is out of focus.

How blurred an edge is follows from how much its slope falls when it is blurred once more (S. Zhuo, T. Sim, "Defocus Map
Estimation from a Single Image", 2011). Sharp and blurred edges speak for what lies beside them, as far as colours are alike;
of several outlines that this allows the one that sharp edges follow is taken.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import oklab_image
from bisectum.core.raster.diffuse import diffuse
from bisectum.core.steps.background.strokes import touching
from bisectum.core.steps.background.subject import Guess, cut

BEFORE, AGAIN = 0.7, 1.5  # px, deviations of the blur before an edge's slope is taken and before it is taken again
EDGE = 4.0  # levels a px: the slope of an edge that is looked at
SHARP_AT, SHARP_STEP = 1.6, 0.12  # px of blur at which an edge is sharp and not in equal parts, and how soon that changes
CELLS = 60_000
WEIGHT = 0.05  # of an edge of one level a px, against a link between like colours
LIKE, LEAST_LINK = 0.025, 0.002  # OKLab; the link between unlike ones
ROUNDS = 400
LEVELS = (0.3, 0.4, 0.5, 0.6, 0.7)
KEPT, DROPPED = 0.9, 0.12  # what is certain for a cut
NEAR = 3  # px from an outline to a sharp edge that it follows
HOLE = 0.01  # of the subject: larger holes may be ground, if blurred edges are in them
TRUSTED = 0.5  # score from which a subject is believed
WORTH_A_CUT, MOST_CUTS = 0.6, 2  # part of it that a mask reaches before it is cut out; how many are, as that takes long
SEEN = 0.15  # part of all edges that blurred ones of the ground are where they are evidence enough
BAND = 3.0  # px of the small picture that its outline may be off
AGREES = 0.7  # part of a changed outline that runs along sharp edges
CRUMB = 0.05  # of the largest part


@dataclass(frozen=True, slots=True)
class _Edges:
    """How much sharp and how much blurred edge there is in each place of the small picture, (h, w) float32 each."""

    sharp: NDArray[np.float32]
    blurred: NDArray[np.float32]


def find_in_focus(rgb: NDArray[np.uint8], small: NDArray[np.uint8]) -> Guess | None:
    """The sharp subject; None where nothing is surely sharper than the rest.

    rgb : (H, W, 3) uint8, in which the blur is measured; small : (h, w, 3), the same picture, as large as the answer is to be.
    """
    height, width = small.shape[:2]
    edges = _edges_of(rgb, height, width)
    if float(edges.sharp.sum()) == 0.0 or float(edges.blurred.sum()) == 0.0:
        return None
    likely = _spread(small, edges)
    guesses = [_guess(likely > level, edges, likely) for level in LEVELS]
    guesses.sort(key=lambda guess: -guess.score)
    if guesses[0].score < WORTH_A_CUT * TRUSTED:
        return None
    guesses += [_guess(cut(small, guess.mask, likely > KEPT, likely < DROPPED), edges, likely) for guess in guesses[:MOST_CUTS]]
    best = max(guesses, key=lambda guess: guess.score)
    best = replace(best, score=best.score * _evidence(~best.mask, edges))
    return best if best.score >= TRUSTED else None


def _guess(mask: NDArray[np.bool_], edges: _Edges, likely: NDArray[np.float32]) -> Guess:
    whole = _filled(_largest(mask), edges)
    return Guess(whole, _score(whole, edges), likely)


def _evidence(ground: NDArray[np.bool_], edges: _Edges) -> float:
    """How much there is to tell a ground out of focus by, 0 to 1: blurred edges in it."""
    return min(1.0, float(edges.blurred[ground].sum()) / (SEEN * float((edges.sharp + edges.blurred).sum())))


def up_to_sharp_edges(rgb: NDArray[np.uint8], mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The mask out to the outermost sharp edge about its outline, so that a dark outline is the subject's.

    rgb : (H, W, 3) uint8; mask : (h, w), of the same picture made smaller. Returns (H, W) bool.
    """
    import cv2

    height, width = rgb.shape[:2]
    whole = cv2.resize(mask.astype(np.uint8), (width, height), interpolation=cv2.INTER_NEAREST)
    band = math.ceil(BAND * height / mask.shape[0]) + 2
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * band + 1, 2 * band + 1))
    inner, outer = cv2.erode(whole, disc, borderValue=1), 1 - cv2.dilate(whole, disc)
    rows, columns, sharpness, _ = edge_ridges(rgb)
    barrier = np.zeros((height, width), np.uint8)
    barrier[rows, columns] = sharpness > 0.5
    cross = cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))
    free = cv2.morphologyEx(1 - cv2.dilate(barrier, cross), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    reached = touching((free > 0) & (inner == 0) | (outer > 0), outer > 0)
    ground = (cv2.dilate(reached.astype(np.uint8), cross) > 0) & (inner == 0)
    return _where_edges_agree(whole > 0, touching(~ground, inner > 0), cv2.dilate(barrier, np.ones((5, 5), np.uint8)) > 0)


def _where_edges_agree(
    before: NDArray[np.bool_], after: NDArray[np.bool_], near_sharp: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """The mask with those of its changes whose new outline runs along sharp edges; others have leaked through a gap."""
    import cv2

    square = np.ones((3, 3), np.uint8)
    outline = after & (cv2.erode(after.astype(np.uint8), square, borderValue=1) == 0)
    result = before.copy()
    for change in (after & ~before, before & ~after):
        count, parts = cv2.connectedComponents(change.astype(np.uint8), connectivity=4)
        beside = cv2.dilate(parts.astype(np.float32), square).astype(np.int32)  # which change an outline's pixel is next to
        there = outline & (beside > 0)
        total = np.bincount(beside[there], minlength=count)
        agreeing = np.bincount(beside[there & near_sharp], minlength=count)
        taken = agreeing > AGREES * total
        taken[0] = False
        result ^= taken[parts]
    return result


def edge_ridges(rgb: NDArray[np.uint8]) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.float32], NDArray[np.float32]]:
    """Places along edges: rows, columns, how sharp the edge is, 0 to 1, and how steep; each (N,). rgb : (H, W, 3) uint8."""
    import cv2

    grey = cv2.cvtColor(np.ascontiguousarray(rgb), cv2.COLOR_RGB2GRAY).astype(np.float32)
    once = cv2.GaussianBlur(grey, (0, 0), BEFORE)
    first, second = (_slope(np.asarray(soft, np.float32)) for soft in (once, cv2.GaussianBlur(once, (0, 0), AGAIN)))
    ridge = (first >= cv2.dilate(first, np.ones((3, 3), np.uint8)) - 1e-3) | (first > 0.92 * cv2.dilate(
        first, np.ones((3, 3), np.uint8)))
    chosen = ridge & (first > EDGE)
    ratio = first[chosen] / np.maximum(second[chosen], 1e-6)
    squared = AGAIN**2 / np.maximum(ratio**2 - 1.0, 1e-3) - BEFORE**2
    sharpness = 1.0 / (1.0 + np.exp(np.clip((np.sqrt(np.maximum(squared, 0.0)) - SHARP_AT) / SHARP_STEP, -60, 60)))
    rows, columns = np.nonzero(chosen)
    return rows, columns, sharpness.astype(np.float32), first[chosen]


def _edges_of(rgb: NDArray[np.uint8], height: int, width: int) -> _Edges:
    rows, columns, sharpness, slopes = edge_ridges(rgb)
    places = (rows * height // rgb.shape[0]) * width + columns * width // rgb.shape[1]
    sums = [np.bincount(places, part * slopes, height * width).reshape(height, width).astype(np.float32)
            for part in (sharpness, 1.0 - sharpness)]
    return _Edges(sums[0], sums[1])


def _slope(values: NDArray[np.float32]) -> NDArray[np.float32]:
    import cv2

    across, down = (cv2.Sobel(values, cv2.CV_32F, *way, ksize=3, scale=1 / 8) for way in ((1, 0), (0, 1)))
    return np.asarray(cv2.magnitude(across, down), np.float32)


def _spread(small: NDArray[np.uint8], edges: _Edges) -> NDArray[np.float32]:
    """How likely each place is sharp, 0 to 1: edges speak for the colours beside them. Returns (h, w) float32."""
    import cv2

    height, width = small.shape[:2]
    n = max(1.0, math.sqrt(height * width / CELLS))
    size = max(2, round(width / n)), max(2, round(height / n))
    lab = oklab_image(np.ascontiguousarray(cv2.resize(small, size, interpolation=cv2.INTER_AREA)))
    scale = height * width / (size[0] * size[1])
    sharp, blurred = (cv2.resize(values, size, interpolation=cv2.INTER_AREA) * scale for values in (edges.sharp, edges.blurred))
    right, down = (np.full(lab.shape[:2], LEAST_LINK, np.float32) for _ in range(2))
    right[:, :-1] += np.exp(-((lab[:, 1:] - lab[:, :-1]) ** 2).sum(axis=2) / (2 * LIKE**2))
    down[:-1] += np.exp(-((lab[1:] - lab[:-1]) ** 2).sum(axis=2) / (2 * LIKE**2))
    right[:, -1] += 1.0
    down[-1] += 1.0
    weight = (WEIGHT * (sharp + blurred)).astype(np.float32)
    known = (sharp / np.maximum(sharp + blurred, 1e-6)).astype(np.float32)
    values = known.copy()
    diffuse(values, known, weight, right, down, ROUNDS)
    return np.asarray(cv2.resize(np.clip(values, 0.0, 1.0), (width, height), interpolation=cv2.INTER_LINEAR), np.float32)


def _largest(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Without parts that are crumbs beside the largest."""
    import cv2

    count, parts, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=4)
    if count < 2:
        return mask
    stays = stats[:, cv2.CC_STAT_AREA] >= CRUMB * stats[1:, cv2.CC_STAT_AREA].max()
    stays[0] = False
    return stays[parts]


def _filled(mask: NDArray[np.bool_], edges: _Edges) -> NDArray[np.bool_]:
    """With its holes filled, but for large ones in which blurred edges show that ground is seen through them."""
    import cv2

    count, parts, stats, _ = cv2.connectedComponentsWithStats((~mask).astype(np.uint8), connectivity=4)
    if count < 2:
        return mask
    outer = np.unique(np.concatenate([parts[0], parts[-1], parts[:, 0], parts[:, -1]]))
    sharp, blurred = (np.bincount(parts.ravel(), values.ravel(), count) for values in (edges.sharp, edges.blurred))
    fills = (stats[:, cv2.CC_STAT_AREA] <= HOLE * mask.sum()) | (blurred <= 2.0 * sharp + 1.0)
    fills[outer] = False
    return mask | fills[parts]


def _score(mask: NDArray[np.bool_], edges: _Edges) -> float:
    """How much a mask looks like what is in focus, 0 to 1."""
    import cv2

    if not 0.005 <= mask.mean() <= 0.95:
        return 0.0
    square = np.ones((2 * NEAR + 1, 2 * NEAR + 1), np.uint8)
    solid = mask.astype(np.uint8)
    outline = mask & (cv2.erode(solid, np.ones((3, 3), np.uint8), borderValue=1) == 0)
    followed = cv2.dilate((edges.sharp > edges.blurred).astype(np.uint8), square) > 0
    cover = float(followed[outline].mean()) if outline.any() else 0.0
    inner, wide = cv2.erode(solid, square, borderValue=1) > 0, cv2.dilate(solid, square) > 0
    out = float(edges.sharp[~wide].sum()) / max(1e-6, float(edges.sharp.sum()))
    ground = float(edges.sharp[~wide].sum()) / max(1e-6, float((edges.sharp + edges.blurred)[~wide].sum()))
    within = float(edges.blurred[inner].sum()) / max(1e-6, float((edges.sharp + edges.blurred)[inner].sum()))
    rim = float(np.concatenate([mask[0], mask[-1], mask[:, 0], mask[:, -1]]).mean())
    return cover * (1 - out) * max(0.0, 1 - 2 * ground) * max(0.0, 1 - 1.5 * rim) * (1 - within) ** 2
