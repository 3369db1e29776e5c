"""The Lines step for drawings in strokes: what they mean, as cut lines and strokes in mm of the map."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.overlay.overlay import overlay
from bisectum.core.model.finding import Finding
from bisectum.core.model.label_map import LabelMap
from bisectum.core.model.offset import rings_of
from bisectum.core.model.palette import Colour, Palette
from bisectum.core.model.picture import frozen
from bisectum.core.model.placement import Placement
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.relabel import relabel, without_slivers
from bisectum.core.model.stroke import Stroke
from bisectum.core.model.traced_lines import TracedLines
from bisectum.core.raster.ink.amount import ink_of
from bisectum.core.raster.ink.paper import darkness
from bisectum.core.raster.thinning import pen_width
from bisectum.core.steps.lines.settings import LinesSettings
from bisectum.core.steps.lines.strokes.reading import Part, Reading, RoleChange, read_strokes

VERSION = 2
CARD = Colour((201, 169, 124), 1.0)  # kraft: what a plan of a box is cut from, until somebody says what
RIM = 5  # px about the ink of a label map, whose soft edge counts


def ink_amount(label_map: LabelMap, rgba: NDArray[np.uint8]) -> NDArray[np.float32]:
    """How much ink lies on each pixel of a label map. rgba : (H, W, 4) uint8, its picture. Returns (H, W) float32, 0..1."""
    inked = label_map.labels > 0
    if label_map.scores is not None:
        return np.clip(label_map.scores[1:].max(axis=0) + 0.5, 0.0, 1.0).astype(np.float32)
    ink = ink_of(darkness(rgba), with_rules=False) if rgba.shape[:2] == label_map.labels.shape else None
    if ink is None:
        return inked.astype(np.float32)
    near = cv2.dilate(inked.astype(np.uint8), np.ones((RIM, RIM), np.uint8)) > 0
    return np.where(near, ink.amount, 0.0).astype(np.float32)


def draw_strokes(
    label_map: LabelMap, rgba: NDArray[np.uint8], settings: LinesSettings, mm_per_px: float, places: Placement
) -> TracedLines | None:
    """The drawing as strokes; None where nobody asked for that and it is no plan with dashed folds.

    rgba : (H, W, 4) uint8; mm_per_px: what lengths in the settings are measured by; places: where marks lie on the labels.
    """
    amount = ink_amount(label_map, rgba)
    mask = amount > 0.5
    if not mask.any():
        return None
    pen = pen_width(amount)
    said = places.to_px(np.array([(own.x, own.y) for own in settings.roles]).reshape(-1, 2))
    changes = [RoleChange(float(x), float(y), own.role) for (x, y), own in zip(said, settings.roles, strict=True)]
    reading = read_strokes(amount, pen, settings.score, settings.corner_deg, settings.closeness_mm / mm_per_px,
                           settings.close_gaps_mm / mm_per_px, changes)
    if settings.drawn == "auto" and not reading.is_plan:
        return None
    return _in_mm(reading, label_map, settings.score == "auto")


def _in_mm(reading: Reading, label_map: LabelMap, is_plan: bool) -> TracedLines:
    """is_plan: an outline is looked for, so it matters whether it closes."""
    scale = label_map.mm_per_px
    height, width = label_map.labels.shape
    palette = Palette((CARD,), "ink", 1) if reading.rings else label_map.palette
    strokes = tuple(_stroke(part, label_map, bool(reading.rings)) for part in reading.parts if part.curve is not None)
    size = {"palette": palette, "mm_per_px": scale, "width": width * scale, "height": height * scale, "deviation": 0.0}
    findings = []
    folds = sum(stroke.role == "score" for stroke in strokes)
    if folds:
        findings.append(Finding("folds_found", details={"count": folds}))
    inner = sum(part.read == "cut" and part.role == "cut" and not part.outline for part in reading.parts)
    if inner and reading.rings:
        findings.append(Finding("inner_lines", repair="score_inner", details={"count": inner}))
    if is_plan and not reading.rings and len(reading.open_ends):
        findings.append(Finding("outline_open", "warning", details={"count": len(reading.open_ends)}))
    return TracedLines(_map_of(reading, size), strokes, tuple(findings), tuple(reading.missed))


def _map_of(reading: Reading, size: dict) -> PlanarMap:
    """What the rings shut in, by the even-odd rule."""
    if not reading.rings:
        return PlanarMap.empty(**size)
    segments = np.concatenate([own for own, _ in reading.rings]) * size["mm_per_px"]
    straight = np.concatenate([own for _, own in reading.rings])
    over = overlay([rings_of(segments, straight)])
    inside = over.labels[:, 0] % 2 != 0
    return relabel(over, without_slivers(over, inside), **size)


def _stroke(part: Part, label_map: LabelMap, of_card: bool) -> Stroke:
    assert part.curve is not None
    scale = label_map.mm_per_px
    segments, straight = part.curve
    label = 1
    if not of_card:
        at = np.clip(np.floor(part.points).astype(int), 0, np.array(label_map.labels.shape[::-1]) - 1)
        found = np.bincount(label_map.labels[at[:, 1], at[:, 0]], minlength=2)
        label = int(found[1:].argmax()) + 1
    x, y = map(float, _middle(part) * scale)
    return Stroke(frozen(segments * scale), frozen(straight), part.role, part.read, part.width * scale, (x, y), label,
                  part.outline)


def _middle(part: Part) -> NDArray[np.float64]:
    """A place on a part about half-way, in ink."""
    assert part.curve is not None
    half = len(part.points) // 2
    if part.sure is None:
        return np.asarray(part.points[half])
    sure = np.flatnonzero(part.sure)
    return np.asarray(part.points[sure[np.abs(sure - half).argmin()]])
