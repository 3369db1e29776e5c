"""What the computing processes do: run makes on kept pictures, and make what the screen shows of the results."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.course import PREVIEW_PX, CourseResult, CourseSettings, Source, run_course
from bisectum.core.errors import BrokenStructure
from bisectum.core.formats.png.write import packed_png
from bisectum.core.formats.ready.read import read_lines
from bisectum.core.formats.svg.write import path_data
from bisectum.core.geom.bezier import flatten
from bisectum.core.job import (
    BorderItem,
    DrawnItem,
    JobDocument,
    LetteringItem,
    LiftedItem,
    LinesItem,
    PictureItem,
    ShapeItem,
    new_document,
)
from bisectum.core.make import MakeResult, run_make
from bisectum.core.model.artwork import Artwork, Layer
from bisectum.core.model.face import Face
from bisectum.core.model.finding import Finding
from bisectum.core.model.ground import EnclosedSpot
from bisectum.core.model.outlined import pieces_of_faces
from bisectum.core.model.placement import Placement
from bisectum.core.model.ready_lines import ReadyLines
from bisectum.core.model.tone_scale import ToneScale
from bisectum.core.model.work import Work
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.colour import hex_of
from bisectum.core.raster.resample import reduce_to
from bisectum.core.steps.background.settings import Touch
from bisectum.core.steps.background.spot import spot_at
from bisectum.core.steps.background.step import cleared_picture
from bisectum.core.steps.colours.dropper import flat_colour
from bisectum.core.steps.layers.thickness import Thickest, thickest
from bisectum.core.tryouts.recipes import Recipe
from bisectum.core.tryouts.try_out import recipes_of, try_out
from bisectum.core.units import MM_PER_INCH
from bisectum.services import images
from bisectum.services.decode import PictureInfo, decode
from bisectum.services.fonts import files_of
from bisectum.services.kept import Kept
from bisectum.services.marks import SentDocument
from bisectum.services.networks import hand_in_networks
from bisectum.services.pieces import PieceList, piece_list
from bisectum.services.report import findings_of_item, findings_of_make
from bisectum.worker.process import on_low_memory

MOST_SPOTS = 100  # enclosed spots told one by one
STAGE_PX = 4_000_000  # the stage shows pictures of at most this many pixels
SHARE_OF_PICTURES = 0.35  # of what this process may keep

_results = Kept(0)
_pictures = Kept(0)
on_low_memory(_results.clear)
on_low_memory(_pictures.clear)

Matrix = tuple[float, float, float, float, float, float]


@dataclass(frozen=True, slots=True)
class ItemOutcome:
    """What the screen needs of one item. placement: a matrix, row by row, from shares of the width of the picture that came in
    to mm on the page; of an item that is no picture from its own mm. raster: from shares of the width of a picture's rasters to
    mm on the page; tall: their height against their width. box: left, top, right and bottom of what its width measures, mm.
    facts, images: of a picture; names of the rasters of its states, as in Outcome.rasters. outline: of another item, SVG path
    data in its own mm, and its colour; size: width and height of what the box is of before it is turned, mm; missing: the
    characters that its font lacks; open_lines: how many of its ready lines do not close; sized:
    whether its file says what its numbers are."""

    id: str
    placement: Matrix
    raster: Matrix
    tall: float
    box: tuple[float, float, float, float]
    size: tuple[float, float]
    facts: dict[str, Any] | None = None
    images: dict[str, str] = field(default_factory=dict)
    outline: str = ""
    colour: str = ""
    missing: str = ""
    open_lines: int = 0
    sized: bool = True


@dataclass(frozen=True, slots=True)
class Outcome:
    """What the screen needs of a make's result. rasters: PNG bytes by name; equal ones have the same name, whatever result
    they are of. origin: the page's upper left corner on the table, where places are told from. fault: what is broken, so that
    no file is made of it; a defect of ours; thickest: where most films lie over each other. Previews are not looked at for these.
    scales: of the photographs among the items."""

    artwork: Artwork
    items: tuple[ItemOutcome, ...]
    findings: tuple[Finding, ...]
    rasters: dict[str, bytes] = field(repr=False)
    origin: tuple[float, float] = (0.0, 0.0)
    thumbnail: bytes = b""
    fault: str | None = None
    thickest: Thickest | None = None
    scales: dict[str, ToneScale] = field(default_factory=dict)

    def item(self, item_id: str) -> ItemOutcome:
        """Raises: KeyError."""
        return {item.id: item for item in self.items}[item_id]


def begin(most_bytes: int, progress: Progress) -> None:
    """What a process does first: it learns how much it may keep, and sends a tiny drawing through the course, so that
    nobody's first picture waits for kernels."""
    hand_in_networks()
    _pictures.limit(int(most_bytes * SHARE_OF_PICTURES))
    _results.limit(int(most_bytes * (1 - SHARE_OF_PICTURES)))
    rgba = np.full((48, 48, 4), 255, np.uint8)
    rgba[8:40, 8:40, :3] = (40, 90, 140)
    rgba[16:24, 16:30, :3] = (200, 70, 50)
    digest = "0" * 64
    result = run_make({digest: Source(rgba, 1.0, digest)}, new_document(digest, "", "warm-up", CourseSettings()), {}, progress)
    images.thumbnail(result)


