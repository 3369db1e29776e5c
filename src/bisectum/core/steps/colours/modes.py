"""The distinct colours of flat art: modes of the colour density, found by mean shift.

D. Comaniciu, P. Meer, "Mean Shift: A Robust Approach Toward Feature Space Analysis", 2002, with a flat kernel in
OKLab. Starting from the heaviest bin left each time, the count of modes comes out by itself; a small patch of its own
colour is a mode as much as a large one.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.raster.colour import oklab
from bisectum.core.raster.compiled import kernel, part

BANDWIDTH = 0.028  # OKLab
REMOTE = 0.07  # OKLab a thin line differs from what is known already; twice that where compression overshoots
CLEAN_BANDWIDTH = 0.012  # where every pixel of a colour has just that colour
AT_MODE = 0.015  # OKLab
FEWEST_THIN_PX = 24.0
PINNED = 0.06  # OKLab within which a mode is the pinned colour
ECHO, FAINT = 14.0, 0.05  # levels; part of the heavier one's pixels
ON_MIX = 14.0  # levels
OF_MIXTURE = 0.3  # of its cost to join with another one that a colour counts which may be the mixture along an edge
FEWEST_PX = 12.0  # flat pixels that make a mode
FEWEST_CLEAN_PX = 5.0  # where there is no noise to mistake for one
SMALLEST_SHARE = 0.0002  # of all flat pixels


def find_modes(
    colours: NDArray[np.float64], counts: NDArray[np.float64], fewest_px: float = FEWEST_PX, bandwidth: float = BANDWIDTH
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """colours : (B, 3) coded 0..255, counts : (B,). fewest_px: that make a mode; bandwidth: OKLab, nearer colours are one.

    Returns modes : (M, 3) coded and weights : (M,), heaviest first.
    """
    owner, count = _owners(oklab(colours), counts, np.argsort(-counts, kind="stable"), bandwidth)
    weights = np.bincount(owner, weights=counts, minlength=count)
    keep = weights >= max(fewest_px, SMALLEST_SHARE * counts.sum())
    modes = np.empty((count, 3))
    _peaks(colours, counts, owner, modes)
    modes, weights = modes[keep], weights[keep]
    heavy = np.argsort(-weights, kind="stable")
    return modes[heavy], weights[heavy]


def without_echoes(
    modes: NDArray[np.float64], weights: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The modes, heaviest first, but for faint ones within ECHO levels of a heavier one: compression rounds a colour both
    ways, which near black looks like much in OKLab. modes : (M, 3) coded; weights : (M,)."""
    kept: list[int] = []
    for number in range(len(modes)):
        echo = (np.abs(modes[kept] - modes[number]).max(axis=1) <= ECHO) & (weights[number] < FAINT * weights[kept])
        if not echo.any():
            kept.append(number)
    return modes[kept], weights[kept]


