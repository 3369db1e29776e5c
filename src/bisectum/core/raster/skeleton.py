"""A skeleton one pixel wide as a graph: chains of pixels between ends and junctions."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure

_AROUND = ((0, -1), (1, 0), (0, 1), (-1, 0), (1, -1), (1, 1), (-1, 1), (-1, -1))  # x, y; sides before corners


@dataclass(frozen=True, slots=True)
class Skeleton:
    """chains: (N, 2) float64 each, middles of pixels as x, y, junctions not among them. ends : (C, 2) int64, the junctions a
    chain runs between, -1 for a free end, and -2 twice for a closed chain; junctions : (J, 2) float64 x, y."""

    chains: list[NDArray[np.float64]]
    ends: NDArray[np.int64]
    junctions: NDArray[np.float64]

    def check(self) -> None:
        """Raises: BrokenStructure where a chain names no junction."""
        if len(self.ends) != len(self.chains) or (self.ends >= len(self.junctions)).any():
            raise BrokenStructure("A chain of a skeleton ends at a junction that is not there.")


def skeleton_graph(thin: NDArray[np.bool_]) -> Skeleton:
    """thin : (H, W), as `thinned` gives it."""
    own = np.pad(thin.astype(np.uint8), 1)
    near = cv2.filter2D(own, -1, np.ones((3, 3), np.uint8), borderType=cv2.BORDER_CONSTANT) - own
    crowded = ((own > 0) & (near > 2)).astype(np.uint8)
    count, numbers, _, middles = cv2.connectedComponentsWithStats(crowded, connectivity=8)
    ys, xs = np.nonzero(own)
    pixels = {(int(x), int(y)): int(numbers[y, x]) for y, x in zip(ys, xs, strict=True)}
    chains: list[NDArray[np.float64]] = []
    ends: list[tuple[int, int]] = []
    seen: set[tuple[int, int]] = set()
    for start, number in pixels.items():
        if number or start in seen:
            continue
        beside = _beside(pixels, start)
        if sum(pixels[one] == 0 for one in beside) == 2 and len(beside) == 2:
            continue  # in the middle of a chain
        chain = _walk(pixels, start, seen)
        chains.append(np.array(chain, float) - 0.5)
        ends.append(_junctions_of(pixels, chain))
    for start, number in pixels.items():  # what is left runs round and round
        if number == 0 and start not in seen:
            chains.append(np.array(_walk(pixels, start, seen), float) - 0.5)
            ends.append((-2, -2))
    return Skeleton(chains, np.array(ends, np.int64).reshape(-1, 2), np.asarray(middles[1:count], np.float64) - 0.5)


def _beside(pixels: dict[tuple[int, int], int], at: tuple[int, int]) -> list[tuple[int, int]]:
    x, y = at
    return [(x + dx, y + dy) for dx, dy in _AROUND if (x + dx, y + dy) in pixels]


def _walk(
    pixels: dict[tuple[int, int], int], start: tuple[int, int], seen: set[tuple[int, int]]
) -> list[tuple[int, int]]:
    """The pixels of a chain from one of its ends on, no junction among them."""
    chain, at = [start], start
    seen.add(start)
    while True:
        plain = [one for one in _beside(pixels, at) if one not in seen and pixels[one] == 0]
        if not plain:
            return chain
        at = plain[0]
        seen.add(at)
        chain.append(at)


def _junctions_of(pixels: dict[tuple[int, int], int], chain: list[tuple[int, int]]) -> tuple[int, int]:
    """The junctions that a chain runs between, -1 for a free end."""
    first, last = ([pixels[one] - 1 for one in _beside(pixels, end) if pixels[one] > 0] for end in (chain[0], chain[-1]))
    begins = first[0] if first else -1
    others = [number for number in last if number != begins]
    if others:
        return begins, others[0]
    # Back to the junction it came from: only a chain of some length can do that.
    return begins, begins if last and len(chain) > 3 else -1