def _lines(document: JobDocument, paths: Mapping[str, Path]) -> dict[str, ReadyLines]:
    """The vector files of a document, by their digest. Raises: InputError."""
    found = {}
    for item in document.items:
        if isinstance(item, LinesItem) and item.made.source not in found:
            key = f"lines/{item.made.source}"
            if key not in _results:
                _results[key] = read_lines(paths[item.made.source].read_bytes())
            found[item.made.source] = _results[key]
    return found


def look_at(path: Path, progress: Progress) -> PictureInfo:
    """Decode a picture to see whether it can be used. Raises: PictureError."""
    return information(path)


def information(path: Path) -> PictureInfo:
    """What is known of a picture's file. Raises: PictureError."""
    return _source(path)[1]


def run(paths: Mapping[str, Path], fonts: Mapping[str, Path], sent: SentDocument, preview: bool, progress: Progress) -> Outcome:
    """Run a make on kept pictures. paths: of the pictures by their digest; fonts: of the person's own ones.

    Raises: PictureError, SettingsError, Cancelled.
    """
    document = sent.open()
    sources = {item.source: _source(paths[item.source]) for item in document.pictures}
    result = run_make({digest: source for digest, (source, _) in sources.items()}, document, _results, progress,
                      PREVIEW_PX if preview else None, fonts=files_of(document, fonts), lines=_lines(document, paths))
    progress.raise_if_cancelled()
    rasters: dict[str, bytes] = {}
    there = {frame.item for frame in result.arrangement.frames}
    items = tuple(_item(item, result, sources[item.source][1], rasters) if isinstance(item, PictureItem)
                  else _made_item(item, result) for item in document.items if item.id in there)
    findings = [finding for item in document.pictures if item.id in there
                for finding in findings_of_item(item.id, result.courses[item.id], sources[item.source][1])]
    findings += findings_of_make(result, document.make.check.evening_min, preview)
    return Outcome(result.artwork, items, tuple(findings), rasters,
                   result.arrangement.origin, b"" if preview else images.thumbnail(result), None if preview else _fault(result),
                   None if preview else _thickest(result),
                   {name: course.label_map.scale for name, course in result.courses.items()
                    if course.label_map.scale is not None and name in there})


def sound_make(
    paths: Mapping[str, Path], fonts: Mapping[str, Path], document: JobDocument, progress: Progress
) -> MakeResult:
    """A make that files can be made of. Raises: as run; BrokenStructure where it is broken, a defect of ours."""
    sources = {item.source: _source(paths[item.source])[0] for item in document.pictures}
    result = run_make(sources, document, _results, progress, fonts=files_of(document, fonts), lines=_lines(document, paths))
    fault = _fault(result)
    if fault is not None:
        raise BrokenStructure(f"{fault} Please report this; the job is as it was.")
    return result


def _thickest(result: MakeResult) -> Thickest:
    key = f"thickest/{result.key}"
    if key not in _results:
        _results[key] = thickest(result.artwork)
    found: Thickest = _results[key]
    return found


def _fault(result: MakeResult) -> str | None:
    try:
        result.arrangement.check()
        result.artwork.check()
    except BrokenStructure as broken:
        return broken.message
    return None


def picture_png(path: Path, most_px: int, progress: Progress) -> bytes:
    """The decoded picture for the stage, reduced to `most_px` pixels."""
    return images.of_pixels(reduce_to(_source(path)[0].rgba, most_px)[0])


