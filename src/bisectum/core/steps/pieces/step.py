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
from bisectum.core.model.net import net_of
from bisectum.core.model.offset import outlines
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
from bisectum.core.steps.pieces.inside import place_inside
from bisectum.core.steps.pieces.settings import PiecesSettings
from bisectum.core.steps.pieces.suggestions import suggestions

VERSION = 1
SETTLED = 4  # rounds of rules on widths and areas after each other
NOWHERE = np.empty((0, 2))
Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Size:
    """What a picture is to be wide: mm, None for its natural size; measured: of what is cut, or of its whole frame."""

    width_mm: float | None
    measured: Measured


@dataclass(frozen=True, slots=True)
class Ruled:
    """What the rules leave. gone, kept, scale, box, marks: as in PieceMap; reshaped: there are new lines."""

    planar: PlanarMap
    gone: tuple[Gone, ...]
    kept: NDArray[np.float64]
    scale: float
    box: Box | None
    findings: tuple[Finding, ...]
    marks: NDArray[np.float64]
    reshaped: bool = False


def by_rules(
    planar: PlanarMap, settings: PiecesSettings, places: Placement, size: Size, progress: Progress = SILENT, hasty: bool = False,
) -> Ruled:
    """What the rules leave of a picture's map. places: from shares of the picture's width to mm of the map.

    hasty: only say where rules on widths would do something. Raises: Cancelled.
    """
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
        done = thickened(now, settings.thicken_mm / scale, parts[1])
        now = done.planar
        marks.append(done.places)
        if len(done.places):
            findings.append(Finding("parts_thickened", details={"count": len(done.places), "left": done.left}))
    if settings.thinnest_mm:
        thin = _without_thin(now, ruled, settings, places, size, parts[2])
        if thin is None:
            findings.append(_takes_all("thinnest_mm", settings.thinnest_mm))
        else:
            now, gone = thin[0], gone + thin[1]
    if now is not ruled.planar:  # necks that went leave smaller pieces
        again = _by_size(now, settings, places, size)
        ruled = replace(again, gone=(*gone, *again.gone), findings=(*findings, *again.findings), reshaped=True)
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
    shape = hashlib.sha256(planar.face_labels.tobytes() + planar.segments.shape[0].to_bytes(8, "big"))
    if ruled.reshaped or len(ends) or any(change.amount_mm for change in settings.changes):
        shape.update(planar.segments.tobytes())
    return PieceMap(
        planar, (*ruled.gone, *done.gone), ruled.kept, ruled.scale, ruled.box, tuple(findings),
        suggestions(planar, graph, ground, ruled.scale), ends, ruled.marks, tuple(done.missed), done.lifted, shape.hexdigest())



def _takes_all(rule: str, value: float) -> Finding:
    return Finding("rule_would_take_all", "warning", value=value, details={"rule": rule})


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
    boxes = _boxes_of_faces(planar)
    scale = _scale(boxes[planar.face_labels > 0], size, planar)
    beyond: list[int] = []
    for _ in range(2):  # once by the size with everything, once by the size of what stays
        faces = Faces(net, values)
        finder = Finder(net, faces, planar.palette, places.scale)
        given_back = [finder.face(places.to_px(np.array([change.x, change.y]))[0], change.area, change.colour)
                      for change in settings.changes if change.kind == "keep"]
        spared = [face for face in given_back if face is not None]
        told = telling(faces, planar.palette, settings.smallest_mm2 / scale**2) if settings.spare_telling else []
        all_gone = without_small(faces, settings.smallest_mm2 / scale**2, settings.smallest_window_mm2 / scale**2, settings.fill,
                                 [*spared, *told], beyond)
        if settings.keep == "largest":
            _keep_largest(faces, settings.fill, spared)
        labels = faces.labels()
        before, scale = scale, _scale(boxes[labels[1:] > 0], size, planar)
        if scale <= before * (1 + 1e-9):
            break
        beyond = _beyond(boxes, labels[1:] > 0, values[1:] > 0)
    findings = [_takes_all("smallest_mm2", settings.smallest_mm2)] if all_gone else []
    kept = np.array([place_inside(_outline(planar, face - 1)) for face in told]).reshape(-1, 2)
    if len(kept):
        names = [planar.palette.names()[values[face] - 1] for face in told]
        findings.append(Finding("small_kept", details={"count": len(kept), "names": ", ".join(sorted(set(names)))}))
    reasons: dict[int, Reason] = {face: _reason(values[face], settings, net.areas()[face] * scale**2)
                                  for face in np.flatnonzero(labels != values).tolist()}
    areas = net.areas()
    gone = tuple(_gone(planar, face, int(values[face]), float(areas[face]), reason) for face, reason in reasons.items())
    after = with_labels(planar, labels[1:], net)
    return Ruled(after, gone, kept, scale, _box(after, boxes[labels[1:] > 0], size), tuple(findings), NOWHERE)


