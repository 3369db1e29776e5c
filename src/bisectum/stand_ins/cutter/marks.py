"""Finding register marks on a printed sheet, as a cutter with an eye does, and where the sheet lies by them."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import InputError
from bisectum.stand_ins.printer.printer import BORDER_MM, INK_MM, PX_PER_MM, Printed

LOOK_MM = 7.0  # how far off its place a mark is looked for
APART_MM = 12.0  # lines of one mark lie nearer
LIKE = 0.5  # of the best likeness there can be: less is no mark
Lines = Sequence[NDArray[np.float64]]


def lies_at(sheet: Printed, marks: Lines) -> NDArray[np.float64]:
    """Where a sheet lies, by where its marks are found: (2, 3), from the sheet to the bed, mm.

    marks: their lines, (N, 2) each, mm. Raises: InputError where fewer than three are found.
    """
    meant, found = [], []
    for mark in _groups(marks):
        at = _found(sheet, mark)
        if at is not None:
            meant.append(np.concatenate(mark).mean(axis=0))
            found.append(at)
    if len(found) < 3:
        raise InputError(f"Only {len(found)} register marks were found; three are needed. Put register marks on the sheet.",
                         code="marks_missing", found=len(found))
    known = np.column_stack([np.array(meant), np.ones(len(meant))])
    matrix: NDArray[np.float64] = np.linalg.lstsq(known, np.array(found), rcond=None)[0].T
    return matrix


def _groups(marks: Lines) -> list[list[NDArray[np.float64]]]:
    """Lines that lie near each other are one mark."""
    groups: list[list[NDArray[np.float64]]] = []
    for line in marks:
        near = next((group for group in groups
                     if np.hypot(*(np.concatenate(group).mean(axis=0) - line.mean(axis=0))) < APART_MM), None)
        if near is None:
            groups.append([line])
        else:
            near.append(line)
    return groups


def _found(sheet: Printed, mark: list[NDArray[np.float64]]) -> NDArray[np.float64] | None:
    """Where the middle of a mark is seen, mm, by likeness to its picture, finer than a pixel; None where it is not there."""
    places = np.concatenate(mark)
    low, high = places.min(axis=0) - 2 * INK_MM, places.max(axis=0) + 2 * INK_MM
    size = np.ceil((high - low) * PX_PER_MM).astype(int)
    picture = np.full(size[::-1], 245, np.uint8)
    for line in mark:
        drawn = np.round(((line - low) * PX_PER_MM - 0.5) * 64).astype(np.int32)
        cv2.polylines(picture, [drawn], False, 40, round(INK_MM * PX_PER_MM), cv2.LINE_AA, 6)
    first = np.maximum(0, np.floor((low - LOOK_MM + BORDER_MM) * PX_PER_MM).astype(int))
    last = np.ceil((high + LOOK_MM + BORDER_MM) * PX_PER_MM).astype(int)
    window = sheet.pixels[first[1] : last[1], first[0] : last[0]]
    if (np.array(window.shape) < picture.shape).any():
        return None
    likeness = np.asarray(cv2.matchTemplate(window, picture, cv2.TM_CCOEFF_NORMED), np.float32)
    row, column = np.unravel_index(int(likeness.argmax()), likeness.shape)
    if likeness[row, column] < LIKE:
        return None
    at = np.array([column + _peak(likeness[row, :], int(column)), row + _peak(likeness[:, column], int(row))])
    found: NDArray[np.float64] = (at + first) / PX_PER_MM - BORDER_MM - low + places.mean(axis=0)
    return found


def _peak(row: NDArray[np.float32], at: int) -> float:
    """How far off a whole pixel the peak of a parabola through three values lies."""
    if not 0 < at < len(row) - 1:
        return 0.0
    before, here, after = (float(value) for value in row[at - 1 : at + 2])
    bend = before - 2 * here + after
    return 0.0 if bend == 0 else (before - after) / (2 * bend)