def thin_modes(
    colours: NDArray[np.float64], counts: NDArray[np.float64], known: NDArray[np.float64], compressed: bool = False
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Modes of thin lines beside the known ones. colours : (B, 3), counts : (B,) from ridges; known : (K, 3) coded.

    The middles of very thin lines are mixed with what is beside them, so of modes on one line from a known colour only
    the farthest is taken, and what is a mix of two known colours is none. compressed: the picture overshoots beside its
    edges, so a line must differ more. Returns (M, 3) modes and (M,) weights.
    """
    remote_enough, fewest = (2 * REMOTE, 3 * FEWEST_THIN_PX) if compressed else (REMOTE, FEWEST_THIN_PX)
    modes, weights = np.empty((0, 3)), np.empty(0)
    if counts.sum() < FEWEST_THIN_PX:
        return modes, weights
    if len(known):
        near = np.sqrt(((oklab(colours)[:, None] - oklab(known)[None]) ** 2).sum(axis=2)).min(axis=1)
        colours, counts = colours[near > remote_enough - BANDWIDTH], counts[near > remote_enough - BANDWIDTH]
        if counts.sum() < fewest:
            return modes, weights
    found, amounts = find_modes(colours, counts)
    remote = np.sqrt(((oklab(found)[:, None] - oklab(known)[None]) ** 2).sum(axis=2)).min(axis=1) if len(known) else amounts
    for number in np.argsort(-remote, kind="stable"):
        if amounts[number] < fewest or (len(known) and remote[number] < remote_enough):
            continue
        if not is_mix(found[number], np.concatenate([known, modes])):
            modes, weights = np.concatenate([modes, found[number : number + 1]]), np.append(weights, amounts[number])
    return modes, weights


@kernel("b1(f8[:], f8[:,:])")
def is_mix(colour, ends):  # type: ignore[no-untyped-def]
    """Whether a coded colour lies on the line between two others, or is one of them. colour : (3,), ends : (K, 3)."""
    for one in range(len(ends)):
        for other in range(one + 1):
            along, length, off = 0.0, 1e-9, 0.0
            for c in range(3):
                along += (colour[c] - ends[other, c]) * (ends[one, c] - ends[other, c])
                length += (ends[one, c] - ends[other, c]) ** 2
            share = min(1.0, max(0.0, along / length))
            for c in range(3):
                off = max(off, abs(colour[c] - ends[other, c] - share * (ends[one, c] - ends[other, c])))
            if off < ON_MIX:
                return True
    return False


def concentration(
    colours: NDArray[np.float64], counts: NDArray[np.float64], modes: NDArray[np.float64], within: float = AT_MODE
) -> float:
    """The part of the flat pixels that lies right at a mode: near 1 for drawings, far less for shaded photographs.

    colours : (N, 3) coded; counts : (N,); modes : (M, 3).
    """
    lab, centres = oklab(colours), oklab(modes)
    nearest = np.sqrt(((lab[:, None] - centres[None]) ** 2).sum(axis=2)).min(axis=1)
    return float(counts[nearest < within].sum() / counts.sum())


def _mixtures(modes: NDArray[np.float64], weights: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which modes lie between two heavier ones, as what is left of a soft edge does. (M,)."""
    result = np.zeros(len(modes), bool)
    for number in range(len(modes)):
        heavier = weights > weights[number]
        result[number] = heavier.sum() >= 2 and is_mix(modes[number], np.ascontiguousarray(modes[heavier]))
    return result


@kernel("Tuple((i8[:], i8))(f8[:,:], f8[:], i8[:], f8)")
def _owners(lab, counts, order, bandwidth):  # type: ignore[no-untyped-def]
    """The number of the mode each bin goes to, and how many modes there are. lab : (B, 3); order : (B,) heaviest first."""
    owner = np.full(len(lab), -1, np.int64)
    centres = np.empty((len(lab), 3))
    found = 0
    for start in order:
        if owner[start] >= 0:
            continue
        x, y, z = _shift(lab, counts, start, bandwidth)
        least = bandwidth * bandwidth
        for number in range(found):
            off = _squared(centres, number, x, y, z)
            if off < least:
                owner[start], least = number, off
        if owner[start] >= 0:
            continue
        centres[found, 0], centres[found, 1], centres[found, 2] = x, y, z
        for item in range(len(lab)):
            if owner[item] < 0 and _squared(lab, item, x, y, z) < bandwidth * bandwidth:
                owner[item] = found
        owner[start] = found
        found += 1
    return owner, found


@kernel("f8(f8[:,:], i8, f8, f8, f8)")
def _squared(places, number, x, y, z):  # type: ignore[no-untyped-def]
    return (places[number, 0] - x) ** 2 + (places[number, 1] - y) ** 2 + (places[number, 2] - z) ** 2


@part("UniTuple(f8, 3)(f8[:,:], f8[:], i8, f8)")
def _shift(lab, counts, start, bandwidth):  # type: ignore[no-untyped-def]
    """Where the mean of what is within a bandwidth comes to rest, from one bin on."""
    x, y, z = lab[start, 0], lab[start, 1], lab[start, 2]
    for _ in range(30):
        weight, sum_x, sum_y, sum_z = 0.0, 0.0, 0.0, 0.0
        for number in range(len(lab)):
            if _squared(lab, number, x, y, z) < bandwidth * bandwidth:
                weight += counts[number]
                sum_x += counts[number] * lab[number, 0]
                sum_y += counts[number] * lab[number, 1]
                sum_z += counts[number] * lab[number, 2]
        moved = (sum_x / weight - x) ** 2 + (sum_y / weight - y) ** 2 + (sum_z / weight - z) ** 2
        x, y, z = sum_x / weight, sum_y / weight, sum_z / weight
        if moved < 1e-8:
            break
    return x, y, z


@kernel("void(f8[:,:], f8[:], i8[:], f8[:,:]!)")
def _peaks(colours, counts, owner, modes):  # type: ignore[no-untyped-def]
    """The colour at the densest place of each mode, so that noise cut off at black or white does not tint it."""
    heaviest, total = np.full(len(modes), -1, np.int64), np.zeros(len(modes))
    for item in range(len(owner)):
        first = heaviest[owner[item]]
        if first < 0 or counts[item] > counts[first]:
            heaviest[owner[item]] = item
    modes[:] = 0.0
    for item in range(len(owner)):
        number = owner[item]
        first = heaviest[number]
        off = 0.0
        for c in range(3):
            off = max(off, abs(colours[item, c] - colours[first, c]))
        if off <= 8.0:
            total[number] += counts[item]
            for c in range(3):
                modes[number, c] += counts[item] * colours[item, c]
    for number in range(len(modes)):
        for c in range(3):
            modes[number, c] /= total[number]


def pinned_modes(
    modes: NDArray[np.float64], weights: NDArray[np.float64], pins: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64], int]:
    """The modes with pins among them, exact and first. pins : (P, 3) coded.

    A mode that looks like a pin is taken for it. Returns modes, weights, and how many are pinned.
    """
    weight = np.zeros(len(pins))
    if len(pins) and len(modes):
        apart = np.sqrt(((oklab(modes)[:, None] - oklab(pins)[None]) ** 2).sum(axis=2))
        near = apart.argmin(axis=1)
        taken = apart.min(axis=1) < PINNED
        np.add.at(weight, near[taken], weights[taken])
        modes, weights = modes[~taken], weights[~taken]
    return np.concatenate([pins, modes]), np.concatenate([weight, weights]), len(pins)


