"""Which colours of which items are cut as one layer, and which of the person's records each layer is.

A record holds on to colours of items. A colour may have moved since: another exposure, another count of colours. Then it
is found again by the place it had, or else as the colour that is nearest. What finds nothing is told.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.arrangement import Arrangement, Member
from bisectum.core.model.finding import Finding
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.colour_names import plain_name
from bisectum.core.raster.difference import ciede2000, cielab
from bisectum.core.steps.layers.settings import Anchor, LayerRecord

FARTHEST = 25.0  # CIEDE2000: farther off it is another colour (common practice, no source)
AT_PLACE = 12.0  # what the same place counts for, in the same unit


@dataclass(frozen=True, slots=True)
class Bound:
    """A layer before it is built. labels: of the make, not empty; record: what the person said about it, if anything."""

    labels: tuple[int, ...]
    record: LayerRecord | None


def bind_layers(
    arrangement: Arrangement, records: tuple[LayerRecord, ...], below: NDArray[np.bool_]
) -> tuple[list[Bound], list[Finding]]:
    """All labels of the make as layers. The same colour in several items is one layer, if nothing else was said, and nothing of
    another layer lies between. below : (L + 1, L + 1), which label lies under which.

    Returns the layers in the order of their first labels, and what could not be bound.
    """
    record_of: dict[int, int] = {}
    lost: set[tuple[int, Anchor]] = set()
    for number, record in enumerate(records):
        for anchor in record.anchors:
            label = _exactly(anchor, arrangement.members)
            if label is None:
                lost.add((number, anchor))
            else:
                record_of.setdefault(label, number)
    found_again = _nearest(lost, arrangement, set(record_of))
    for (number, _), label in found_again.items():
        record_of[label] = number
    bound_numbers = set(record_of.values())
    unbound = [Finding("layer_unbound", "warning", repair="forget_layer",
                       details={"layer": record.id, "name": record.name or _plain_name(record)})
               for number, record in enumerate(records) if number not in bound_numbers]
    return _grouped(arrangement.members, record_of, records, below), unbound


def _plain_name(record: LayerRecord) -> str:
    """What a layer that was given no name is called: by the colour it held on to."""
    return plain_name(rgb_of(record.anchors[0].colour[:7]))


def _exactly(anchor: Anchor, members: tuple[Member, ...]) -> int | None:
    return next((label for label, member in enumerate(members, 1)
                 if member.item == anchor.item and member.colour.key == anchor.colour), None)


def _nearest(
    lost: set[tuple[int, Anchor]], arrangement: Arrangement, taken: set[int]
) -> dict[tuple[int, Anchor], int]:
    """The free label of the same item for each lost anchor, the closest pairs first."""
    members = arrangement.members
    free = [label for label in range(1, len(members) + 1) if label not in taken]
    pairs = []
    for number, anchor in lost:
        wanted = cielab(np.array([rgb_of(anchor.colour[:7])], np.uint8))
        for label in free:
            member = members[label - 1]
            if member.item != anchor.item:
                continue
            only = arrangement.frame(member.item).glance.is_plain  # found whatever its colour is now
            away = 0.0 if only else float(ciede2000(wanted, cielab(np.array([member.colour.rgb], np.uint8)))[0])
            if _is_inside(anchor, label, arrangement):
                away = max(0.0, away - AT_PLACE)
            if away <= FARTHEST:
                pairs.append((away, label, (number, anchor)))
    result: dict[tuple[int, Anchor], int] = {}
    for _, label, lost_one in sorted(pairs, key=lambda pair: (pair[0], pair[1], pair[2][0])):
        if lost_one not in result and label not in result.values():
            result[lost_one] = label
    return result


def _is_inside(anchor: Anchor, label: int, arrangement: Arrangement) -> bool:
    member = arrangement.members[label - 1]
    return arrangement.frame(member.item).glance.label_at(anchor.x, anchor.y) == member.number


def _grouped(
    members: tuple[Member, ...], record_of: dict[int, int], records: tuple[LayerRecord, ...], below: NDArray[np.bool_]
) -> list[Bound]:
    groups: dict[object, list[int]] = {}
    for label, member in enumerate(members, 1):
        name: object = record_of.get(label, member.colour.key)
        while not isinstance(name, int) and name in groups and _has_between(groups[name], label, below):
            name = f"{name} again"
        groups.setdefault(name, []).append(label)
    return [Bound(tuple(labels), records[name] if isinstance(name, int) else None) for name, labels in groups.items()]


def _has_between(own: list[int], label: int, below: NDArray[np.bool_]) -> bool:
    """Whether something lies on one of these labels and under another one, so that they cannot be one film."""
    over = np.array(below[own].any(axis=0))
    over[own] = False
    return bool((over & below[:, label]).any())
