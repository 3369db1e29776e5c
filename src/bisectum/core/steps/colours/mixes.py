"""What a pixel between areas is made of: one colour, or a mix of two or three of those it may hold.

Every answer has squared levels it is off the pixel, and penalties: simpler answers, and those of colours nearer, come first.
"""

from __future__ import annotations

from bisectum.core.raster.compiled import part

PENALTY = 900.0  # squared levels: what a colour without seeds nearby must be better by
ANY = 1e9  # no bound to squared levels
FARTHER = 6.0  # squared levels: what a colour with seeds nearby must be better by than one with seeds beside the pixel
REMOTE_LARGER = 8.0  # squared levels: what a mix must be better by that is mostly of a colour without seeds nearby
PAIR_PENALTY = 12.0  # squared levels: two colours must explain more than one does, and three more than two


@part("UniTuple(f8, 2)(u1[:,:,:], i8, i8, f8[:,:], i8, i8)", inline=True)
def _mix(image, y, x, colours, a, b):  # type: ignore[no-untyped-def]
    """The share of the first of two labels' colours in the mix nearest to a pixel, and squared levels it is off that."""
    along, length = 0.0, 0.0
    for c in range(4):
        along += (image[y, x, c] - colours[b, c]) * (colours[a, c] - colours[b, c])
        length += (colours[a, c] - colours[b, c]) ** 2
    share = min(1.0, max(0.0, along / max(length, 1e-9)))
    off = 0.0
    for c in range(4):
        off += (image[y, x, c] - share * colours[a, c] - (1.0 - share) * colours[b, c]) ** 2
    return share, off


@part("UniTuple(f8, 3)(u1[:,:,:], i8, i8, f8[:,:], i8, i8, i8)", inline=True)
def _mix_of_three(image, y, x, colours, a, b, third):  # type: ignore[no-untyped-def]
    """The shares of two labels' colours in the mix of three nearest to a pixel, and squared levels it is off; none below 0."""
    aa, ab, bb, pa, pb = 0.0, 0.0, 0.0, 0.0, 0.0
    for c in range(4):
        to_a, to_b = colours[a, c] - colours[third, c], colours[b, c] - colours[third, c]
        to_pixel = image[y, x, c] - colours[third, c]
        aa += to_a * to_a
        ab += to_a * to_b
        bb += to_b * to_b
        pa += to_pixel * to_a
        pb += to_pixel * to_b
    size = aa * bb - ab * ab
    if size <= 1e-6 * aa * bb:
        return 0.0, 0.0, 1e30
    first, second = (pa * bb - pb * ab) / size, (pb * aa - pa * ab) / size
    if first < 0.0 or second < 0.0 or first + second > 1.0:
        return 0.0, 0.0, 1e30
    off = 0.0
    for c in range(4):
        off += (image[y, x, c] - first * colours[a, c] - second * colours[b, c] - (1.0 - first - second) * colours[third, c]) ** 2
    return first, second, off


@part("Tuple((i8, f8))(u1[:,:,:], i8, i8, i8, i8[:], i8[:], i8, f8[:,:])")
def by_nearby(image, y, x, place, touching, nearby, used, colours):  # type: ignore[no-untyped-def]
    """The label of a pixel that is no seed by the colours with seeds about it, and squared levels it is off them.

    Of two answers that explain it alike that counts whose colours are beside it.
    """
    best, result = 1e30, 0
    for first in range(used):
        a = nearby[first]
        total = FARTHER if touching[a] != place else 0.0
        for c in range(4):
            total += (image[y, x, c] - colours[a, c]) ** 2
        if total < best:
            best, result = total, a
    for first in range(used):
        a = nearby[first]
        for second in range(first):
            b = nearby[second]
            share, off = _mix(image, y, x, colours, a, b)
            off += PAIR_PENALTY + FARTHER * (int(touching[a] != place) + int(touching[b] != place))
            if off < best:
                best = off
                result = a if share >= 0.5 else b
    return result, best


@part("Tuple((i8, f8))(u1[:,:,:], i8, i8, i8, i8[:], i8[:], i8, f8[:,:], f8, i8, f8)")
def by_remote(image, y, x, place, stamps, nearby, used, colours, farthest, result, best):  # type: ignore[no-untyped-def]
    """The same by colours without seeds nearby as well, alone or in a mix with one or two that have, and by three that have: what
    is thinner than a pixel has no place of its own colour. Where compression spoils edges many pixels look like mostly such a
    colour in a mix, so there it must be alone.

    result, best: from by_nearby; farthest: squared levels a pixel may be off such a colour alone to have it, ANY where a lossy
    compression spoils edges; the rest: see _seeded_about in assign.py.
    """
    for label in range(len(colours)):
        is_remote = stamps[label] != place
        total = PENALTY
        for c in range(4):
            total += (image[y, x, c] - colours[label, c]) ** 2
        if is_remote and total < min(best, PENALTY + farthest):
            best, result = total, label
        for first in range(used):
            a = nearby[first]
            if is_remote:
                share, off = _mix(image, y, x, colours, a, label)
                off += PENALTY + PAIR_PENALTY + (REMOTE_LARGER if share < 0.5 else 0.0)
                if off < best and (share >= 0.5 or farthest < ANY):
                    best = off
                    result = a if share >= 0.5 else label
            for second in range(first):
                b = nearby[second]
                if not is_remote and label >= b:
                    continue
                share, other, off = _mix_of_three(image, y, x, colours, a, b, label)
                third = share + other <= 0.5
                off += PENALTY + 2.0 * PAIR_PENALTY + (REMOTE_LARGER if third and is_remote else 0.0)
                if off < best and (not third or not is_remote or farthest < ANY):
                    best = off
                    result = label if third else (a if share >= other else b)
    return result, best
