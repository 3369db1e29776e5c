"""What each item does to those below it: one rule on the labels of each face, from the lowest item up."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from bisectum.core.model.arrangement import Member
from bisectum.core.steps.arrange.settings import Part, Target

Labels = NDArray[np.int64]


def stacked(
    labels: Labels, near: Callable[[int], NDArray[np.bool_]], parts: Sequence[Part], items: Sequence[str],
    members: Sequence[Member],
) -> tuple[Labels, list[tuple[str, Target]]]:
    """The labels of the make that lie on each face, item by item, when all parts are done.

    labels : (F, I), the label of the make that each item has on a face, 0 where it has none, items from the lowest up; near: for
    the number of an item the faces within its margin. Returns (F, I), and the targets that are not there any more.
    """
    stack = labels.copy()
    unbound: list[tuple[str, Target]] = []
    for number, part in enumerate(parts):
        own = labels[:, number] > 0
        wanted, lost = _labels_of(part, items[:number], members)
        unbound += [(items[number], target) for target in lost]
        around = near(number) if part.clear_mm and part.kind != "keeps" else own
        if part.kind == "cuts":
            stack[:, :number] = np.where(around[:, None] & (not part.targets or np.isin(stack[:, :number], wanted)), 0,
                                         stack[:, :number])
        elif part.kind == "keeps":
            stack[~own, :number] = 0
        elif part.clear_mm is not None:
            stack[:, :number] = np.where(around[:, None], 0, stack[:, :number])
        if part.kind in ("cuts", "keeps"):
            stack[:, number] = 0
        elif part.kind == "melts" and wanted:
            into = wanted[0]
            stack[own, number] = 0
            stack[own, items.index(members[into - 1].item)] = into
    return stack, unbound


def _labels_of(part: Part, below: Sequence[str], members: Sequence[Member]) -> tuple[list[int], list[Target]]:
    """The labels of the make that a part names, and what of it is not there. Without a name, melting takes the topmost below."""
    found, lost = [], []
    for target in part.targets:
        own = [number for number, member in enumerate(members, 1) if member.item == target.item and target.item in below]
        exact = [number for number in own if members[number - 1].colour.key == target.colour]
        if exact or len(own) == 1:  # an item of one colour is found whatever its colour is now
            found.append((exact or own)[0])
        else:
            lost.append(target)
    if part.kind == "melts" and not part.targets and below:
        found = [number for number, member in enumerate(members, 1) if member.item == below[-1]][:1]
    return found, lost


def visible(stack: Labels) -> NDArray[np.int64]:
    """The topmost label of each face : (F,)."""
    result = np.zeros(len(stack), np.int64)
    for column in stack.T:
        result = np.where(column > 0, column, result)
    return result
