"""Tiny label images that have broken tracers before."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def _of(*rows: str) -> NDArray[np.uint8]:
    return np.array([[int(c) for c in row] for row in rows], np.uint8)


ZOO: dict[str, NDArray[np.uint8]] = {
    "one pixel": _of("1"),
    "one colour": _of("111", "111"),
    "a dot": _of("000", "010", "000"),
    "fills the frame but for a dot": _of("111", "101", "111"),
    "hole in a hole": _of("1111111", "1000001", "1011101", "1010101", "1011101", "1000001", "1111111"),
    "checkerboard": np.indices((6, 7)).sum(axis=0).astype(np.uint8) % 2,
    "checkerboard of four": (np.indices((6, 6))[0] % 2 * 2 + np.indices((6, 6))[1] % 2).astype(np.uint8),
    "four colours meeting": _of("0011", "0011", "2233", "2233"),
    "touching at a corner": _of("1100", "1100", "0011", "0011"),
    "one-pixel lines": _of("0100100", "0111111", "0100100", "0111100", "0000100"),
    "stripes": _of("012345", "012345"),
    "stairs": np.tril(np.ones((7, 7), np.uint8)),
    "a column": _of("0", "1", "2", "1"),
    "diagonal of dots": np.eye(6, dtype=np.uint8),
    "both diagonals": np.clip(np.eye(7, dtype=np.uint8) + np.eye(7, dtype=np.uint8)[::-1], 0, 1),
}
