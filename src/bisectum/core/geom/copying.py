"""Copies between arrays inside kernels. An assignment of one array to another compiles a comparison of their shapes, with all
that its message takes, into every kernel that has one; these do not.
"""

from __future__ import annotations

from bisectum.core.raster.compiled import part


@part("void(f8[:]!, f8[:])")
def copy_row(target, source):  # type: ignore[no-untyped-def]
    """(N,) to (M,), M ≥ N."""
    for i in range(len(source)):
        target[i] = source[i]


@part("void(f8[:,:]!, f8[:,:])")
def copy_rows(target, source):  # type: ignore[no-untyped-def]
    """(N, K) to (M, L), M ≥ N, L ≥ K."""
    for i in range(source.shape[0]):
        for j in range(source.shape[1]):
            target[i, j] = source[i, j]


@part("void(f8[:,:,:]!, f8[:,:,:])")
def copy_segments(target, source):  # type: ignore[no-untyped-def]
    """(N, 4, 2) to (M, 4, 2), M ≥ N."""
    for i in range(source.shape[0]):
        for j in range(source.shape[1]):
            for k in range(source.shape[2]):
                target[i, j, k] = source[i, j, k]
