"""Read DXF back, have it audited, and hold it against what was meant."""

from __future__ import annotations

import io

import numpy as np
from ezdxf.entities.lwpolyline import LWPolyline
from ezdxf.entities.polyline import Polyline
from ezdxf.entities.spline import Spline
from ezdxf.filemanagement import read
from numpy.typing import NDArray

from bisectum.core.formats.dxf.write import layer_names
from bisectum.core.formats.lines import CHORD_MM, Form, compare, differs
from bisectum.core.geom.bezier import flatten
from bisectum.core.model.artwork import Artwork

BOUND_MM = 2 * CHORD_MM


def verify_dxf(data: bytes, artwork: Artwork, form: Form) -> None:
    """Raises: ComputationError naming what differs, or what the audit found."""
    drawing = read(io.StringIO(data.decode("utf-8" if form == "curves" else "cp1252", errors="strict")))
    audit = drawing.audit()
    if audit.has_errors or audit.has_fixes:
        raise differs("soundness of the drawing", str((audit.errors or audit.fixes)[0].message))
    use_of = {name: use for use, name in layer_names(artwork).items()}
    found = []
    for entity in drawing.modelspace():
        if entity.dxf.layer not in use_of:
            raise differs("layer of a line", entity.dxf.layer)
        found.append((*use_of[entity.dxf.layer], _points(entity) * [1, -1] + [0, artwork.height]))
    compare(found, artwork, BOUND_MM)


def _along(spline: Spline) -> NDArray[np.float64]:
    """The places along a spline of degree 3, whose knots say that it is cubics one after the other."""
    knots, control = np.array(spline.knots), np.array(spline.control_points)[:, :2]
    count = (len(control) - 1) // 3
    if spline.dxf.degree != 3 or len(control) != 3 * count + 1 or not np.array_equal(
            knots, np.repeat(np.arange(count + 1.0), [4, *[3] * (count - 1), 4])):
        raise differs("knots of a curve", str(len(knots)))
    curves = np.stack([control[k : k + 3 * count : 3] for k in range(4)], axis=1)
    return np.concatenate([flatten(curves, CHORD_MM / 2), control[-1:]])


def _points(entity: object) -> NDArray[np.float64]:
    """The places along a line; a closed one comes back to its first."""
    if isinstance(entity, Spline):
        return _along(entity)
    if isinstance(entity, LWPolyline):
        own = [(x, y) for x, y in entity.get_points("xy")]
        closed = bool(entity.closed)
    elif isinstance(entity, Polyline):
        own = [(vertex.dxf.location.x, vertex.dxf.location.y) for vertex in entity.vertices]
        closed = bool(entity.is_closed)
    else:
        raise differs("kind of a line", type(entity).__name__)
    return np.array([*own, own[0]] if closed else own)
