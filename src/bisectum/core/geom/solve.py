"""Small linear systems, within kernels."""

from __future__ import annotations

from bisectum.core.raster.compiled import kernel


@kernel("b1(f8[:,:]!, f8[:]!)")
def solve(matrix, vector):  # type: ignore[no-untyped-def]
    """Solve a small symmetric system by Gauss elimination, in place: vector receives the solution. False where it has none.

    matrix : (N, N); vector : (N,).
    """
    n = len(vector)
    for k in range(n):
        if abs(matrix[k, k]) < 1e-12:
            return False
        for i in range(k + 1, n):
            if matrix[i, k] == 0.0:
                continue
            share = matrix[i, k] / matrix[k, k]
            for j in range(k, n):
                matrix[i, j] -= share * matrix[k, j]
            vector[i] -= share * vector[k]
    for k in range(n - 1, -1, -1):
        for j in range(k + 1, n):
            vector[k] -= matrix[k, j] * vector[j]
        vector[k] /= matrix[k, k]
    return True
