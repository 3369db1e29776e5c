"""What the cutter is given: lines of a file, SVG, DXF or HPGL. It knows nothing of where they come from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import InputError
from bisectum.core.formats.hpgl.verify import read_hpgl
from bisectum.core.formats.ready.read import is_dxf, is_vector, lines_in, refuse_far
from bisectum.core.formats.uses import use_of_line, use_of_pen
from bisectum.core.geom.bezier import flatten
from bisectum.core.model.stroke import Role

CHORD_MM = 0.005
MEET_MM = 0.02
Tool = Literal["blade", "scoring", "pen"]
_TOOLS: dict[Role, Tool] = {"cut": "blade", "score": "scoring", "draw": "pen"}


@dataclass(frozen=True, slots=True, eq=False)
class ToolLine:
    """points : (N, 2), mm, y down; closed: its last point is the first one again. fill: the number of the filled path it
    bounds, -1 where nothing is filled; colour: "#rrggbb", empty where the file has none."""

    points: NDArray[np.float64]
    closed: bool
    tool: Tool
    colour: str = ""
    fill: int = -1


def tool_lines(data: bytes, height: float | None = None) -> list[ToolLine]:
    """height: of what lies in the machine, mm, since HPGL and DXF count from its lower edge; where not given the lines' own.

    Raises: InputError where the file cannot be followed, or holds no lines.
    """
    found = _of_vector(data, height) if is_vector(data) else _of_hpgl(data, height)
    if not found:
        raise InputError("There are no lines in this file that could be cut.", code="lines_empty")
    return found


def _of_vector(data: bytes, height: float | None) -> list[ToolLine]:
    """What is filled is cut along its edge; what is only drawn is for the tool its layer or its colour stands for."""
    found = []
    down = np.array([0.0, height if height is not None and is_dxf(data) else 0.0])
    for number, path in enumerate(lines_in(data).paths):
        for low, high in zip(path.first[:-1], path.first[1:], strict=True):
            segments = path.segments[low:high] + down
            points = np.concatenate([flatten(segments, CHORD_MM), segments[-1:, 3]])
            if path.filled or np.hypot(*(points[-1] - points[0])) <= MEET_MM:
                points = np.concatenate([points[:-1] if np.hypot(*(points[-1] - points[0])) <= MEET_MM else points, points[:1]])
            closed = bool((points[0] == points[-1]).all())
            tool = "blade" if path.filled else _TOOLS[use_of_line(path.group, path.colour)]
            found.append(ToolLine(points, closed, tool, path.colour, number if path.filled else -1))
    return found


def _of_hpgl(data: bytes, height: float | None) -> list[ToolLine]:
    try:
        lines = read_hpgl(data.decode("ascii"))
    except UnicodeDecodeError as error:
        raise InputError("This is neither SVG nor DXF nor HPGL.", code="lines_unknown") from error
    if not lines:
        return []
    for _, points in lines:
        refuse_far(points)
    top = height if height is not None else max(float(points[:, 1].max()) for _, points in lines)
    found = []
    for pen, points in lines:
        own = points * [1, -1] + [0, top]
        found.append(ToolLine(own, len(own) > 2 and bool((own[0] == own[-1]).all()), _TOOLS[use_of_pen(pen)]))
    return found
