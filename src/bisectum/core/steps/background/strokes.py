"""Keep and drop strokes: loose lines that say what stays and what goes; the outline is found anew around each.

A change is accepted only where it hangs together with the stroke that asks for it and is no farther off than the stroke is
long, so a later stroke never disturbs what is far from it, and a dot that slips over the outline costs no more than a bite.
The colours a stroke runs over, as far as they hang together with it nearby, go to its side first.
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
from bisectum.core.steps.background.brush import trace_of
from bisectum.core.steps.background.settings import Touch
from bisectum.core.steps.background.subject import cut

ALIKE = 0.045  # OKLab
LEAST_NEAR, NEAR = 0.03, 1.0  # how far a stroke's colours go to its side: of the longer side, of the stroke's extent
LEAST_REACH, REACH = 0.08, 2.5  # how far the outline may change: of the longer side, of the stroke's extent
SAMPLES = 12


def with_strokes(
    small: NDArray[np.uint8], start: NDArray[np.bool_], strokes: tuple[Touch, ...], places: Placement,
    memory: MutableMapping[str, Any] | None = None, progress: Progress = SILENT,
) -> NDArray[np.bool_]:
    """The subject after all strokes. small : (h, w, 3) uint8; start : (h, w) bool, the subject before them.

    places: of the small picture. memory: keeps what earlier strokes gave, so that one more stroke costs one solution.
    Raises: Cancelled.
    """
    lab = oklab_image(small)
    solved = start
    keep, drop = np.zeros(start.shape, bool), np.zeros(start.shape, bool)
    key = hashlib.sha256(small.tobytes() + start.tobytes() + places.matrix.tobytes())
    for stroke in strokes:
        line = trace_of(stroke, places, start.shape, least_px=1.5) > 0
        own, other = (keep, drop) if stroke.kind == "keep" else (drop, keep)
        own |= line
        other &= ~line
        key.update(stroke.digest.encode())
        name = f"stroke/{key.hexdigest()}"
        if memory is not None and name in memory:
            solved = memory[name]
            continue
        progress.raise_if_cancelled()
        if line.any():
            solved = _one_more(small, lab, solved, line, keep, drop, stroke.kind == "keep")
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
    small: NDArray[np.uint8], lab: NDArray[np.float32], before: NDArray[np.bool_], line: NDArray[np.bool_],
    keep: NDArray[np.bool_], drop: NDArray[np.bool_], keeps: bool,
) -> NDArray[np.bool_]:
    alike = _alike_beside(lab, line)
    probable = (before | alike) if keeps else (before & ~alike)
    after = cut(small, probable, keep, drop, rounds=1)
    changed = (after & ~before) if keeps else (before & ~after)
    within = _away(line) < _reach(line, LEAST_REACH, REACH)
    accepted = touching(changed & within | alike, line)
    return (before | accepted) if keeps else (before & ~accepted)


def _alike_beside(lab: NDArray[np.float32], line: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What has the colours under a stroke, is near it, and hangs together with it."""
    y, x = np.nonzero(line)
    chosen = np.linspace(0, len(y) - 1, min(SAMPLES, len(y))).astype(int)
    nearest = np.full(line.shape, np.inf, np.float32)
    for colour in lab[y[chosen], x[chosen]]:
        np.minimum(nearest, ((lab - colour) ** 2).sum(axis=2), out=nearest)
    return touching((nearest < ALIKE**2) & (_away(line) < _reach(line, LEAST_NEAR, NEAR)) | line, line)


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
