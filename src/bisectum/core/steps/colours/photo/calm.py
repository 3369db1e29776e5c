"""A photograph without texture, in the forms that treatments ask for; each is worked out once."""

from __future__ import annotations

from collections.abc import Callable, MutableMapping
from dataclasses import dataclass
from typing import Any, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.curvature_flow import curvature_flow
from bisectum.core.raster.din99o import lightness_of
from bisectum.core.raster.sharpness import edge_blur
from bisectum.core.steps.colours.photo.certainty import Certainty, certainty
from bisectum.core.steps.colours.photo.light import Lit
from bisectum.core.steps.colours.photo.shading import evened
from bisectum.core.steps.colours.photo.sides import sided
from bisectum.core.steps.colours.photo.working import Working

Memory = MutableMapping[str, Any]
T = TypeVar("T")
# How many times what is usual around it an edge must be to count, and how far beyond that in some place: in a scene, in a subject
# that was cut out; where detail is wanted, and how much more where calm is.
SCENE_TIMES, SCENE_SEED = 1.7, 0.5
SUBJECT_TIMES, SUBJECT_SEED = 1.4, 0.8
FINE_TIMES, CALM_TIMES = 1.1, 0.5
CALM_LEVELS = 1.25  # of the square of the fineness of lines: curvature flow of lightness


class Remembered:
    """Partial results, worked out where they are not in memory."""

    def __init__(self, memory: Memory | None) -> None:
        self._memory: Memory = {} if memory is None else memory

    def of(self, what: str, work: Callable[[], T]) -> T:
        if what not in self._memory:
            self._memory[what] = work()
        return cast(T, self._memory[what])


@dataclass(frozen=True, slots=True)
class Calm:
    """working, lit: the photograph and its light; is_cut: its subject was cut out; kept: partial results; seen: names what they
    come from."""

    working: Working
    lit: Lit
    is_cut: bool
    kept: Remembered
    seen: str

    def finest(self, fine_mm: float) -> float:
        """How fine edges are looked for, mm: no finer than the picture is sharp. fine_mm: how fine lines are."""
        blur = self.kept.of(f"blur/{self.working.mm}", lambda: edge_blur(self.working.light) or 0.0)
        return max(fine_mm, blur * self.working.mm)

    def certain(self, fine_mm: float) -> Certainty:
        """Where edges stand out: the more readily where somebody wants detail, and in a subject that was cut out."""
        times, seed = (SUBJECT_TIMES, SUBJECT_SEED) if self.is_cut else (SCENE_TIMES, SCENE_SEED)
        detail = np.zeros_like(self.lit.light) if self.lit.detail is None else self.lit.detail
        wanted = (times + np.where(detail > 0, FINE_TIMES - times, -CALM_TIMES) * detail).astype(np.float32)
        return self.kept.of(f"certain/{self.seen}/{fine_mm}/{self.is_cut}", lambda: certainty(
            self.lit.colour, self.working.mm, self.finest(fine_mm), wanted, np.full_like(wanted, seed)))

    def colour(self, fine_mm: float, exactly: bool = True) -> NDArray[np.float32]:
        """The colours, (H, W, 3) float32, DIN99o. exactly: sharp edges stay where they are; else only colours between matter."""
        certain, mm, finest = self.certain(fine_mm), self.working.mm, self.finest(fine_mm)
        name = f"{self.seen}/{fine_mm}/{self.is_cut}"
        sides = self.kept.of(f"sides/{name}", lambda: sided(certain.calm(), certain, mm, finest))
        return self.kept.of(f"calm/{name}/{exactly}", lambda: evened(sides, certain, mm, finest, exactly))

    def light(self, fine_mm: float, progress: Progress = SILENT) -> NDArray[np.float32]:
        """The lightness, (H, W) float32, L*, with calm level lines; tones are slopes, so that sides would tear them.
        Raises: Cancelled."""
        certain, mm = self.certain(fine_mm), self.working.mm
        return self.kept.of(f"light/{self.seen}/{fine_mm}/{self.is_cut}", lambda: curvature_flow(
            lightness_of(evened(certain.calm(), certain, mm, self.finest(fine_mm))), CALM_LEVELS * (fine_mm / mm) ** 2, progress))
