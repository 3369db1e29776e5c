"""The separated picture: for every pixel the colour, hence the layer, it belongs to."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure
from bisectum.core.model.face import Face
from bisectum.core.model.finding import Finding
from bisectum.core.model.ink_choice import InkChoice
from bisectum.core.model.kind import CLIP_ART, Told
from bisectum.core.model.page import Page
from bisectum.core.model.palette import Palette
from bisectum.core.model.tone_scale import ToneScale


@dataclass(frozen=True)
class LabelMap:
    """labels : (H, W) uint8; 0 is background, i + 1 is palette.colours[i].

    mm_per_px: finished size of a pixel. absorbed: how many specks went to their neighbours. findings: what the person
    should know. compressed: the picture has the unrest of lossy compression. scores : (1 + colours, H, W) float32, smooth: two
    labels meet where theirs are equal; None where edges are placed by the picture. scale: of a photograph's tones.
    told: what kind of picture it is; page: of ink, what was found beside it; faces: of a photograph, px of the picture;
    choices: of inks that a photograph could get.
    """

    labels: NDArray[np.uint8]
    palette: Palette
    mm_per_px: float
    absorbed: int = 0
    findings: tuple[Finding, ...] = ()
    compressed: bool = False
    scores: NDArray[np.float32] | None = None
    scale: ToneScale | None = None
    told: Told = CLIP_ART
    page: Page | None = None
    faces: tuple[Face, ...] = ()
    choices: tuple[InkChoice, ...] = ()

    @cached_property
    def digest(self) -> str:
        """Of everything that lines are drawn from: equal label maps give equal lines."""
        whole = hashlib.blake2b(np.ascontiguousarray(self.labels).data, digest_size=16)
        whole.update(f"{self.labels.shape}/{self.palette}/{self.compressed}".encode())
        if self.scores is not None:
            whole.update(np.ascontiguousarray(self.scores).data)
        return whole.hexdigest()

    def check(self) -> None:
        """Raises: BrokenStructure saying what is wrong and where."""
        if self.labels.ndim != 2 or self.labels.dtype != np.uint8:
            raise BrokenStructure(f"Labels are (H, W) uint8, not {self.labels.shape} {self.labels.dtype}.")
        stray = np.argwhere(self.labels > len(self.palette.colours))
        if len(stray):
            y, x = stray[0]
            raise BrokenStructure(f"The label at {x}, {y} names no colour of the palette.", x=int(x), y=int(y))
        if not self.mm_per_px > 0:
            raise BrokenStructure("The size of a pixel is above zero.")
        if self.scores is not None and self.scores.shape != (len(self.palette.colours) + 1, *self.labels.shape):
            raise BrokenStructure(f"Scores are one raster for each label, not {self.scores.shape}.")
        if self.scale is not None:
            self.scale.check()
        if self.page is not None:
            self.page.check()
        for face in self.faces:
            face.check()
        for choice in self.choices:
            choice.check()
        self.palette.check()
