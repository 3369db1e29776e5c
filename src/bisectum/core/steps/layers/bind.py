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
ONE_FILM, ONE_INK = 3.0, 8.0  # CIEDE2000: colours of different items below this are one layer; of pages of ink, lit unevenly
AT_PLACE = 12.0  # what the same place counts for, in the same unit


@dataclass(frozen=True, slots=True)
class Bound:
    """A layer before it is built. labels: of the make, not empty; record: what the person said about it, if anything."""

    labels: tuple[int, ...]
    record: LayerRecord | None


def bind_layers(
    arrangement: Arrangement, records: tuple[LayerRecord, ...], below: NDArray[np.bool_]
) -> tuple[list[Bound], list[Finding]]:
    """All labels of the make as layers. Colours of several items that look the same are one layer, if nothing else was said, and
    nothing of another layer lies between. below : (L + 1, L + 1), which label lies under which.

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
    groups: list[tuple[int | None, list[int]]] = []  # the number of a record, if there is one, and labels
    for label in range(1, len(members) + 1):
        record = record_of.get(label)
        for other, labels in groups:
            if record == other and (record is not None or _are_one(members, labels, label, below)):
                labels.append(label)
                break
        else:
            groups.append((record, [label]))
    return [Bound(tuple(labels), records[record] if record is not None else None) for record, labels in groups]


def _are_one(members: tuple[Member, ...], own: list[int], label: int, below: NDArray[np.bool_]) -> bool:
    """Whether a label nothing was said of is cut with others: they look alike, and nothing of another layer lies between."""
    if _has_between(own, label, below):
        return False
    first, member = members[own[0] - 1], members[label - 1]
    if first.colour.key == member.colour.key:
        return True
    if any(members[other - 1].item == member.item for other in own):
        return False  # two colours of one picture are two layers
    alike = ONE_INK if first.colour.of_page and member.colour.of_page else ONE_FILM
    one, other_one = (cielab(np.array([own_member.colour.rgb], np.uint8)) for own_member in (first, member))
    return bool(ciede2000(one, other_one)[0] < alike)


def _has_between(own: list[int], label: int, below: NDArray[np.bool_]) -> bool:
    """Whether something lies on one of these labels and under another one, so that they cannot be one film."""
    over = np.array(below[own].any(axis=0))
    over[own] = False
    return bool((over & below[:, label]).any())
