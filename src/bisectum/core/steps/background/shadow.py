"""Shadow that a subject casts on its ground: ground too, only darker.

Light that is weaker by a factor leaves a colour's chromaticity as it is: brightness and chromaticity distortion are told
apart as in T. Horprasert, D. Harwood, L. S. Davis, "A Statistical Approach for Real-time Robust Background Subtraction and
Shadow Detection", 1999, here in OKLab, where light weaker by a is a colour scaled by the cube root of a. A shadow's edge is
soft, a subject's is sharp: how wide an edge is says so, how steep it is does not.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.flood import flood_from_border

DARKEST, LIGHTEST = 0.25, 1.08  # of the ground's light
TINT = 0.008  # OKLab off the ground's chromaticity, noise apart
SHARP_PX = 1.9  # deviation of the blur of an edge that is a subject's
FAINT = 0.05  # of the logarithm of light: less is no edge
CLEAR = 0.94  # of the ground's light: what is lighter is plain ground
SLIGHT = 0.9  # a shadow that is hardly one is taken whatever lies about it
FEWEST_PX = 60
REACH_PX = 7  # from a shadow to what casts it
LEFT = 0.25  # part of all that is not plain ground that must remain as a subject
SHARP_RIM = 0.5  # part of a region's rim against lighter ground; drawn greys have .87 and more, cast shadows at most .21
FLAT = 0.5  # of the change of the ground below a region, which a shadow on it shows in full
EDGE_PX = 5  # px across: what is looked at about an edge
CRUMB = 0.02  # of the largest thing left
WINDOW = 9  # px across, in which an edge is looked at


@dataclass(frozen=True, slots=True)
class Shadow:
    """cast : (h, w) bool, shadow that hangs together with the ground; shut_in : (h, w) bool, what may be shadow within the
    subject, as in a handle; light : (h, w) float32, the factor by which the ground's OKLab is scaled at each place."""

    cast: NDArray[np.bool_]
    shut_in: NDArray[np.bool_]
    light: NDArray[np.float32]


def find_shadow(
    lab: NDArray[np.float32], field: NDArray[np.float32], ground: NDArray[np.bool_], noise: float
) -> Shadow | None:
    """The shadow beside a ground; None where there is none.

    lab, field : (h, w, 3) float32 OKLab, the picture and its ground's colour everywhere, small; ground : (h, w), what is
    known, some of it; noise: deviation of the ground, OKLab.
    """
    import cv2

    soft = np.asarray(cv2.GaussianBlur(lab, (0, 0), 1.0), np.float32)
    light = (soft * field).sum(axis=2) / np.maximum((field * field).sum(axis=2), 1e-6)
    tint = np.sqrt(((soft - light[..., None] * field) ** 2).sum(axis=2))
    share = np.maximum(light, 0.0) ** 3
    sharp = sharp_edges(lab, ground)
    free = (share > DARKEST) & (share < LIGHTEST) & (tint < TINT + 0.8 * noise) & ~sharp
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (5, 5))
    free = cv2.morphologyEx(free.astype(np.uint8), cv2.MORPH_OPEN, disc) > 0
    flooded = flood_from_border(np.where(free | ground, 0, 255).astype(np.uint8), np.uint8(1))
    cast = _convincing(flooded & ~ground, share, ground, sharp, soft[..., 0], field[..., 0])
    # A rim of a pixel or two is the fringe of an edge.
    wide = cv2.morphologyEx(cast.astype(np.uint8), cv2.MORPH_OPEN, disc) > 0
    if int((wide & (share < CLEAR)).sum()) < FEWEST_PX:
        return None
    cast = _without_crumbs(cast, ground)
    darkest = float(np.quantile(share[cast], 0.02))
    return Shadow(cast, _large(free & ~flooded & ~ground & (share >= darkest)), light.astype(np.float32))


def _large(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    import cv2

    _, parts, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=4)
    return mask & (stats[:, cv2.CC_STAT_AREA] >= FEWEST_PX)[parts]


