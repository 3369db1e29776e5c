"""Union-find: which items hang together, in almost linear time."""

from __future__ import annotations

from bisectum.core.raster.compiled import kernel


@kernel("i4(i4[:]!, i4)")
def root(parents, item):  # type: ignore[no-untyped-def]
    """The root of `item` in a union-find forest, halving the path on the way."""
    while parents[item] != item:
        parents[item] = parents[parents[item]]
        item = parents[item]
    return item


@kernel("void(i4[:]!, i4, i4)")
def join(parents, one, other):  # type: ignore[no-untyped-def]
    """Unite two trees of a union-find forest; the smaller number becomes the root."""
    first, second = root(parents, one), root(parents, other)
    if first < second:
        parents[second] = first
    elif second < first:
        parents[first] = second
