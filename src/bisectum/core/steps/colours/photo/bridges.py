"""Bridges that hold a stencil together: each island is tied to the card by the shortest way over what falls out."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

MOST_BRIDGES = 400


def bridges(card: NDArray[np.bool_], width_px: float) -> tuple[NDArray[np.float32], NDArray[np.bool_], int]:
    """Ties the parts of a card to the largest, the nearest first, as a spanning tree (R. C. Prim, 1957); MOST_BRIDGES of them.

    card : (H, W) bool. Returns (H, W) float32, above 0 on bridges, px from their edge, -width elsewhere; (H, W) bool, what of
    the card holds together with them; and how many there are.
    """
    count, parts = cv2.connectedComponents(card.astype(np.uint8), connectivity=4)
    field = np.full(card.shape, -width_px, np.float32)
    if count <= 2:
        return field, card, 0
    sizes = np.bincount(parts.ravel(), minlength=count)
    sizes[0] = 0
    tied = parts == int(sizes.argmax())
    left = [part for part in range(1, count) if part != int(sizes.argmax())]
    lines = np.zeros(card.shape, np.uint8)
    made = 0
    while left and made < MOST_BRIDGES:
        away, nearest = cv2.distanceTransformWithLabels((~tied).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
        target = np.zeros(int(nearest.max()) + 1, np.int64)
        target[nearest[tied]] = np.flatnonzero(tied)
        lowest = np.full(count, np.inf)
        np.minimum.at(lowest, np.asarray(parts, np.int64).ravel(), away.ravel())
        part = min(left, key=lambda own: lowest[own])
        rows, columns = np.nonzero(parts == part)
        at = int(away[rows, columns].argmin())
        there = divmod(int(target[nearest[rows[at], columns[at]]]), card.shape[1])
        one, other = (int(columns[at]), int(rows[at])), (int(there[1]), int(there[0]))
        cv2.line(lines, one, other, 255, 1, cv2.LINE_8)
        tied |= parts == part
        left.remove(part)
        made += 1
    reach: NDArray[np.float32] = cv2.distanceTransform((lines == 0).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.maximum(field, np.float32(width_px / 2) - reach), tied, made
