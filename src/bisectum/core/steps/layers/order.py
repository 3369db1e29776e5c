"""Which layer lies under which."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def natural_order(filled: NDArray[np.float64], layer_of: NDArray[np.intp], lasting: NDArray[np.bool_]) -> list[int]:
    """Layers from the lowest up: by the area within the outlines of each, windows filled in.

    filled : (L + 1,), that area of each label, mm²; layer_of : (L + 1,), the layer of each label, -1 for the ground; lasting :
    (layers,), whether a face is left of it. What is set into another colour is never larger than that colour's filled outline,
    so nesting and area agree; and cropping leaves the order as it was.
    """
    within = np.bincount(layer_of[1:], weights=filled[1:], minlength=len(lasting))
    return sorted(np.flatnonzero(lasting).tolist(), key=lambda layer: (-within[layer], layer))


def light_to_dark(order: list[int], lightness: list[float | None]) -> list[int]:
    """Tones of photographs from the lightest up, in the places that they have among the others.

    lightness: of each layer, None for one that is no tone.
    """
    tones = iter(sorted((layer for layer in order if lightness[layer] is not None), key=lambda layer: -(lightness[layer] or 0.0)))
    return [layer if lightness[layer] is None else next(tones) for layer in order]


def with_wishes(natural: list[int], wished: list[int]) -> list[int]:
    """The layers in the order that was wished for; others right above the layer that they follow by nature."""
    result = [layer for layer in wished if layer in natural]
    if not result:
        return natural
    for place, layer in enumerate(natural):
        if layer not in result:
            before = next((other for other in reversed(natural[:place]) if other in result), None)
            result.insert(result.index(before) + 1 if before is not None else 0, layer)
    return result


def lies_below(stack: NDArray[np.int64], labels: int) -> NDArray[np.bool_]:
    """Which label lies under which one of another item on some face. stack : (F, I). Returns (labels + 1, labels + 1)."""
    below = np.zeros((labels + 1, labels + 1), bool)
    rows = np.unique(stack, axis=0)
    for upper in range(rows.shape[1]):
        for lower in range(upper):
            below[rows[:, lower], rows[:, upper]] = True
    below[0] = below[:, 0] = False
    return below


def as_laid(order: list[int], below: NDArray[np.bool_], layer_of: NDArray[np.intp]) -> list[int]:
    """The layers so that none comes before one that it lies on; else as they are. below : (L + 1, L + 1); layer_of : (L + 1,).

    Where layers lie on each other in a ring, the order that is there decides.
    """
    under: dict[int, set[int]] = {layer: set() for layer in order}
    for lower, upper in np.argwhere(below).tolist():
        one, other = int(layer_of[lower]), int(layer_of[upper])
        if one != other and one in under and other in under:
            under[other].add(one)
    result: list[int] = []
    waiting = list(order)
    while waiting:
        free = next((layer for layer in waiting if not under[layer] & set(waiting)), waiting[0])
        waiting.remove(free)
        result.append(free)
    return result