def cleared_png(path: Path, sent: SentDocument, item_id: str, progress: Progress = SILENT) -> bytes:
    """The picture of an item without its background, PNG, with the resolution of its finished size. Raises: PictureError,
    SettingsError, Cancelled."""
    course = run_course(_source(path)[0], sent.open().picture(item_id).course, _results, progress)
    pixels = np.ascontiguousarray(cleared_picture(course.picture, course.ground))
    return packed_png(pixels, MM_PER_INCH / (course.planar_map.width * course.pieces.scale / pixels.shape[1]))


def spot_png(path: Path, settings: CourseSettings, touch: Touch, progress: Progress = SILENT) -> bytes:
    """What a click would take, on a picture of preview size, PNG. Raises: PictureError, SettingsError."""
    picture = run_course(_source(path)[0], settings, _results, progress, PREVIEW_PX, until="picture").picture
    x, y = picture.places.to_px(np.array(touch.points))[0]
    area = spot_at(picture.rgba, x, y, touch.reach, touch.everywhere)
    return images.of_mask(area if area is not None else np.zeros(picture.rgba.shape[:2], bool))


def ground_png(path: Path, sent: SentDocument, item_id: str, progress: Progress = SILENT) -> bytes:
    """The ground on a picture of preview size, PNG. Raises: PictureError, SettingsError, Cancelled."""
    settings = sent.open().picture(item_id).course
    return images.of_ground(run_course(_source(path)[0], settings, _results, progress, PREVIEW_PX, until="background").ground)


@dataclass(frozen=True, slots=True)
class Tried:
    """A try-out for the screen. width_mm, height_mm: its page; frame: left, top, width and height of the picture on it, mm;
    layers: from the lowest, each with its colour and SVG path data in mm."""

    width_mm: float
    height_mm: float
    frame: tuple[float, float, float, float]
    layers: tuple[tuple[str, str], ...]
    likeness: float
    work: Work


def recipes(path: Path, sent: SentDocument, item_id: str, like_this: bool, progress: Progress = SILENT) -> tuple[Recipe, ...]:
    """What is worth trying on an item's picture. Raises: PictureError, SettingsError, Cancelled."""
    return recipes_of(_source(path)[0], sent.open().picture(item_id).course, _results, like_this, progress)


def tried(path: Path, sent: SentDocument, item_id: str, progress: Progress = SILENT) -> Tried:
    """An item's picture treated as its course says, as a try-out.

    Raises: PictureError, SettingsError when nothing is left to cut; Cancelled.
    """
    made = try_out(_source(path)[0], sent.open().picture(item_id).course, _results, progress)
    layers = tuple((hex_of(layer.rgb), path_data(layer)) for layer in made.artwork.layers)
    return Tried(made.artwork.width, made.artwork.height, made.frame, layers, made.likeness, made.work)


def dropper(path: Path, settings: CourseSettings, x: float, y: float, progress: Progress = SILENT) -> str | None:
    """The colour of the flat area at a place (shares of the picture's width), "#rrggbb". Raises: PictureError, SettingsError."""
    picture = run_course(_source(path)[0], settings, _results, progress, until="picture").picture
    at = picture.places.to_px(np.array([x, y]))[0]
    found = flat_colour(picture.rgba, float(at[0]), float(at[1]))
    return hex_of(found) if found is not None else None


def pieces(path: Path, sent: SentDocument, item_id: str, progress: Progress = SILENT) -> PieceList:
    """The pieces of a picture. Raises: PictureError, SettingsError, Cancelled."""
    return piece_list(run_course(_source(path)[0], sent.open().picture(item_id).course, _results, progress))


def _source(path: Path) -> tuple[Source, PictureInfo]:
    found: tuple[Source, PictureInfo] | None = _pictures.get(path.name)
    if found is None:
        found = _pictures[path.name] = decode(path.read_bytes())
    return found


def _item(item: PictureItem, result: MakeResult, info: PictureInfo, rasters: dict[str, bytes]) -> ItemOutcome:
    course, frame = result.courses[item.id], result.arrangement.frame(item.id)
    planar = course.planar_map
    scale = float(np.sqrt(abs(np.linalg.det(frame.matrix[:, :2]))))
    raster = frame.matrix * [planar.width, planar.width, 1]
    return ItemOutcome(item.id, numbers_of(result.placement(item.id).matrix), numbers_of(raster), planar.height / planar.width,
                       frame.box, frame.size, _facts(course, info, scale, rasters), _rasters(course, rasters))


