"""The Pieces step: what would be cut, piece by piece, put right by rules and by hand.

First rules on areas, then rules on widths, then what was done by hand, last the bridges that tie everything together. All of it
relabels faces, or lays a small new shape over the map; lines that nothing concerns stay bit for bit.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bisectum.core.geom.bezier import bounds
from bisectum.core.model.finding import Finding
from bisectum.core.model.frameless import without_frame
from bisectum.core.model.inside import place_inside
from bisectum.core.model.net import net_of
from bisectum.core.model.offset import outlines_of_faces
from bisectum.core.model.picture import Measured
from bisectum.core.model.piece_map import Gone, PieceMap, Reason
from bisectum.core.model.placement import Placement
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.thin_places import suspects
from bisectum.core.progress import SILENT, Part, Progress
from bisectum.core.steps.pieces.bridges import bridged
from bisectum.core.steps.pieces.by_hand import changed_by_hand
from bisectum.core.steps.pieces.by_size import telling, without_small
from bisectum.core.steps.pieces.by_width import joined, thickened, without_thin
from bisectum.core.steps.pieces.changed import with_labels
from bisectum.core.steps.pieces.faces import Faces
from bisectum.core.steps.pieces.found import Finder
from bisectum.core.steps.pieces.settings import PiecesSettings
from bisectum.core.steps.pieces.suggestions import suggestions

VERSION = 2
SETTLED = 4  # rounds of rules on widths and areas after each other
SHARES = 1e7  # of the width that tell places apart
NOWHERE = np.empty((0, 2))
Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Size:
    """What a picture is to be wide: mm, None for its natural size; measured: of what is cut, or of its whole frame."""

    width_mm: float | None
    measured: Measured


@dataclass(frozen=True, slots=True)
class Ruled:
    """What the rules leave. gone, kept, scale, box, marks: as in PieceMap."""

    planar: PlanarMap
    gone: tuple[Gone, ...]
    kept: NDArray[np.float64]
    scale: float
    box: Box | None
    findings: tuple[Finding, ...]
    marks: NDArray[np.float64]
    least: tuple[float, float]


def by_rules(
    planar: PlanarMap, settings: PiecesSettings, places: Placement, size: Size, progress: Progress = SILENT, hasty: bool = False,
    pen_mm: float | None = None,
) -> Ruled:
    """What the rules leave of a picture's map. places: from shares of the picture's width to mm of the map.

    hasty: only say where rules on widths would do something. pen_mm: of a page of ink, the width of its pen. Raises: Cancelled.
    """
    piece, window = settings.areas(pen_mm)
    settings = settings.with_fields({"smallest_mm2": piece, "smallest_window_mm2": window})
    planar = without_frame(planar)
    ruled = _by_size(planar, settings, places, size)
    if not (settings.thinnest_mm or settings.join_mm or settings.thicken_mm):
        return ruled
    if hasty:
        return _looked_at(ruled, settings)
    findings, gone, marks = list(ruled.findings), list(ruled.gone), []
    now, scale = ruled.planar, ruled.scale
    parts = [Part(progress, k / 3, (k + 1) / 3) for k in range(3)]
    if settings.join_mm:
        done = joined(now, settings.join_mm / scale, parts[0])
        now = done.planar
        marks.append(done.places)
        if len(done.places):
            findings.append(Finding("gaps_joined", details={"count": len(done.places)}))
    if settings.thicken_mm:
        before = _count(now)
        done = thickened(now, settings.thicken_mm / scale, parts[1])
        now = done.planar
        marks.append(done.places)
        if len(done.places):
            findings.append(Finding("parts_thickened", details={"count": len(done.places), "left": done.left}))
        melted = before - _count(now)
        if melted > 0:
            findings.append(Finding("pieces_melted", details={"count": melted}))
    if settings.thinnest_mm:
        thin = _without_thin(now, ruled, settings, places, size, parts[2])
        if thin is None:
            findings.append(_takes_all("thinnest_mm", settings.thinnest_mm))
        else:
            now, gone = thin[0], gone + thin[1]
    if now is not ruled.planar:  # necks that went leave smaller pieces
        again = _by_size(now, settings, places, size)
        ruled = replace(again, gone=(*gone, *again.gone), findings=(*findings, *again.findings))
    return replace(ruled, findings=tuple(_distinct([*findings, *ruled.findings])), marks=np.concatenate([NOWHERE, *marks]))


def _without_thin(
    planar: PlanarMap, ruled: Ruled, settings: PiecesSettings, places: Placement, size: Size, progress: Progress
) -> tuple[PlanarMap, list[Gone]] | None:
    """The map without thin parts, and what went; None where nothing would be left. Necks that go leave small pieces, and small
    pieces that go leave thin parts."""
    gone: list[Gone] = []
    around: NDArray[np.float64] | None = None
    for _ in range(SETTLED):
        kept = _kept_places(settings, places)
        done = without_thin(planar, settings.thinnest_mm / ruled.scale, settings.fill, kept, progress, around)
        if not (done.planar.face_labels > 0).any():
            return None
        after = _by_size(done.planar, settings, places, size)
        planar, gone = after.planar, [*gone, *done.gone, *after.gone]
        if not after.gone:
            break
        around = np.array([bounds(one.segments) for one in after.gone])
    return planar, gone


def _looked_at(ruled: Ruled, settings: PiecesSettings) -> Ruled:
    """With marks where rules on widths would do something, by a look at pixels."""
    planar = ruled.planar
    cut, bare = np.append(planar.face_labels > 0, False), np.append(planar.face_labels == 0, True)
    looks = [(cut, settings.thinnest_mm), (cut, settings.thicken_mm), (bare, settings.join_mm)]
    boxes = np.concatenate([suspects(planar, wanted, width / ruled.scale).boxes for wanted, width in looks if width])
    return replace(ruled, marks=(boxes[:, :2] + boxes[:, 2:]) / 2)


def put_right(
    ruled: Ruled, settings: PiecesSettings, places: Placement, ground: tuple[int, int, int] | None,
) -> PieceMap:
    """With the changes by hand, and bridges. ground: the colour of the background where it has one."""
    done = changed_by_hand(ruled.planar, settings.changes, places, ruled.scale, ruled.gone)
    planar, findings = done.planar, list(ruled.findings)
    if done.missed:
        findings.append(Finding("piece_changes_lost", "warning", repair="forget_changes", details={"count": len(done.missed)}))
    ends = np.empty((0, 2, 2))
    if settings.bridge_mm:
        tied = bridged(planar, settings.bridge_mm / ruled.scale)
        planar, ends = tied.planar, tied.ends
        if tied.alone:
            findings.append(Finding("nothing_to_bridge"))
        elif len(ends):
            findings.append(Finding("bridged", details={"count": len(ends)}))
    graph = _graph(planar)
    return PieceMap(
        planar, (*ruled.gone, *done.gone), ruled.kept, ruled.scale, ruled.box, tuple(findings),
        suggestions(planar, graph, ground, ruled.scale), ends, ruled.marks, tuple(done.missed), done.lifted, _shape(planar),
        ruled.least)



def _count(planar: PlanarMap) -> int:
    """How many pieces there are."""
    return int((planar.face_labels > 0).sum())


def _takes_all(rule: str, value: float) -> Finding:
    return Finding("rule_would_take_all", "warning", value=value, details={"rule": rule})


def _shape(planar: PlanarMap) -> str:
    """The same for maps that differ in size only: faces, and places as shares of the width, as closely as it takes."""
    digest = hashlib.sha256(planar.face_labels.tobytes())
    digest.update(np.round(planar.segments * (SHARES / max(planar.width, 1e-9))).astype(np.int64).tobytes())
    return digest.hexdigest()


def _distinct(findings: list[Finding]) -> list[Finding]:
    result: list[Finding] = []
    for finding in findings:
        if all(finding.code != other.code or finding.details != other.details for other in result):
            result.append(finding)
    return result


def _graph(planar: PlanarMap) -> Faces:
    return Faces(net_of(planar), np.concatenate([[0], planar.face_labels.astype(np.int64)]))


def _by_size(planar: PlanarMap, settings: PiecesSettings, places: Placement, size: Size) -> Ruled:
    """What the rules on areas leave. How large something is depends on what is measured, and that on what stays."""
    net = net_of(planar)
    values = np.concatenate([[0], planar.face_labels.astype(np.int64)])
    scale = _scale(planar.face_labels > 0, size, planar)
    beyond: list[int] = []
    for _ in range(2):  # once by the size with everything, once by the size of what stays
        faces = Faces(net, values)
        finder = Finder(net, faces, planar.palette, places.scale)
        given_back = [finder.face(places.to_px(np.array([change.x, change.y]))[0], change.area, change.colour)
                      for change in settings.changes if change.kind == "keep"]
        spared = [face for face in given_back if face is not None]
        piece, window = (area / scale**2 for area in settings.areas())
        told = telling(faces, planar.palette, piece) if settings.spare_telling else []
        all_gone = without_small(faces, piece, window, settings.fill, [*spared, *told], beyond)
        if settings.keep == "largest":
            _keep_largest(faces, settings.fill, spared)
        labels = faces.labels()
        before, scale = scale, _scale(labels[1:] > 0, size, planar)
        if scale <= before * (1 + 1e-9):
            break
        beyond = _beyond(_boxes_of_faces(planar), labels[1:] > 0, values[1:] > 0)
    findings = [_takes_all("smallest_mm2", settings.areas()[0])] if all_gone else []
    areas, went = net.areas(), np.flatnonzero(labels != values)
    drawn = outlines_of_faces(planar, [face - 1 for face in [*went.tolist(), *told]])
    kept = np.array([place_inside(drawn[face - 1][0]) for face in told]).reshape(-1, 2)
    if len(kept):
        names = {planar.palette.names()[values[face] - 1] for face in told}
        findings.append(Finding("small_kept", details={"count": len(kept), "names": ", ".join(sorted(names))}))
    gone = tuple(_gone(drawn[face - 1], int(values[face]), float(areas[face]), settings, scale) for face in went.tolist())
    after = with_labels(planar, labels[1:], net)
    return Ruled(after, gone, kept, scale, _box(labels[1:] > 0, size, planar), tuple(findings), NOWHERE,
                 settings.areas())


def _beyond(boxes: NDArray[np.float64], stays: NDArray[np.bool_], was: NDArray[np.bool_]) -> list[int]:
    """Faces of the net that went and reach beyond what stays: came they back, it would have another size. (F,) bool each."""
    low, high = boxes[stays, :2].min(axis=0), boxes[stays, 2:].max(axis=0)
    out = (boxes[:, :2] < low - 1e-9).any(axis=1) | (boxes[:, 2:] > high + 1e-9).any(axis=1)
    return (np.flatnonzero(was & ~stays & out) + 1).tolist()


def _gone(
    outline: tuple[NDArray[np.float64], NDArray[np.bool_]], label: int, area: float, settings: PiecesSettings, scale: float
) -> Gone:
    """A face that a rule on areas has taken."""
    reason: Reason = "small"
    if label == 0:
        reason = "small_window"
    elif settings.keep == "largest" and area * scale**2 >= settings.areas()[0]:
        reason = "not_largest"
    low, high = outline[0].min(axis=(0, 1)), outline[0].max(axis=(0, 1))
    return Gone(label, area, (float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2), *outline, reason)


def _keep_largest(faces: Faces, fill: str, spared: list[int]) -> None:
    """Of each colour only the largest piece, and what a person gave back."""
    safe = {faces.root(face) for face in spared}
    largest: dict[int, int] = {}
    for face in faces.roots():
        label = faces.label[face]
        if label > 0 and faces.area[face] > faces.area[largest.get(label, face)] - 1e-12:
            largest[label] = face
    for face in sorted(faces.roots(), key=lambda own: faces.area[own]):
        label = faces.label[face]
        if faces.parent[face] == face and label > 0 and face != largest.get(label) and face not in safe:
            faces.give(face, 0 if fill == "open" else faces.around(face))


def _kept_places(settings: PiecesSettings, places: Placement) -> NDArray[np.float64]:
    own = [(change.x, change.y) for change in settings.changes if change.kind == "keep"]
    return places.to_px(np.array(own)) if own else NOWHERE


def _boxes_of_faces(planar: PlanarMap) -> NDArray[np.float64]:
    """Left, top, right, bottom of what each face's lines lie within, mm. (F, 4)."""
    count = len(planar.face_labels)
    boxes = np.tile([np.inf, np.inf, -np.inf, -np.inf], (count + 1, 1))
    low = np.minimum.reduceat(planar.segments.min(axis=1), planar.first[:-1])
    high = np.maximum.reduceat(planar.segments.max(axis=1), planar.first[:-1])
    for side in (planar.sides[:, 0] % (count + 1), planar.sides[:, 1] % (count + 1)):
        np.minimum.at(boxes[:, :2], side, low)
        np.maximum.at(boxes[:, 2:], side, high)
    return boxes[:-1]


def _scale(cut: NDArray[np.bool_], size: Size, planar: PlanarMap) -> float:
    """mm of the finished size to a mm of the map, where these faces are cut. cut : (F,)."""
    box = _box(cut, size, planar)
    return size.width_mm / (box[2] - box[0]) if size.width_mm is not None and box is not None else 1.0


def _box(cut: NDArray[np.bool_], size: Size, planar: PlanarMap) -> Box | None:
    """What the width measures, where these faces are cut; None where nothing is. cut : (F,)."""
    if size.measured == "picture":
        return 0.0, 0.0, planar.width, planar.height
    of_cut = np.append(cut, False)[planar.sides].any(axis=1)
    if not of_cut.any():
        return None
    left, top, right, bottom = bounds(planar.segments[np.repeat(of_cut, np.diff(planar.first))])
    return float(left), float(top), float(right), float(bottom)
