"""Keep and drop strokes: loose lines that say what stays and what goes; the outline is found anew around each.

From every place a walker steps at random to one of its neighbours, the more readily the more alike they are, until it comes to a
stroke, or stops by what was found so far (L. Grady, "Random Walks for Image Segmentation", 2006, with priors as in L. Grady,
2005). Beside a stroke what was found counts little. A change is accepted only where it hangs together with the stroke
that asks for it, so a later stroke never disturbs what is far from it. Where the colours under a stroke cover a wide part of the
picture that lies on the wrong side, that part goes over first.
"""

from __future__ import annotations

import hashlib
from collections.abc import MutableMapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.placement import Placement
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.colour import oklab_image
from bisectum.core.raster.diffuse import diffuse
from bisectum.core.steps.background.brush import trace_of
from bisectum.core.steps.background.settings import Touch

ALIKE = 0.045  # OKLab
LEAST_ALIKE, ALIKE_WITHIN = 0.03, 1.0  # how far a stroke's colours go to its side: of the longer side, of the stroke's extent
WIDE = 0.05  # of the picture
LIKELIHOOD = 0.35  # of the prior that is what the networks see; the rest is what was found so far
LEAST_NEAR, NEAR_PRIOR = 0.06, 0.8  # how far from a stroke the prior counts little: of the longer side, of the stroke's extent
STEEP, LEAST_LINK = 3.0, 1e-4  # how fast links fall with unlikeness; the link between unlike places
TRUST, CERTAIN = 0.03, 1e3  # weight of the prior, and of a stroke, against a link between like places
ROUNDS = 200
SAMPLES = 12


def with_strokes(
    small: NDArray[np.uint8], start: NDArray[np.bool_], likely: NDArray[np.float32] | None, strokes: tuple[Touch, ...],
    places: Placement, memory: MutableMapping[str, Any] | None = None, progress: Progress = SILENT,
) -> NDArray[np.bool_]:
    """The subject after all strokes. small : (h, w, 3) uint8; start : (h, w) bool, the subject before them;
    likely : (h, w), how likely the networks see it there, 0 to 1, if there are any.

    places: of the small picture. memory: keeps what earlier strokes gave, so that one more stroke costs one solution.
    Raises: Cancelled.
    """
    lab = oklab_image(small)
    solved = start
    keep, drop = np.zeros(start.shape, bool), np.zeros(start.shape, bool)
    lines: list[NDArray[np.bool_]] = []
    key = hashlib.sha256(small.tobytes() + start.tobytes() + places.matrix.tobytes())
    for stroke in strokes:
        line = trace_of(stroke, places, start.shape, least_px=1.5) > 0
        own, other = (keep, drop) if stroke.kind == "keep" else (drop, keep)
        own |= line
        other &= ~line
        if line.any():
            lines.append(line)
        key.update(stroke.digest.encode())
        name = f"stroke/{key.hexdigest()}"
        if memory is not None and name in memory:
            solved = memory[name]
            continue
        progress.raise_if_cancelled()
        if line.any():
            seen = solved.astype(np.float32) if likely is None else likely
            solved = _one_more(lab, seen, solved, line, lines, keep, drop, stroke.kind == "keep")
        if memory is not None:
            memory[name] = solved
    return solved


def only_touched(subject: NDArray[np.bool_], keeps: tuple[Touch, ...], places: Placement) -> NDArray[np.bool_]:
    """The parts of a subject that hold a keep stroke. subject : (h, w) bool; places: of that picture."""
    line = np.zeros(subject.shape, bool)
    for stroke in keeps:
        line |= trace_of(stroke, places, subject.shape, least_px=1.5) > 0
    return touching(subject | line, line) if line.any() else subject


def _one_more(
    lab: NDArray[np.float32], likely: NDArray[np.float32], before: NDArray[np.bool_], line: NDArray[np.bool_],
    strokes: list[NDArray[np.bool_]], keep: NDArray[np.bool_], drop: NDArray[np.bool_], keeps: bool,
) -> NDArray[np.bool_]:
    """The subject after one more stroke, `line`, the last of `strokes`. lab : (h, w, 3) OKLab; the others (h, w)."""
    alike = _alike_beside(lab, line)
    wrong = (alike & ~before) if keeps else (alike & before)
    if wrong.mean() > WIDE:
        before = (before | alike) if keeps else (before & ~alike)
    after = _walked(lab, LIKELIHOOD * likely + (1 - LIKELIHOOD) * before, strokes, keep, drop) > 0.5
    changed = (after & ~before) if keeps else (before & ~after)
    accepted = touching(changed | line, line)
    return (before | accepted) if keeps else (before & ~accepted)


def _walked(
    lab: NDArray[np.float32], prior: NDArray[np.float32], strokes: list[NDArray[np.bool_]], keep: NDArray[np.bool_],
    drop: NDArray[np.bool_],
) -> NDArray[np.float32]:
    """How likely a walker from each place ends in the subject, 0 to 1. prior : (h, w), what was found so far."""
    across, down = ((lab[:, 1:] - lab[:, :-1]) ** 2).sum(axis=2), ((lab[1:] - lab[:-1]) ** 2).sum(axis=2)
    unlike = STEEP / (2 * max(1e-9, float(np.concatenate([across.ravel(), down.ravel()]).mean())))
    right, below = np.zeros(prior.shape, np.float32), np.zeros(prior.shape, np.float32)
    right[:, :-1], below[:-1] = np.exp(-unlike * across) + LEAST_LINK, np.exp(-unlike * down) + LEAST_LINK
    trust = np.abs(2 * prior - 1)
    for line in strokes:
        trust = trust * np.minimum(1.0, (_away(line) / _reach(line, LEAST_NEAR, NEAR_PRIOR)) ** 2)
    said = keep | drop
    weight = np.where(said, CERTAIN, TRUST * trust + 1e-5).astype(np.float32)
    known = np.where(said, keep, prior).astype(np.float32)
    values = known.copy()
    diffuse(values, known, weight, right, below, ROUNDS)
    return values


def _alike_beside(lab: NDArray[np.float32], line: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What has the colours under a stroke, is near it, and hangs together with it."""
    y, x = np.nonzero(line)
    chosen = np.linspace(0, len(y) - 1, min(SAMPLES, len(y))).astype(int)
    nearest = np.full(line.shape, np.inf, np.float32)
    for colour in lab[y[chosen], x[chosen]]:
        np.minimum(nearest, ((lab - colour) ** 2).sum(axis=2), out=nearest)
    return touching((nearest < ALIKE**2) & (_away(line) < _reach(line, LEAST_ALIKE, ALIKE_WITHIN)) | line, line)


def _away(line: NDArray[np.bool_]) -> NDArray[np.float32]:
    """Distance from a stroke, px."""
    import cv2

    return cv2.distanceTransform((~line).astype(np.uint8), cv2.DIST_L2, 3).astype(np.float32, copy=False)


def _reach(line: NDArray[np.bool_], least: float, share: float) -> float:
    """px: a share of the stroke's extent, but at least a share of the picture's longer side."""
    y, x = np.nonzero(line)
    return max(least * max(line.shape), share * float(np.hypot(np.ptp(y), np.ptp(x))))


def touching(areas: NDArray[np.bool_], line: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The connected areas a stroke, or any other mask, runs through. areas, line : (h, w) bool."""
    import cv2

    count, parts = cv2.connectedComponents(areas.astype(np.uint8), connectivity=4)
    held = np.zeros(count, bool)
    held[parts[line]] = True
    held[0] = False
    return held[parts]
