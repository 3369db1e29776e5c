"""What speaks against each class at each place, from which labels and their smooth scores are made.

A class scores 1 where all of its neighbourhood is of it; what speaks against it is weighed against that.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.progress import SILENT, Part, Progress
from bisectum.core.raster.compiled import kernel
from bisectum.core.steps.colours.photo.areas import ANY, BORDER_WORTH, Least, merged
from bisectum.core.steps.colours.photo.dynamics import settled
from bisectum.core.steps.colours.photo.exchange import exchanged
from bisectum.core.steps.colours.photo.light import Lit
from bisectum.core.steps.colours.photo.widths import wide_enough
from bisectum.core.steps.colours.photo.working import Working

FIDELITY = 4.0 / 1e4  # of a squared DIN99o distance; both tried out on photographs
FINER = 4.0  # times as much counts what speaks against a class where detail is wanted; where calm is, so much less
LINE = 0.25  # speaks for a line where it is sure, as a colour does that is 25 DIN99o off
INK_WEIGHT = 0.6  # of what speaks for or against ink where it is clear
INK_BORDER_WORTH = 0.18  # of a stroke: less than a clear one a millimetre wide is worth, more than texture is
LAST_ROUNDS = 2  # after areas have gone, so that borders are smooth where they met


@dataclass(frozen=True, slots=True)
class Classes:
    """labels : (H, W) uint8, 0 for the ground, k + 1 for class k; scores : (K, H, W) float32, smooth, equal where two classes
    meet; gone, widened: how many areas were given away and how many parts made wider."""

    labels: NDArray[np.uint8]
    scores: NDArray[np.float32]
    gone: int
    widened: int


@kernel("void(f4[:,:,:], f4[:,:], i8[:], f4, f4[:,:,:]!)")
def _against_colours(colour, shades, owner, fidelity, out):  # type: ignore[no-untyped-def]
    height, width, _ = colour.shape
    for y in range(height):
        for x in range(width):
            out[:, y, x] = np.inf
            for k in range(len(shades)):
                apart = np.float32(0)
                for c in range(3):
                    apart += (colour[y, x, c] - shades[k, c]) ** 2
                out[owner[k], y, x] = min(out[owner[k], y, x], fidelity * apart)


def against_colours(
    colour: NDArray[np.float32], shades: NDArray[np.float64], owner: NDArray[np.int64]
) -> NDArray[np.float32]:
    """By the squared distance to the nearest colour of a class. colour : (H, W, 3) DIN99o; shades : (N, 3); owner : (N,), the
    class of each, 0 to K - 1. Returns (K, H, W) float32."""
    result = np.empty((int(owner.max()) + 1, *colour.shape[:2]), np.float32)
    _against_colours(np.ascontiguousarray(colour), shades.astype(np.float32), owner, np.float32(FIDELITY), result)
    return result


def against_tones(light: NDArray[np.float32], thresholds: list[float], middles: list[float]) -> NDArray[np.float32]:
    """Tones of lightness: two that lie side by side are equal just at their threshold.

    light : (H, W), L*; thresholds: K - 1; middles: K, of the tones. Returns (K, H, W) float32.
    """
    result = np.empty((len(middles), *light.shape), np.float32)
    result[0] = np.float32(FIDELITY) * (light - np.float32(middles[0])) ** 2
    for k, threshold in enumerate(thresholds):
        step = max(1.0, middles[k + 1] - middles[k])
        result[k + 1] = result[k] - np.float32(2 * FIDELITY * step) * (light - np.float32(threshold))
    return result


def with_lines(against: NDArray[np.float32], darkest: int, lines: NDArray[np.float32]) -> NDArray[np.float32]:
    """With lines spoken for as parts of the darkest class. against : (K, H, W); lines : (H, W), how surely one runs there."""
    others = np.delete(against, darkest, axis=0).min(axis=0, initial=np.float32(np.inf))
    own = np.where(lines > 0, np.minimum(against[darkest], others - np.float32(LINE) * lines), against[darkest])
    result = against.copy()
    result[darkest] = own
    return result


def against_ink(field: NDArray[np.float32]) -> NDArray[np.float32]:
    """Paper and ink. field : (H, W), above 0 for ink. Returns (2, H, W) float32: paper, ink."""
    half = np.float32(INK_WEIGHT / 2) * field
    return np.stack([half, -half])


def classes_of(
    against: NDArray[np.float32], working: Working, lit: Lit, deviation_mm: float, least: Least, width_mm: float,
    inside: NDArray[np.bool_], border_worth: float = BORDER_WORTH, progress: Progress = SILENT,
) -> Classes:
    """Smooth classes without parts too small, too thin, or worth less than their border.

    against : (K, H, W); deviation_mm: of the borders' smoothness; inside : (H, W), what is not ground;
    border_worth: see areas. Raises: Cancelled.
    """
    if lit.detail is not None:
        against = against * np.float32(FINER) ** lit.detail
    sigma = working.px(deviation_mm, 0.8)
    labels, scores = settled(against, sigma, Part(progress, 0.0, 0.4))
    tidy, gone, widened = tidied(np.where(inside, labels + 1, 0).astype(np.uint8), against, working.mm, least, width_mm,
                                 border_worth)
    solid = tidy > 0  # small parts may have gone to the ground, and small parts of it to classes
    changed = solid & (tidy != labels + 1)
    if changed.any():
        # Where an area was given away, what spoke against its new class speaks against its old one.
        held = exchanged(against, labels, tidy - 1, changed)
        labels, scores = settled(held, sigma, progress, np.where(solid, tidy - 1, labels).astype(np.uint8), LAST_ROUNDS)
        tidy, more = merged(np.where(solid, labels + 1, 0).astype(np.uint8), held, working.mm, least, 0.0)
        gone += more
        scores = exchanged(scores, labels, tidy - 1, (tidy > 0) & (tidy != labels + 1))
    return Classes(tidy, scores, gone, widened)


def tidied(
    labels: NDArray[np.uint8], against: NDArray[np.float32], mm: float, least: Least, width_mm: float,
    border_worth: float = BORDER_WORTH,
) -> tuple[NDArray[np.uint8], int, int]:
    """Labels without what is worth less than its border, too thin or too small. Shapes as in areas.Areas.

    Returns (H, W) uint8, how many areas went, and how many were widened.
    """
    labels, weak = merged(labels, against, mm, ANY, border_worth)
    labels, thin, widened = wide_enough(labels, against, mm, width_mm, border_worth)
    labels, small = merged(labels, against, mm, least, border_worth)
    return labels, weak + thin + small, widened
