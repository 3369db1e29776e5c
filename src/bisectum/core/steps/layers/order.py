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
