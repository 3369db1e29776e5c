"""Which layer lies under which."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.planar_map import PlanarMap


def natural_order(planar: PlanarMap, layer_of: NDArray[np.intp]) -> list[int]:
    """Layers from the lowest up: by the area within the outlines of each, windows filled in.

    layer_of : (L + 1,), the layer of each label, -1 for the ground. Layers that no face is left of are not among those
    returned. What is set into another colour is never larger than that colour's filled outline, so nesting and area agree.
    """
    filled = np.zeros(int(layer_of.max(initial=-1)) + 1)
    areas = planar.half_areas()
    for face, loop in planar.loops():
        if face >= 0 and layer_of[planar.face_labels[face]] >= 0:
            filled[layer_of[planar.face_labels[face]]] += max(0.0, float(areas[loop].sum()))
    return sorted(np.flatnonzero(filled > 0).tolist(), key=lambda layer: (-filled[layer], layer))


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
    """The layers so that none comes before one that it lies on; else as they are.

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
