"""Every layer on a sheet of its own, all at the same place, so that they lie in register."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bisectum.core.model.sheet import Area, Laid
from bisectum.core.steps.sheets.settings import SheetsSettings


@dataclass(frozen=True, slots=True)
class Block:
    """Where a whole make lies on a carrier. x, y: of its page's corner; turn: degrees; box: left, top, right and bottom of it."""

    x: float
    y: float
    turn: float
    box: tuple[float, float, float, float]

    def laid(self, part: int) -> Laid:
        return Laid(part, self.x, self.y, self.turn)


def blocks(size: tuple[float, float], reach: float, area: Area, settings: SheetsSettings, copies: int) -> list[list[Block]]:
    """Where so many copies of a make lie, sheet by sheet; in rows from above. size: of its page; reach: what stands out beyond
    it.

    One that is too large lies at the corner all the same, so that it is seen by how much.
    """
    width, height = _as_it_lies(size, settings)
    step_x, step_y = (side + 2 * reach + settings.spacing_mm for side in (width, height))
    across, most = _across(width, reach, area.width, settings), most_on_one(size, reach, area, settings)
    found: list[list[Block]] = []
    for first in range(0, copies, most):
        count = min(most, copies - first)
        left, top = area.left + reach, area.top + reach
        if settings.centred:
            left += max(0.0, area.width - min(count, across) * step_x + settings.spacing_mm) / 2
            top += max(0.0, area.height - math.ceil(count / across) * step_y + settings.spacing_mm) / 2
        found.append([_block(left + k % across * step_x, top + k // across * step_y, width, height, settings.turned)
                      for k in range(count)])
    return found


def most_on_one(size: tuple[float, float], reach: float, area: Area, settings: SheetsSettings) -> int:
    """How many copies one sheet takes, one at least."""
    width, height = _as_it_lies(size, settings)
    return _across(width, reach, area.width, settings) * _across(height, reach, area.height, settings)


def _as_it_lies(size: tuple[float, float], settings: SheetsSettings) -> tuple[float, float]:
    return (size[1], size[0]) if settings.turned else size


def _across(side: float, reach: float, room: float, settings: SheetsSettings) -> int:
    return max(1, math.floor((room + settings.spacing_mm + 1e-6) / (side + 2 * reach + settings.spacing_mm)))


def _block(left: float, top: float, width: float, height: float, turned: bool) -> Block:
    # Turned by a quarter the page's corner comes to lie at the upper right.
    return Block(left + width if turned else left, top, 90.0 if turned else 0.0, (left, top, left + width, top + height))