def _made_item(
    item: LetteringItem | ShapeItem | DrawnItem | BorderItem | LiftedItem | LinesItem, result: MakeResult
) -> ItemOutcome:
    """An item that is no picture: the outlines of all that is cut of it, in its own mm."""
    frame = result.arrangement.frame(item.id)
    planar = result.maps[item.id]
    pieces = pieces_of_faces(planar, np.append(planar.face_labels > 0, False), False)
    outline = path_data(Layer("", "", (0, 0, 0), pieces))
    return ItemOutcome(
        item.id, numbers_of(frame.matrix), numbers_of(frame.matrix), 1.0, frame.box, frame.size, outline=outline,
        colour=item.made.colour, missing=result.missing.get(item.id, ""), open_lines=result.open_lines.get(item.id, 0),
        sized=item.id not in result.unsized)


def numbers_of(matrix: NDArray[np.float64]) -> Matrix:
    """A (2, 3) matrix row by row."""
    a, b, c, d, e, f = (float(value) for value in matrix.ravel())
    return a, b, c, d, e, f


def _rasters(course: CourseResult, rasters: dict[str, bytes]) -> dict[str, str]:
    """Names of the item's rasters, which are added to `rasters`."""
    names = {"background": course.keys["background"], "colours": course.keys["colours"]}
    _add(rasters, names["background"], lambda: images.of_ground(course.ground))
    _add(rasters, names["colours"], lambda: images.of_labels(course.label_map.labels, course.label_map.palette))
    if _has_own_image(course):
        names["picture"] = course.keys["picture"]
        _add(rasters, names["picture"], lambda: images.of_pixels(reduce_to(course.picture.rgba, STAGE_PX)[0]))
    return names


def _cutouts(course: CourseResult, rasters: dict[str, bytes]) -> list[dict[str, str]]:
    """The cut-outs there are to choose from, each with the name of its raster."""
    found = []
    for cutout in course.ground.cutouts:
        image = f"{course.keys['background']}-{cutout.name}"
        _add(rasters, image, lambda cutout=cutout: images.of_cutout(course.picture.rgba, cutout.mask))  # type: ignore[misc]
        found.append({"name": cutout.name, "image": image})
    return found


def _add(rasters: dict[str, bytes], name: str, work: Callable[[], bytes]) -> None:
    """Put a raster there, kept from an earlier result or made."""
    key = f"png/{name}"
    if key not in _results:
        _results[key] = work()
    rasters[name] = _results[key]


def _facts(course: CourseResult, info: PictureInfo, scale: float, rasters: dict[str, bytes]) -> dict[str, Any]:
    """Values for the interface's sentences. scale: of the page against the item's map; rasters: where those named here go."""
    planar, ground = course.planar_map, course.ground
    on_map = course.picture.places.scaled(planar.width / course.picture.width)

    def places(own: NDArray[np.float64]) -> list[list[float]]:
        shares: list[list[float]] = on_map.to_shares(own).tolist()
        return shares

    return {
        "picture": {
            "format": info.format, "width_px": info.width, "height_px": info.height, "dpi": info.dpi,
            "mm_per_px": course.label_map.mm_per_px * scale / (_reduction(course) * info.reduced),
        },
        "background": {
            "kind": ground.kind, "found": ground.found or ground.kind, "share": ground.share, "reach": 100 * ground.reach,
            "colour": list(ground.rgb), "runner_up": ground.runner_up, "outside": ground.outside,
            "has_shadow": ground.has_shadow, "one_colour": ground.one_colour,
            "enclosed": [_spot(spot, course) for spot in ground.enclosed[:MOST_SPOTS]],
            "cutouts": _cutouts(course, rasters), "cutout": ground.cutout,
        },
        "colours": {
            "method": course.label_map.palette.method, "found": course.label_map.palette.found,
            "kind": course.label_map.told.kind, "reason": course.label_map.told.reason, "page": _page(course, scale),
            "absorbed": course.label_map.absorbed, "palette": _palette(course), "tones": _tones(course.label_map.scale),
            "faces": [_face(face, course.picture.places) for face in course.label_map.faces],
            "choices": [{"taste": choice.taste, "colours": [hex_of(colour) for colour in choice.colours]}
                        for choice in course.label_map.choices],
        },
        "pieces": {
            "here": int((course.pieces.planar.face_labels > 0).sum()), "gone": len(course.pieces.gone),
            "marks": places(course.pieces.marks), "bridges": [places(own) for own in course.pieces.bridges],
            "missed": list(course.pieces.missed), "kept": len(course.pieces.kept),
            "least": list(course.pieces.least),
            "suggestions": [{"kind": one.kind, "places": places(one.places)} for one in course.pieces.suggestions],
        },
        "lines": {
            "segments": len(planar.segments), "straight": int(planar.straight.sum()), "deviation_mm": planar.deviation * scale,
            "repaired": len(planar.repaired), "left_out": list(planar.left_out), "strokes": _strokes(course, scale),
        },
    }


