"""Small linear systems, within kernels."""

from __future__ import annotations

from bisectum.core.geom.copying import copy_row, copy_rows
from bisectum.core.raster.compiled import kernel, part


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


@part("b1(f8[:,:], f8[:], f8, f8[:,:]!, f8[:]!)")
def solve_damped(matrix, vector, damping, work, step):  # type: ignore[no-untyped-def]
    """The step of Gauss and Newton, damped by a share of the matrix's diagonal (D. Marquardt, 1963).

    So unknowns of all units weigh alike.

    matrix : (N, N), vector : (N,), kept; work : (N, N) scratch; step : (N,) receives the solution. False where it has none.
    """
    copy_rows(work, matrix)
    copy_row(step, vector)
    for k in range(len(vector)):
        work[k, k] += damping * matrix[k, k] + 1e-9
    return solve(work, step)
