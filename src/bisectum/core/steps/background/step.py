"""The Background step: transparency, or the border's colour flooded from the border.

The border's colour is a surface, so a soft gradient is one background. Its reach is the valley in the histogram of
distances from that surface, beyond what the border itself shows (the lines of a pale grid, say). Where less than 60 %
of the border agrees on a surface, everything is kept.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.model.ground import EnclosedSpot, Ground, GroundKind
from bisectum.core.model.picture import Picture, frozen
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.colour import LINEAR_OF_SRGB, oklab, rgb_of
from bisectum.core.raster.cracks import classify_vertices, label_regions
from bisectum.core.raster.flood import distance_from_surface, flood_from_border
from bisectum.core.raster.surface import TERMS, basis, fit_surface
from bisectum.core.steps.background.settings import BackgroundSettings

VERSION = 1
STEPS_PER_UNIT = 500.0  # of the distances from raster.flood
AGREEING = 0.02  # OKLab: border pixels this near the surface agree with it, noise apart
PLAIN_SHARE = 0.6  # of the border must agree
BORDER_REACH = 0.1  # OKLab: what differs more is no part of the background, even where it lies on the border
COLOUR_SHARE = 0.004  # of the picture within three steps of distance makes a colour, not a fringe
SMALLEST_SPOT = 9  # pixels of undisturbed ground colour that make an enclosed spot


def find_background(picture: Picture, settings: BackgroundSettings, progress: Progress = SILENT) -> Ground:
    """The ground of a picture. Raises: SettingsError for a colour that is not given; Cancelled."""
    nothing = np.zeros((TERMS, 4))
    if settings.mode == "keep":
        return Ground(frozen(np.zeros(picture.rgba.shape[:2], bool)), frozen(nothing), "kept", 0.0)
    clear = picture.rgba[..., 3] < 128
    if settings.mode == "auto" and clear.any():
        kind: GroundKind = "cleared_all" if clear.all() else "transparent"
        return Ground(frozen(clear), frozen(nothing), kind, 0.0)
    progress.report(0.1)
    surface, plain, kind = _surface(picture, settings)
    if not plain:
        return Ground(frozen(np.zeros_like(clear)), frozen(nothing), "not_plain", 0.0)
    progress.raise_if_cancelled()
    distances = distance_from_surface(picture.rgba, surface, LINEAR_OF_SRGB)
    if clear.any():
        distances[clear] = 0
    reach = settings.reach / 100.0 if settings.reach is not None else _valley(distances)
    level = np.uint8(min(254, round(reach * STEPS_PER_UNIT)))
    progress.report(0.5)
    progress.raise_if_cancelled()
    mask = flood_from_border(distances, level)
    progress.report(0.8)
    if mask.all():
        kind = "cleared_all"
    return Ground(frozen(mask), frozen(_coded(picture, mask)), kind, reach, _enclosed(distances, mask, level))


def _ring(picture: Picture) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Rows and columns of at most some 4000 pixels along the border, two deep."""
    inside = np.zeros(picture.rgba.shape[:2], bool)
    inside[2:-2, 2:-2] = True
    rows, columns = np.nonzero(~inside)
    every = max(1, len(rows) // 4000)
    return rows[::every], columns[::every]


def _surface(picture: Picture, settings: BackgroundSettings) -> tuple[NDArray[np.float64], bool, GroundKind]:
    """The ground's colour in OKLab (6, 3), whether enough of the border agrees on it, and how it is called."""
    rows, columns = _ring(picture)
    samples = oklab(picture.rgba[rows, columns, :3])
    terms = basis(rows, columns, picture.height, picture.width)
    if settings.mode == "colour":
        if settings.colour is None:
            raise SettingsError("No background colour was given; write one such as #ffffff.")
        flat = np.zeros((TERMS, 3))
        flat[0] = oklab(np.array(rgb_of(settings.colour), np.uint8))
        return flat, True, "plain"
    # Two starts: one from the commonest colour of the border, one from all of it. A gradient is found by the second
    # only, a border with much else in it by the first.
    bins = np.round(samples / 0.03).astype(np.int64)
    common, count = np.unique(bins, axis=0, return_counts=True)
    near = np.abs(samples - common[count.argmax()] * 0.03).max(axis=1) < 0.05
    candidates = [fit_surface(terms[near], samples[near], 0.01), fit_surface(terms, samples, 0.01)]
    agreeing = [float((_residual(samples, terms, s) < AGREEING + 2 * _noise(samples, terms, s)).mean()) for s in candidates]
    best = candidates[0] if agreeing[0] >= agreeing[1] - 0.02 else candidates[1]
    travel = float(np.ptp(terms[near] @ best, axis=0).max())
    return best, max(agreeing) >= PLAIN_SHARE, "shaded" if travel > 0.02 else "plain"


def _residual(samples: NDArray[np.float64], terms: NDArray[np.float64], surface: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.sqrt(((samples - terms @ surface) ** 2).sum(axis=1))


def _noise(samples: NDArray[np.float64], terms: NDArray[np.float64], surface: NDArray[np.float64]) -> float:
    """Deviation of the agreeing samples, at most 0.012 so that texture does not pass for noise."""
    residual = _residual(samples, terms, surface)
    near = residual[residual < 0.06]
    return min(0.012, 1.2 * float(np.median(near))) if len(near) else 0.0


def _valley(distances: NDArray[np.uint8]) -> float:
    """The reach: the first place where the histogram of distances is as good as empty, behind the ground and before
    what comes next."""
    every = max(1, int(np.sqrt(distances.size / 300_000)))
    counts = np.bincount(distances[::every, ::every].ravel(), minlength=256).astype(float)
    border = np.concatenate([distances[0], distances[-1], distances[:, 0], distances[:, -1]])
    pale = border[border < BORDER_REACH * STEPS_PER_UNIT]
    shown = float(np.quantile(pale, 0.98)) if len(pale) else 0.0
    start = int(min(BORDER_REACH * STEPS_PER_UNIT, max(5.0, 1.3 * shown + 2.0)))
    window = np.convolve(counts, np.ones(3) / 3, mode="same")[start : start + 35]
    crowded = np.flatnonzero(3 * window > COLOUR_SHARE * counts.sum())  # another colour begins here
    if len(crowded):
        window = window[: max(1, int(crowded[0]))]
    empty = 1.5 * window.min() + 2e-4 * counts.sum()
    return (start + int(np.argmax(window <= empty))) / STEPS_PER_UNIT


def _coded(picture: Picture, mask: NDArray[np.bool_]) -> NDArray[np.float64]:
    """The surface of the ground in coded colours with alpha, (6, 4), fitted to the flooded pixels."""
    chosen = np.flatnonzero(mask)
    result = np.zeros((TERMS, 4))
    if not len(chosen):
        return result
    chosen = chosen[:: max(1, len(chosen) // 5000)]
    rows, columns = np.unravel_index(chosen, mask.shape)
    values = picture.rgba[rows, columns, :3].astype(np.float64)
    result[:, :3] = fit_surface(basis(rows, columns, *mask.shape), values, 3.0)
    result[0, 3] = 255.0
    return result


def _enclosed(distances: NDArray[np.uint8], mask: NDArray[np.bool_], level: np.uint8) -> tuple[EnclosedSpot, ...]:
    """Spots of ground colour that the flood did not reach, the largest 200 of them."""
    shut_in = (distances <= level) & ~mask
    if not shut_in.any():
        return ()
    labels = shut_in.astype(np.uint8)
    regions, count = label_regions(labels, classify_vertices(labels))
    members = regions[shut_in]
    sizes = np.bincount(members, minlength=count)
    rows, columns = np.nonzero(shut_in)
    by_region = np.argsort(members, kind="stable")
    starts = np.cumsum(sizes) - sizes
    spots = []
    for number in np.argsort(-sizes, kind="stable")[:200]:
        if sizes[number] < SMALLEST_SPOT:
            break
        own = by_region[starts[number] : starts[number] + sizes[number]]
        y = rows[own[len(own) // 2]]
        across = columns[own[rows[own] == y]]
        spots.append(EnclosedSpot(int(across[len(across) // 2]), int(y), int(sizes[number])))
    return tuple(spots)