def _beyond(boxes: NDArray[np.float64], stays: NDArray[np.bool_], was: NDArray[np.bool_]) -> list[int]:
    """Faces of the net that went and reach beyond what stays: came they back, it would have another size. (F,) bool each."""
    low, high = boxes[stays, :2].min(axis=0), boxes[stays, 2:].max(axis=0)
    out = (boxes[:, :2] < low - 1e-9).any(axis=1) | (boxes[:, 2:] > high + 1e-9).any(axis=1)
    return (np.flatnonzero(was & ~stays & out) + 1).tolist()


def _reason(label: int, settings: PiecesSettings, area: float) -> Reason:
    if label == 0:
        return "small_window"
    return "not_largest" if settings.keep == "largest" and area >= settings.smallest_mm2 else "small"


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


def _outline(planar: PlanarMap, face: int) -> NDArray[np.float64]:
    inside = np.zeros(len(planar.face_labels) + 1, bool)
    inside[face] = True
    return outlines(planar, inside)[0]


def _gone(planar: PlanarMap, face: int, label: int, area: float, reason: Reason) -> Gone:
    inside = np.zeros(len(planar.face_labels) + 1, bool)
    inside[face - 1] = True
    segments, straight, _ = outlines(planar, inside)
    return Gone(label, area, place_inside(segments), segments, straight, reason)


def _boxes_of_faces(planar: PlanarMap) -> NDArray[np.float64]:
    """Left, top, right, bottom of each face, mm. (F, 4)."""
    count = len(planar.face_labels)
    boxes = np.tile([np.inf, np.inf, -np.inf, -np.inf], (count + 1, 1))
    chains = [bounds(planar.chain(number)) for number in range(planar.chain_count)]
    around = np.array(chains).reshape(-1, 4)
    for side in (planar.sides[:, 0] % (count + 1), planar.sides[:, 1] % (count + 1)):
        np.minimum.at(boxes[:, :2], side, around[:, :2])
        np.maximum.at(boxes[:, 2:], side, around[:, 2:])
    return boxes[:-1]


def _scale(cut: NDArray[np.float64], size: Size, planar: PlanarMap) -> float:
    """mm of the finished size to a mm of the map, where pieces with these boxes are cut."""
    if size.width_mm is None:
        return 1.0
    if size.measured == "picture":
        return size.width_mm / planar.width
    wide = float(cut[:, 2].max() - cut[:, 0].min()) if len(cut) else 0.0
    return size.width_mm / wide if wide > 0 else 1.0


def _box(planar: PlanarMap, cut: NDArray[np.float64], size: Size) -> Box | None:
    if size.measured == "picture":
        return 0.0, 0.0, planar.width, planar.height
    if not len(cut):
        return None
    return float(cut[:, 0].min()), float(cut[:, 1].min()), float(cut[:, 2].max()), float(cut[:, 3].max())
