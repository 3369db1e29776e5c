"""Background shut in by the drawing: inside letters, handles, between railings.

A spot of the ground's own colour cannot always be told from a part of the drawing (an eye's white on a white ground), so
each is offered with how likely it is background. Colours that drawings use for themselves, white, black and grey, tell
nothing; a shade that fits the ground's at this very place tells most.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.ground import EnclosedSpot
from bisectum.core.raster.colour import oklab
from bisectum.core.raster.regions import regions_of
from bisectum.core.steps.background.border import STEPS_PER_UNIT, Border

Expected = Callable[[NDArray[np.intp], NDArray[np.intp]], NDArray[np.floating]]

SMALLEST_PX = 9  # of undisturbed ground colour
MOST_SPOTS = 200
CERTAIN = 0.9  # from which a spot goes by itself
NEUTRAL = 0.03  # OKLab chroma of colours that drawings have of their own
FITS, SHADED_FITS = 0.012, 0.05  # OKLab a spot may be off; the middle of a shaded ground is known less well
UNTOLD, TOLD, SURE = 0.5, 0.92, 0.96
LOOKED_AT_PX = 300_000
EVEN = 10  # levels between all pixels within two of one in a flat place
ON_LINE, BARE, FULL = 24.0, 0.15, 0.85  # levels off the line from ground to ink; parts of the ink: nothing but ground, all of it
MOST_OTHER = 0.001  # of the flat places may be of another colour


def enclosed_spots(
    rgba: NDArray[np.uint8], border: Border, expected: Expected, distances: NDArray[np.uint8], mask: NDArray[np.bool_],
    level: int,
) -> tuple[tuple[EnclosedSpot, ...], NDArray[np.int32]]:
    """The largest spots, and the number of the spot each pixel is in, -1 for none. (H, W) int32.

    rgba : (H, W, 4); expected: the ground's colour, OKLab, at rows and columns; distances : (H, W) uint8, see raster.flood;
    mask : (H, W), the ground the border reaches; level: how far a distance may be.
    """
    shut_in = (distances <= level) & ~mask
    member = np.full(mask.shape, -1, np.int32)
    if not shut_in.any():
        return (), member
    regions = regions_of(shut_in.view(np.uint8))
    rows, columns = np.nonzero(shut_in)
    own = regions.numbers[rows, columns]
    sizes = np.where(regions.labels > 0, regions.sizes, 0)
    order = np.argsort(own, kind="stable")
    starts = np.cumsum(sizes) - sizes
    spots: list[EnclosedSpot] = []
    for number in np.argsort(-sizes, kind="stable")[:MOST_SPOTS]:
        if sizes[number] < SMALLEST_PX:
            break
        chosen = order[starts[number] : starts[number] + sizes[number]]
        y, x = rows[chosen], columns[chosen]
        middle = y[len(y) // 2]
        across = x[y == middle]
        member[y, x] = len(spots)
        spots.append(EnclosedSpot(
            int(across[len(across) // 2]), int(middle), int(sizes[number]),
            (int(x.min()), int(y.min()), int(x.max()) + 1, int(y.max()) + 1),
            _likelihood(rgba, expected, y, x, border, level / STEPS_PER_UNIT),
        ))
    return tuple(spots), member


def _likelihood(rgba: NDArray[np.uint8], expected: Expected, y: NDArray[np.intp], x: NDArray[np.intp], border: Border,
                reach: float) -> float:
    """How likely a spot is background, 0 to 1. y, x: its pixels; reach: OKLab."""
    every = max(1, len(y) // 500)
    samples, asked = oklab(rgba[y[::every], x[::every], :3]), expected(y[::every], x[::every])
    off = float(np.linalg.norm(np.median(samples - asked, axis=0)))
    here = asked.mean(axis=0)
    fits = math.exp(-((off / max(SHADED_FITS if border.shaded else FITS, 0.5 * reach)) ** 2))
    if border.shaded and off < 0.3 * border.travel and _shades_alike(samples, asked):
        return SURE * fits
    neutral = math.hypot(here[1], here[2]) < NEUTRAL
    return (UNTOLD if neutral else TOLD) * fits


def _shades_alike(samples: NDArray[np.floating], expected: NDArray[np.floating]) -> bool:
    """Whether a spot shades as the ground does there, not less; small spots shade too little to tell and count as alike."""
    own, asked = (values - values.mean(axis=0) for values in (samples, expected))
    change = float((asked * asked).sum())
    if math.sqrt(change / len(asked)) < 0.002:
        return True
    return 0.6 < float((own * asked).sum()) / change < 1.5


def is_of_one_colour(rgba: NDArray[np.uint8], ground: NDArray[np.bool_], drawn: NDArray[np.bool_]) -> bool:
    """Whether all flat places of what is drawn have one colour.

    What such a drawing shuts in is open, as in lettering and rings. rgba : (H, W, 4) uint8; ground, drawn : (H, W) bool.
    """
    import cv2

    every = max(1, math.ceil(math.sqrt(ground.size / LOOKED_AT_PX)))
    square = np.ones((5, 5), np.uint8)
    spread = cv2.subtract(cv2.dilate(rgba[..., :3], square), cv2.erode(rgba[..., :3], square)).max(axis=2)
    seen, flat = (own[::every, ::every] for own in (drawn, spread < EVEN))
    colours = rgba[::every, ::every, :3].astype(np.float32)
    if not seen.any() or not ground.any():
        return False
    away = colours[seen] - np.median(rgba[..., :3][ground][:: max(1, int(ground.sum()) // 20_000)], axis=0)
    size = np.linalg.norm(away, axis=1)
    ink = away[size >= np.quantile(size, 0.9)].mean(axis=0)
    share = away @ ink / max(float(ink @ ink), 1.0)
    off = np.linalg.norm(away - share[:, None] * ink, axis=1)
    even = flat[seen]
    return bool(even.any() and ((off > ON_LINE) | ((share > BARE) & (share < FULL)))[even].mean() < MOST_OTHER)
