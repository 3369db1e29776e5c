"""Union-find: which items hang together, in almost linear time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.compiled import kernel, part


@part("i4(i4[:]!, i4)")
def root(parents, item):  # type: ignore[no-untyped-def]
    """The root of `item` in a union-find forest, halving the path on the way."""
    while parents[item] != item:
        parents[item] = parents[parents[item]]
        item = parents[item]
    return item


@part("void(i4[:]!, i4, i4)")
def join(parents, one, other):  # type: ignore[no-untyped-def]
    """Unite two trees of a union-find forest; the smaller number becomes the root."""
    first, second = root(parents, one), root(parents, other)
    if first < second:
        parents[second] = first
    elif second < first:
        parents[first] = second


@kernel("void(i4[:,:], i4[:]!)")
def _unite(pairs, parents):  # type: ignore[no-untyped-def]
    for k in range(len(pairs)):
        join(parents, pairs[k, 0], pairs[k, 1])
    for item in range(len(parents)):
        parents[item] = root(parents, item)


def groups_of(pairs: NDArray[np.int32], count: int) -> NDArray[np.int32]:
    """For each of `count` items the smallest one that it hangs together with, by pairs : (P, 2) int32. Returns (count,) int32."""
    parents = np.arange(count, dtype=np.int32)
    _unite(np.ascontiguousarray(pairs, np.int32), parents)
    return parents
