"""What sheets take of each stock."""

from __future__ import annotations

from collections.abc import Sequence

from bisectum.core.geom.bezier import bounds
from bisectum.core.model.sheet import Part, Sheet, Used

LEFT_MM = 10.0  # what is cut off a roll beyond the last piece; common practice, no source


def used_by(sheets: Sequence[Sheet], parts: Sequence[Part], is_roll: bool) -> tuple[Used, ...]:
    """One for each stock, in the order of the sheets. Of a mat or card a whole sheet is taken, of a roll the length used."""
    found: dict[tuple[str, str], list[Sheet]] = {}
    for sheet in sheets:
        found.setdefault((sheet.stock_id, sheet.stock), []).append(sheet)
    result = []
    for own in found.values():
        area = sum(piece.area for sheet in own for laid in sheet.laid for piece in parts[laid.part].pieces)
        length = sum(_length(sheet, parts) for sheet in own) if is_roll else 0.0
        taken = sum(sheet.width * _length(sheet, parts) if is_roll else sheet.width * sheet.height for sheet in own)
        first = own[0]
        result.append(Used(first.stock, first.stock_id, first.kind, first.rgb, len(own), area, taken, length,
                           max(0.0, 1.0 - area / taken) if taken else 0.0))
    return tuple(result)


def _length(sheet: Sheet, parts: Sequence[Part]) -> float:
    """How much of a roll a sheet takes."""
    below = [bounds(parts[laid.part].segments @ laid.matrix[:, :2].T + laid.matrix[:, 2])[3] for laid in sheet.laid]
    below += [bounds(path.segments)[3] for path in (*sheet.marks, *sheet.waste)]
    return min(sheet.height, max(below, default=0.0) + LEFT_MM)
