"""Close layouts: parts on as short a strip as can be, by a nester that is handed in.

The nester is given polygons that hold each part with half of the spacing around it, drawn a little too large where they are made
simpler. So whatever it lays side by side keeps the spacing.
"""

from __future__ import annotations

import hashlib
from collections.abc import MutableMapping, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from bisectum.core.progress import Progress

SIMPLER_MM = 0.08
Turns = tuple[float, ...] | None
"""Degrees a part may be turned by; None for any."""


@dataclass(frozen=True, slots=True)
class Demand:
    """shape : (N, 2), a polygon, mm; count: how many of it."""

    shape: NDArray[np.float64]
    count: int
    turns: Turns


@dataclass(frozen=True, slots=True)
class Strip:
    """length: mm; laid: for each that was placed the number of its demand, its turn in degrees, and how far it is moved then."""

    length: float
    laid: tuple[tuple[int, float, float, float], ...]


@dataclass(frozen=True, slots=True)
class Task:
    """Polygons to be laid on a strip of a height, mm."""

    demands: tuple[Demand, ...]
    height: float

    def key(self, seconds: int) -> str:
        """What names its layout."""
        text = f"1/{self.height:.4f}/{seconds}/" + "|".join(
            f"{demand.count}/{demand.turns}/{np.round(demand.shape, 3).tolist()}" for demand in self.demands)
        return hashlib.sha256(text.encode()).hexdigest()


class Nester(Protocol):
    def __call__(self, tasks: Sequence[Task], seconds: int, progress: Progress) -> list[Strip]:
        """Lay polygons on strips, each as short as can be found in so many seconds; all at once. Raises: Cancelled."""


Layouts = MutableMapping[str, Strip]
"""What was laid out once stays so: layouts by what they are of."""


def nested(tasks: Sequence[Task], seconds: int, nester: Nester, layouts: Layouts, progress: Progress) -> list[Strip]:
    """The same layouts whenever the same is asked for. Raises: Cancelled."""
    keys = [task.key(seconds) for task in tasks]
    missing = {key: task for key, task in zip(keys, tasks, strict=True) if key not in layouts}
    if missing:
        for key, strip in zip(missing, nester(list(missing.values()), seconds, progress), strict=True):
            layouts[key] = strip
    return [layouts[key] for key in keys]


def outline_for(shape: BaseGeometry, spacing: float, near: float) -> NDArray[np.float64]:
    """A polygon around a part with half of the spacing. near: gaps up to this are closed, so that what stays together is one
    shape; where that does not join it, its convex hull is taken. (N, 2)."""
    grown = shape.buffer(spacing / 2 + SIMPLER_MM, quad_segs=6)
    if grown.geom_type != "Polygon" and near:
        grown = grown.buffer(near / 2 + SIMPLER_MM, quad_segs=6).buffer(-near / 2 - SIMPLER_MM, quad_segs=6).union(grown)
    if grown.geom_type != "Polygon":
        grown = grown.convex_hull
    simple = shapely.Polygon(grown.exterior).simplify(SIMPLER_MM)
    return np.asarray(simple.exterior.coords)[:-1]
