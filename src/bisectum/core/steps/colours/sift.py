"""The second half of the Colours step: noise goes to what lies around it, and the palette is put in order.

What is too small to be cut is no matter of pixels, and is left to the Pieces step. Only this half depends on the finished
size. A change of width therefore does not separate the colours anew.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import BrokenStructure, SettingsError
from bisectum.core.model.face import Face
from bisectum.core.model.finding import Finding
from bisectum.core.model.ink_choice import InkChoice
from bisectum.core.model.kind import CLIP_ART, Told
from bisectum.core.model.label_map import LabelMap
from bisectum.core.model.page import Page
from bisectum.core.model.palette import Colour, Palette
from bisectum.core.model.picture import Picture, frozen
from bisectum.core.model.tone_scale import ToneScale
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.absorb import absorb_small
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.raster.regions import regions_of
from bisectum.core.raster.vertices import vertices_of
from bisectum.core.steps.colours.by_hand import Entry
from bisectum.core.steps.colours.photo.exchange import exchanged
from bisectum.core.steps.colours.settings import ColoursSettings

Method = Literal["flat", "tones", "ink"]
NOISE_PX, COMPRESSED_NOISE_PX = 4, 16  # smaller areas are noise: nothing that was drawn; less than 2 × 2 samples of chroma
MOST_AREAS = 2500  # so many, the largest, are more than anybody cuts and weeds
SMALL_SHARE = 0.005
ALIKE = 6.0  # CIEDE2000


@dataclass(frozen=True, slots=True)
class Separation:
    """labels : (H, W) uint8; 0 is background, i + 1 is entries[i]. method: how colours were told; found: how many were
    distinct. factor: pixels of the picture along one pixel of the labels. compressed, scores, scale, told, page, faces, choices:
    as in LabelMap."""

    labels: NDArray[np.uint8]
    entries: tuple[Entry, ...]
    method: Method
    found: int
    findings: tuple[Finding, ...]
    factor: float
    compressed: bool
    scores: NDArray[np.float32] | None = None
    scale: ToneScale | None = None
    told: Told = CLIP_ART
    page: Page | None = None
    faces: tuple[Face, ...] = ()
    choices: tuple[InkChoice, ...] = ()

    def check(self) -> None:
        """Raises: BrokenStructure where a label names no colour."""
        if int(self.labels.max(initial=0)) > len(self.entries):
            raise BrokenStructure("A label of the separated picture names no colour.")


def sifted(separation: Separation, picture: Picture, settings: ColoursSettings, progress: Progress = SILENT) -> LabelMap:
    """Absorb noise, and drop colours that no pixel is left of.

    Raises: SettingsError when nothing is left to cut; Cancelled.
    """
    labels, made, factor = separation.labels, separation.entries, separation.factor
    columns = np.flatnonzero((labels > 0).any(axis=0))
    if not len(columns):
        raise SettingsError("Everything looks like background here, so nothing is left to cut: lower the reach, or keep "
                            "the background.", code="nothing_left")
    mm_per_px = picture.mm_per_px((columns[-1] - columns[0] + 1) * factor) * factor
    least = _noise_px(separation)
    labels, absorbed = absorb_small(labels, least, progress)
    scores = separation.scores
    if scores is not None and absorbed:
        scores = exchanged(scores, separation.labels, labels, labels != separation.labels)
    counts = cv2.calcHist([labels], [0], None, [256], [0, 256]).ravel()[1 : len(made) + 1].astype(np.int64)
    if not counts.any():
        raise SettingsError("This picture holds nothing but single pixels: bring in a larger one.", code="all_too_small")
    order = np.argsort(-counts, kind="stable")
    order = order[counts[order] > 0]
    renumbered = np.zeros(256, np.uint8)
    renumbered[order + 1] = np.arange(1, len(order) + 1)
    pins = {pin.colour for pin in settings.pins}
    colours = tuple(_colour(made[number], float(counts[number] / counts.sum()), pins, separation.page is not None)
                    for number in order)
    details = {"count": absorbed, "most": MOST_AREAS}
    speckled = [Finding("speckled", "warning", details=details)] if least > COMPRESSED_NOISE_PX else []
    findings = [*separation.findings, *speckled, *_unused_pins(made, counts, pins, settings), *_near_alike(colours)]
    labels = np.asarray(cv2.LUT(labels, renumbered), np.uint8)
    if scores is not None:
        scores = frozen(scores[[0, *(order + 1)]])
    return LabelMap(frozen(labels), Palette(colours, separation.method, separation.found), mm_per_px, absorbed, tuple(findings),
                    separation.compressed, scores, separation.scale, separation.told, separation.page,
                    separation.faces, separation.choices)


def _noise_px(separation: Separation) -> int:
    """How many pixels an area has at least that is no noise. Photographs come without any."""
    if separation.scores is not None:
        return 0
    noise = COMPRESSED_NOISE_PX if separation.compressed else NOISE_PX
    sizes = np.sort(regions_of(separation.labels, vertices_of(separation.labels)).sizes)
    return max(noise, int(sizes[-MOST_AREAS]) + 1) if len(sizes) > MOST_AREAS else noise


def _colour(entry: Entry, share: float, pins: set[str], of_page: bool) -> Colour:
    pinned = entry.key in pins
    return Colour(entry.rgb, share, share < SMALL_SHARE, entry.role, entry.name, pinned, entry.tonal, of_page and not pinned)


def _unused_pins(
    made: tuple[Entry, ...], counts: NDArray[np.int64], pins: set[str], settings: ColoursSettings
) -> list[Finding]:
    moved = {change.colour for change in settings.palette_changes}
    used = {entry.key for entry, count in zip(made, counts, strict=True) if count}
    return [Finding("pin_unused", details={"colour": pin.colour}) for pin in settings.pins
            if pin.colour in pins - moved - used]


def _near_alike(colours: tuple[Colour, ...]) -> list[Finding]:
    """Say which colours are hard to tell apart, with their difference."""
    lab = cielab(np.array([colour.rgb for colour in colours], np.uint8))
    apart = ciede2000(lab[:, None], lab[None])
    pairs = [(second, first) for first in range(len(colours)) for second in range(first)]
    return [
        Finding("near_alike", value=round(float(apart[a, b]), 1), limit=ALIKE,
                details={"one": colours[a].key, "other": colours[b].key, "difference": round(float(apart[a, b]), 1)})
        for a, b in pairs if apart[a, b] < ALIKE and colours[a].rgb != colours[b].rgb
    ]