def reduce_modes(
    modes: NDArray[np.float64], weights: NDArray[np.float64], count: int, pinned: int = 0
) -> tuple[NDArray[np.float64], NDArray[np.float64], list[tuple[NDArray[np.float64], NDArray[np.float64]]]]:
    """Join modes until `count` are left: mixtures along edges first, then those that are most alike and of which one is small.

    A joined pair keeps the colour of the heavier one, so that it stays a colour of the drawing; the first `pinned` stay
    whatever happens. Returns modes, weights, and the pairs that were joined, what went first.
    modes : (M, 3) coded; weights : (M,).
    """
    modes, weights = modes.copy(), weights.copy()
    joined = []
    while len(modes) > max(count, pinned):
        lab = oklab(modes)
        apart = np.sqrt(((lab[:, None] - lab[None]) ** 2).sum(axis=2))
        lighter = np.minimum(weights[:, None], weights[None]) / weights.sum()
        cost = apart * lighter**0.25 + np.where(np.eye(len(modes), dtype=bool), np.inf, 0.0)
        mixture = _mixtures(modes, weights)
        cost[mixture] *= OF_MIXTURE
        cost[:, mixture] *= OF_MIXTURE
        cost[:pinned, :pinned] = np.inf
        first, second = np.unravel_index(cost.argmin(), cost.shape)
        keep, drop = (first, second) if weights[first] >= weights[second] else (second, first)
        if drop < pinned:
            keep, drop = drop, keep
        joined.append((modes[drop], modes[keep]))
        weights[keep] += weights[drop]
        modes, weights = np.delete(modes, drop, axis=0), np.delete(weights, drop)
    return modes, weights, joined
