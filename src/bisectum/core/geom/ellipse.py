"""Whether a closed run of points is a circle or an ellipse, and its cubic arcs.

The conic: A. Fitzgibbon, M. Pilu, R. Fisher, "Direct Least Square Fitting of Ellipses", 1999, in the numerically
stable form of R. Halíř, J. Flusser, 1998. The arcs: handles of 4/3·tan(θ/4) of the radius, a handbook value; four of
them stray from a circle by at most 2.7 × 10⁻⁴ of its radius, outwards. They are drawn smaller by so much that the area
is exact, which halves that.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import signed_area


@dataclass(frozen=True, slots=True)
class Ellipse:
    """Centre x, y; semi-axes a ≥ b; the angle of the longer axis from the x-axis, radians."""

    x: float
    y: float
    a: float
    b: float
    angle: float

    def segments(self, arcs: int, clockwise: bool) -> NDArray[np.float64]:
        """Cubic arcs from axis to axis: (arcs, 4, 2). clockwise as seen, y down."""
        step = 2 * math.pi / arcs
        handle = 4 / 3 * math.tan(step / 4)
        t = np.arange(arcs + 1) * step
        place = np.stack([np.cos(t), np.sin(t)], axis=1)
        along = np.stack([-np.sin(t), np.cos(t)], axis=1) * handle
        unit = np.stack([place[:-1], place[:-1] + along[:-1], place[1:] - along[1:], place[1:]], axis=1)
        cos, sin = math.cos(self.angle), math.sin(self.angle)
        unit *= math.sqrt(math.pi / abs(signed_area(unit)))
        turned = (unit * [self.a, self.b]) @ np.array([[cos, sin], [-sin, cos]]) + [self.x, self.y]
        turned[-1, 3] = turned[0, 0]
        return turned if clockwise else turned[::-1, ::-1]

    def distances(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Distance of points : (N, 2) from the ellipse, to first order. Returns (N,)."""
        cos, sin = math.cos(self.angle), math.sin(self.angle)
        local = (points - [self.x, self.y]) @ np.array([[cos, -sin], [sin, cos]])
        scaled = local / [self.a, self.b]
        value = (scaled**2).sum(axis=1) - 1
        slope = 2 * np.sqrt(((scaled / [self.a, self.b]) ** 2).sum(axis=1))
        return np.abs(value) / np.maximum(slope, 1e-12)


def fit_ellipse(points: NDArray[np.float64]) -> Ellipse | None:
    """The ellipse through points : (N, 2), N ≥ 6, or None where they are on none."""
    middle = points.mean(axis=0)
    size = float(np.abs(points - middle).max())
    if size <= 0 or len(points) < 6:
        return None
    x, y = ((points - middle) / size).T
    terms = np.array([x * x, x * y, y * y, x, y, np.ones_like(x)])
    scatter = terms @ terms.T
    s1, s2, s3 = scatter[:3, :3], scatter[:3, 3:], scatter[3:, 3:]
    try:
        t = -np.linalg.solve(s3, s2.T)
        m = s1 + s2 @ t
        _, vectors = np.linalg.eig(np.stack([m[2] / 2, -m[1], m[0] / 2]))
    except np.linalg.LinAlgError:
        return None
    if np.iscomplexobj(vectors):
        vectors = vectors.real
    fits = 4 * vectors[0] * vectors[2] - vectors[1] ** 2 > 0
    if not fits.any():
        return None
    first = vectors[:, np.flatnonzero(fits)[0]]
    a, b, c = first
    d, e, f = t @ first
    determinant = 4 * a * c - b * b
    cx, cy = (b * e - 2 * c * d) / determinant, (b * d - 2 * a * e) / determinant
    level = -(f + (d * cx + e * cy) / 2)
    axes, turn = np.linalg.eigh(np.array([[a, b / 2], [b / 2, c]]) / level)
    if not (np.isfinite(axes).all() and axes[0] > 0 and np.isfinite([cx, cy]).all()):
        return None
    longer = turn[:, 0]
    angle = math.atan2(longer[1], longer[0])
    a_length, b_length = float(1 / math.sqrt(axes[0])), float(1 / math.sqrt(axes[1]))
    if a_length / b_length < 1.002:
        angle = 0.0  # a circle: nodes at its top, bottom, left and right
    return Ellipse(middle[0] + cx * size, middle[1] + cy * size, a_length * size, b_length * size, angle)
