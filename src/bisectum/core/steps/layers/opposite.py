"""The variant for the opposite cloth.

A photograph's tones that the cloth itself can show are left bare and the others cut: on dark cloth the darkest ones. Of a make of
one colour the other part is cut. Of other drawings the layers whose colour the cloth has are left bare.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from bisectum.core.model.artwork import Layer
from bisectum.core.model.tone_scale import ToneScale
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.steps.layers.settings import LayersSettings

LIGHT, DARK = ("Light cloth", "#ffffff"), ("Dark cloth", "#23272e")
HALF = 50.0  # L* that parts light cloth from dark
LIKE_CLOTH = 12.0  # CIEDE2000: nearer to the cloth than this, a layer adds nothing (common practice, no source)


def with_opposite(settings: LayersSettings, layers: tuple[Layer, ...], scales: Mapping[str, ToneScale]) -> dict[str, Any]:
    """The settings that change: one more variant, its id still empty; records of layers that it leaves bare; the cloth's name.

    layers: of the make; scales: of its photographs, by their items.
    """
    name, base = LIGHT if is_dark(settings.base) else DARK
    variant: dict[str, Any] = {"id": "", "cloth": name, "base": base}
    records: list[Any] = list(settings.records)
    own = [layer for layer in layers if layer.holds]
    if scales:
        variant["tones"] = [{"item": item, "tones": _shown_by(scale, base)} for item, scale in scales.items()]
    elif len(own) == 1:
        variant["reverse"] = {"within": "frame", "colour": settings.base, "stock": None}
    else:
        variant["bare"] = [_named(layer, records) for layer in own if _is_like(layer, base)]
    return {"records": records, "variants": (*settings.variants, variant),
            "cloth": settings.cloth or name_of_cloth(settings.base)}


def _named(layer: Layer, records: list[Any]) -> str:
    """The id of a layer; where it has none yet, a dash and the number of a new record."""
    if layer.id:
        return layer.id
    anchors = [{"item": hold.item, "colour": hold.colour, "x": hold.x, "y": hold.y} for hold in layer.holds]
    records.append({"id": "", "anchors": anchors})
    return f"-{len(records) - 1}"


def is_dark(colour: str) -> bool:
    return float(cielab(np.array(rgb_of(colour), np.uint8))[0]) < HALF


def name_of_cloth(colour: str) -> str:
    """What a cloth is called that was given no name."""
    return (DARK if is_dark(colour) else LIGHT)[0]


def _shown_by(scale: ToneScale, base: str) -> tuple[int, ...]:
    """The tones at the cloth's end of the scale, darkest first: as many as were left bare, but one at least."""
    count = len(scale.colours)
    many = min(max(1, sum(scale.bare)), count - 1)
    return tuple(range(many)) if is_dark(base) else tuple(range(count - many, count))


def _is_like(layer: Layer, base: str) -> bool:
    return float(ciede2000(cielab(np.array(layer.rgb, np.uint8)), cielab(np.array([rgb_of(base)], np.uint8)))[0]) < LIKE_CLOTH