def sharp_edges(lab: NDArray[np.float32], ground: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Where an edge of light is a subject's. The range of an edge blurred by s is √(2π) s times its slope."""
    import cv2

    light = 3.0 * np.log(np.maximum(lab[..., 0], 0.05)).astype(np.float32)
    square = np.ones((WINDOW, WINDOW), np.uint8)
    spread = np.asarray(cv2.dilate(light, square)) - np.asarray(cv2.erode(light, square))
    slope = np.hypot(cv2.Sobel(light, cv2.CV_32F, 1, 0, scale=1 / 8), cv2.Sobel(light, cv2.CV_32F, 0, 1, scale=1 / 8))
    rim = np.concatenate([side[ends] for side, ends in ((spread[:4], ground[:4]), (spread[-4:], ground[-4:]),
                                                        (spread[:, :4], ground[:, :4]), (spread[:, -4:], ground[:, -4:]))])
    grain = float(np.quantile(rim, 0.9)) if len(rim) else 0.0
    return (spread > max(FAINT, 1.5 * grain)) & (spread < SHARP_PX * np.sqrt(2 * np.pi) * slope)


def _convincing(
    dark: NDArray[np.bool_], share: NDArray[np.floating], ground: NDArray[np.bool_], sharp: NDArray[np.bool_],
    light: NDArray[np.floating], expected: NDArray[np.floating],
) -> NDArray[np.bool_]:
    """The darkened regions that are shadow: soft towards the ground, and hardly dark, or cut by the border of the picture, or
    beside what casts them.

    A region that is drawn, however grey, meets the ground in edges as sharp as all others of the picture, or it keeps its
    lightness where that of the ground changes. light, expected : (h, w), lightness of the picture and of its ground.
    """
    others = ~ground & ~dark
    near_others = _dilated(others, 2 * REACH_PX + 1)
    near_sharp = _dilated(sharp, EDGE_PX)
    border = np.ones(ground.shape, bool)
    border[1:-1, 1:-1] = False
    result = np.zeros(ground.shape, bool)
    for regions, lighter in ((dark & (share > CLEAR), ground), (dark & (share <= CLEAR), ground | (dark & (share > CLEAR)))):
        for own in _parts(regions):
            rim = _dilated(own, EDGE_PX + 2) & lighter & ~own
            if rim.any() and float(near_sharp[rim].mean()) >= SHARP_RIM:
                continue
            if own.any() and light[own].std() < FLAT * expected[own].std():
                continue
            size = int(own.sum())
            if (size < FEWEST_PX or np.median(share[own]) > SLIGHT or (own & border).any()
                    or ((own & near_others).any() and others.sum() > LEFT * (others.sum() + size))):
                result |= own
    return result


def _parts(mask: NDArray[np.bool_]) -> Iterator[NDArray[np.bool_]]:
    """The connected parts of a mask, each as a mask; all that are smaller than FEWEST_PX as one."""
    import cv2

    _, parts, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=4)
    small = stats[:, cv2.CC_STAT_AREA] < FEWEST_PX
    small[0] = False
    yield small[parts]
    for number in np.flatnonzero(~small)[1:].tolist():
        yield parts == number


def _dilated(mask: NDArray[np.bool_], across: int) -> NDArray[np.bool_]:
    import cv2

    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (across, across))
    return np.asarray(cv2.dilate(mask.astype(np.uint8), disc)) > 0


def _without_crumbs(shadow: NDArray[np.bool_], ground: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """With tiny things that shadow and ground leave between them."""
    import cv2

    if not shadow.any():
        return shadow
    count, parts, stats, _ = cv2.connectedComponentsWithStats((~ground & ~shadow).astype(np.uint8), connectivity=4)
    areas = stats[:, cv2.CC_STAT_AREA].astype(float)
    if count < 2:
        return shadow
    tiny = areas < CRUMB * areas[1:].max()
    tiny[0] = False
    beside = cv2.dilate(shadow.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    touched = np.zeros(count, bool)
    touched[np.unique(parts[beside])] = True
    return shadow | (tiny & touched)[parts]
