"""DXF as ready lines, by ezdxf: R12 and newer; lines, polylines, arcs, circles, ellipses, splines and blocks put in."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from bisectum.core.errors import InputError
from bisectum.core.formats.ready.svg import path_of_runs
from bisectum.core.model.ready_lines import ReadyLines, ReadyPath

DRAWN = {"LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"}
MM_PER_UNIT = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 25.4e-6, 9: 0.0254, 10: 914.4, 13: 1e-3, 14: 100.0}
"""By $INSUNITS of the DXF Reference."""
DEEPEST = 8  # blocks within blocks
MOST_ENTITIES = 20_000
ON_PAPER = "#1a1a1a"  # what is white on a dark screen


def lines_of_dxf(data: bytes) -> ReadyLines:
    """Raises: InputError; of a damaged file, whatever ezdxf says of it."""
    from ezdxf import recover

    document, _ = recover.read(io.BytesIO(data))
    unit = MM_PER_UNIT.get(int(document.header.get("$INSUNITS", 0)))
    drawn = (_path_of(entity, document, unit or 1.0) for entity in _entities(document.modelspace(), 0, [MOST_ENTITIES]))
    return ReadyLines(tuple(path for path in drawn if path is not None), unit is not None)


def _entities(space: Any, depth: int, left: list[int]) -> Iterator[Any]:
    """What is drawn, blocks and arrays of blocks unfolded. left: how many more there may be. Raises: InputError."""
    for entity in space:
        left[0] -= 1
        if left[0] < 0:
            raise InputError(f"With its blocks this DXF has more than {MOST_ENTITIES} parts. Save it with fewer.",
                             code="lines_too_many", most=MOST_ENTITIES)
        if entity.dxftype() == "INSERT" and depth < DEEPEST:
            for one in entity.multi_insert() if entity.mcount > 1 else (entity,):
                yield from _entities(one.virtual_entities(), depth + 1, left)
        elif entity.dxftype() in DRAWN:
            yield entity


def _path_of(entity: Any, document: Any, scale: float) -> ReadyPath | None:
    from ezdxf.path import Command, make_path

    try:
        path = make_path(entity)
    except (TypeError, ValueError, ArithmeticError):
        return None  # a body, not a line; or one that is scaled to nothing
    at = path.start
    run: list[tuple[list[tuple[float, float]], bool]] = []
    commands: list[Any] = list(path.commands())
    for command in commands:
        one, other = (at.x, -at.y), (command.end.x, -command.end.y)
        if command.type == Command.LINE_TO:
            thirds = [(one[0] + k / 3 * (other[0] - one[0]), one[1] + k / 3 * (other[1] - one[1])) for k in (1, 2)]
            run.append(([one, *thirds, other], True))
        elif command.type == Command.CURVE4_TO:
            run.append(([one, (command.ctrl1.x, -command.ctrl1.y), (command.ctrl2.x, -command.ctrl2.y), other], False))
        elif command.type == Command.CURVE3_TO:
            cx, cy = command.ctrl.x, -command.ctrl.y
            handles = [(end[0] + 2 / 3 * (cx - end[0]), end[1] + 2 / 3 * (cy - end[1])) for end in (one, other)]
            run.append(([one, *handles, other], False))
        at = command.end
    found = path_of_runs([run], _colour(entity, document), False, False, scale)
    return found and replace(found, group=entity.dxf.layer)


def _colour(entity: Any, document: Any) -> str:
    from ezdxf import colors

    if entity.dxf.hasattr("true_color"):
        return "#" + "".join(f"{value:02x}" for value in colors.int2rgb(entity.dxf.true_color))
    index = entity.dxf.color
    if index in (0, 256):
        layer = document.layers.get(entity.dxf.layer) if entity.dxf.layer in document.layers else None
        index = abs(layer.dxf.color) if layer is not None else 7
    if index == 7:
        return ON_PAPER
    return "#" + "".join(f"{value:02x}" for value in colors.aci2rgb(index))