def _tones(scale: ToneScale | None) -> dict[str, Any] | None:
    if scale is None:
        return None
    return {"histogram": list(scale.histogram), "thresholds": list(scale.thresholds),
            "colours": [hex_of(colour) for colour in scale.colours], "bare": list(scale.bare)}


def _face(face: Face, places: Placement) -> dict[str, Any]:
    """The box about a face and a place in it, as shares of the width of the picture that came in."""
    corners = places.to_shares(face.box)
    low, high = corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
    return {"box": [low, high], "at": corners.mean(axis=0).tolist(), "dismissed": face.dismissed}


def _strokes(course: CourseResult, scale: float) -> list[dict[str, Any]]:
    """The strokes of a picture, those left out too, as points: shares of the width of the picture that came in."""
    on_map = course.picture.places.scaled(course.planar_map.width / course.picture.width)
    near = 0.25 * course.planar_map.mm_per_px
    found = []
    for stroke in course.lines.strokes:
        points = np.concatenate([flatten(stroke.segments, near), stroke.segments[-1:, 3]])
        found.append({
            "role": stroke.role, "read": stroke.read, "outline": stroke.outline, "length_mm": stroke.path.length * scale,
            "width_mm": stroke.width * scale, "at": on_map.to_shares(np.array([stroke.at]))[0].tolist(),
            "points": on_map.to_shares(points).tolist()})
    return found


def _page(course: CourseResult, scale: float) -> dict[str, Any] | None:
    """What lies on a page of ink beside the ink. scale: of the page against the item's map."""
    label_map = course.label_map
    page = label_map.page
    if page is None:
        return None
    places = course.picture.places.scaled(label_map.labels.shape[1] / course.picture.width)
    at = places.to_shares(page.specks[:, :2]).tolist()
    specks = [{"at": place, "radius": float(radius) / places.scale, "kept": bool(kept)}
              for place, radius, kept in zip(at, page.specks[:, 2], page.kept, strict=True)]
    return {"rules": page.rules, "pen_mm": page.pen * label_map.mm_per_px * scale, "specks": specks}


def _palette(course: CourseResult) -> list[dict[str, Any]]:
    palette, shown = course.label_map.palette, images.shown_colours(course.label_map.palette)
    areas = np.bincount(course.planar_map.face_labels, minlength=len(palette.colours) + 1)
    return [
        {"key": colour.key, "name": name, "share": colour.share, "small": colour.small, "pinned": colour.pinned,
         "pieces": int(areas[number]), "shown": list(shown[number])}
        for number, (colour, name) in enumerate(zip(palette.colours, palette.names(), strict=True), 1)
    ]


def _spot(spot: EnclosedSpot, course: CourseResult) -> dict[str, Any]:
    """An enclosed spot, its places as shares of the width of the picture that came in."""
    left, top, right, bottom = spot.box
    places = course.picture.places.to_shares(np.array([(spot.x + 0.5, spot.y + 0.5), (left, top), (right, bottom)]))
    return {"at": places[0].tolist(), "corners": places[1:].tolist(), "area_px": spot.area_px, "likelihood": spot.likelihood,
            "taken": spot.taken}


def _has_own_image(course: CourseResult) -> bool:
    """Whether the picture worked on is another one than came in: turned, cropped, lit."""
    plain = Placement.plain(course.picture.width).matrix
    return course.relit or not np.array_equal(course.picture.places.matrix, plain)


def _reduction(course: CourseResult) -> float:
    """Pixels of the decoded picture along one pixel of the label map."""
    return course.picture.reduction * course.picture.width / course.label_map.labels.shape[1]
