"""The Colours step: from picture and ground to a label map, one label a layer."""

from __future__ import annotations

from collections.abc import MutableMapping
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.model.finding import Finding
from bisectum.core.model.ground import Ground
from bisectum.core.model.kind import Told
from bisectum.core.model.label_map import LabelMap
from bisectum.core.model.picture import Picture, frozen
from bisectum.core.progress import SILENT, Part, Progress
from bisectum.core.raster.colour import hex_of, oklab, rgb_of
from bisectum.core.raster.colour_names import plain_name
from bisectum.core.raster.grain import grain_of, without_grain
from bisectum.core.raster.regions import regions_of
from bisectum.core.raster.resample import premultiplied
from bisectum.core.steps.colours.assign import assign_by_mixes
from bisectum.core.steps.colours.by_hand import Entry, changed_by_hand
from bisectum.core.steps.colours.fine_differences import settled_modes
from bisectum.core.steps.colours.flat_pixels import CLEAN, FlatColours, flat_colours, ridge_colours
from bisectum.core.steps.colours.ink.separate import separate_ink
from bisectum.core.steps.colours.kind import kind_of_colours, kind_of_page
from bisectum.core.steps.colours.lost_colours import missed_colours
from bisectum.core.steps.colours.modes import (
    CLEAN_BANDWIDTH,
    FEWEST_CLEAN_PX,
    FEWEST_PX,
    concentration,
    find_modes,
    pinned_modes,
    reduce_modes,
    thin_modes,
    without_echoes,
)
from bisectum.core.steps.colours.photo.exchange import exchanged
from bisectum.core.steps.colours.photo.treat import MOST_PX, treat
from bisectum.core.steps.colours.settings import ColoursSettings
from bisectum.core.steps.colours.shades import Shades, find_shades
from bisectum.core.steps.colours.sift import Method, Separation, sifted
from bisectum.core.steps.colours.soft import soft_share

VERSION = 12
FLAT_SHARE = 0.25  # a picture with fewer flat pixels is a photograph
JUST_AT, PURE_SHARE = 0.004, 0.95  # OKLab, and the part of the flat pixels that near to a mode in art without shading
DRAWN_SHARE = 0.8  # a picture with less of its flat pixels right at a mode is a photograph
FEW_COLOURS, SMALL_DRAWN_SHARE = 3, 0.7  # a small picture of so few colours is all fringe where it was compressed
SOFT_SHARE = 0.02  # of the pixels of a drawing in thin strokes change softly at most
MOST_FLAT_COLOURS = 24  # more distinct colours than this make it one too
LEAST_GRAIN, MOST_GRAIN = 5.0, 40.0  # levels: less is told from colours as it is; more than that hides them
MOST_JOINED = 4  # pairs that are told
SCRAP_PX, COMPRESSED_SCRAP_PX = 40, 400
TWIN, COMPRESSED_TWIN = 8, 20  # levels within which a colour may be the background's own
RIM = 13  # px across of what is looked at about the background
INK = ("line-drawing", "handwriting")

Findings = list[Finding]
Memory = MutableMapping[str, Any]


@dataclass(frozen=True, slots=True)
class Look:
    """What a picture looks like at first sight. modes : (N, 3), distinct colours, levels; weights : (N,); shades: of soft
    shading that is cut into steps; method: how its colours are told; told: what kind it is; is_page: its ink is told from
    paper that is evened out, whatever flat colours it has. calmed: a drawing without its grain, where it had much."""

    flat: FlatColours | None
    modes: NDArray[np.float64]
    weights: NDArray[np.float64]
    shades: Shades | None
    method: Method
    told: Told
    is_page: bool = False
    calmed: Picture | None = None

    @property
    def is_photograph(self) -> bool:
        return self.method == "tones"


def separate_colours(
    picture: Picture, ground: Ground, settings: ColoursSettings, progress: Progress = SILENT
) -> LabelMap:
    """A picture, without its ground where that has been made transparency, as labels.

    Raises: SettingsError when nothing is left beside the background; Cancelled.
    """
    look = look_at(picture, ground, settings, kind_of_page(picture.rgba) if settings.kind == "auto" else None)
    progress.report(0.1)
    part = Part(progress, 0.1, 0.8)
    if look.is_page:
        separation = separate_ink(picture, None, settings, look.told.kind == "handwriting", part)
    elif look.is_photograph:
        separation = treated(picture, ground, settings, size_to_treat(picture, ground), progress=part)
    else:
        separation = separated(picture, ground, settings, look, part)
    return sifted(replace(separation, told=look.told), picture, settings, Part(progress, 0.8, 1.0))


def look_at(picture: Picture, ground: Ground, settings: ColoursSettings, page: Told | None = None) -> Look:
    """Which colours are distinct, and by that how they are told. page: what kind of page it is, if it is one.

    Grain makes no photograph of a drawing: where there is much of it, a picture that is drawn in flat colours without it is
    looked at so. Raises: SettingsError when nothing but background is there.
    """
    kind = page.kind if page is not None else settings.kind
    grain = grain_of(picture.rgba) if kind in ("auto", "clip-art", "screenshot") else 0.0
    if not LEAST_GRAIN <= grain <= MOST_GRAIN:
        return _look_at(picture, ground, settings, page)
    calmed = replace(picture, rgba=frozen(without_grain(picture.rgba, grain)))
    look = _look_at(calmed, ground, settings, page)
    if look.is_photograph:
        return _look_at(picture, ground, settings, page)
    told = look.told if settings.kind != "auto" else kind_of_colours(picture.rgba, soft=False)
    return replace(look, calmed=calmed, told=told)


def _look_at(picture: Picture, ground: Ground, settings: ColoursSettings, page: Told | None) -> Look:
    told = Told(settings.kind, "by_hand") if settings.kind != "auto" else page
    if told is not None and told.kind == "handwriting":
        return _look_of_page(told)
    if ground.mask.all():
        raise SettingsError("The whole picture counts as background, so nothing is left to cut: lower the reach, keep the "
                            "background, or take out what was cleared by hand.", code="nothing_left")
    shades = find_shades(picture.rgba, ground.mask, settings.shades) if settings.shades > 1 else None
    whole = picture
    picture, ground, shaded = _as_it_came(picture, ground, None if shades is None else shades.mask)
    flat = flat_colours(picture.rgba, ground.mask if shaded is None else ground.mask | shaded)
    modes, weights = _modes_of(flat)
    method = _method(picture, flat, modes, ground, settings)
    if method == "tones" and shades is not None and shades.mask.any() and settings.kind != "photo":
        method = "flat"  # all that was shaded has been put into steps
    elif method != "tones" and not len(modes) and shades is None and not settings.pins and not _has_other_colours(
            picture, ground, flat, modes):
        method = "tones"
    if told is not None and told.kind == "line-drawing" and (method == "tones" or flat.restless or flat.compressed):
        return _look_of_page(told)
    told = told or kind_of_colours(whole.rgba, method == "tones")
    return Look(flat, modes, weights, shades, method, told)


def _look_of_page(told: Told) -> Look:
    return Look(None, np.empty((0, 3)), np.empty(0), None, "ink", told, is_page=True)


def _has_other_colours(picture: Picture, ground: Ground, flat: FlatColours, modes: NDArray[np.float64]) -> bool:
    """Whether a picture without flat places has thin lines, or patches that compression left of flat colours."""
    if len(_with_thin_lines(picture, ground, flat, modes, np.zeros(len(modes)))[0]):
        return True
    return flat.compressed and len(missed_colours(picture.rgba, ground.mask, _with_ground(modes, ground))[0]) > 0


def size_to_treat(picture: Picture, ground: Ground) -> float:
    """The finished size of a pixel of a photograph, mm, if all that is not background is cut."""
    columns = np.flatnonzero(~ground.mask.all(axis=0))
    return picture.mm_per_px(columns[-1] - columns[0] + 1)


def treated(
    picture: Picture, ground: Ground, settings: ColoursSettings, mm_per_px: float, most_px: int = MOST_PX,
    progress: Progress = SILENT, memory: Memory | None = None,
) -> Separation:
    """The first half of the step for a photograph: few classes with smooth borders.

    mm_per_px: of the picture, which the lengths in the settings are measured by; most_px: of what it is worked at; memory:
    keeps partial results between calls for the same picture. Raises: SettingsError when nothing is left; Cancelled.
    """
    return _by_hand(picture, treat(picture, ground.mask, settings, mm_per_px, most_px, progress, memory), settings)


def separated(
    picture: Picture, ground: Ground, settings: ColoursSettings, look: Look, progress: Progress = SILENT
) -> Separation:
    """The first half of the step for what is drawn: a colour for every pixel. What is too small is still there, so no size
    matters here.

    Raises: SettingsError when nothing is left beside the background; Cancelled.
    """
    picture = look.calmed or picture
    flat = look.flat or flat_colours(picture.rgba, ground.mask)
    shades, method = look.shades, look.method
    modes, weights = _all_modes(picture, ground, flat, look)
    pins = pin_colours(settings)
    modes, weights, pinned = pinned_modes(modes, weights, pins.astype(float))
    found = len(modes)
    findings: Findings = []
    if method == "ink" and pinned:
        modes, weights = modes[:pinned], weights[:pinned]
    elif method == "ink" and found:
        # Ink is the darkest distinct colour; whatever else there is lies between it and the paper.
        darkest = int(oklab(modes)[:, 0].argmin())
        modes, weights = modes[darkest : darkest + 1], weights[darkest : darkest + 1]
    elif settings.count is not None and method != "ink":
        modes, weights, beside = _twins_first(ground, flat.compressed, modes, weights, pinned)
        modes, weights, joined = reduce_modes(modes, weights, settings.count + beside, pinned + beside)
        findings += [Finding("joined", details={"one": _key(one), "other": _key(other), "name": plain_name(rgb_of(_key(one)))})
                     for one, other in joined[-MOST_JOINED:]]
    if shades is not None:
        modes = np.concatenate([modes, shades.colours.astype(float)])
    if not len(modes):
        modes = np.array([picture.rgba[~ground.mask][:, :3].mean(axis=0)])
    colours = np.clip(np.round(modes), 0, 255).astype(np.uint8)
    _, distinct = np.unique(colours, axis=0, return_index=True)
    colours = colours[np.sort(distinct)]
    labels = assign_by_mixes(premultiplied(picture.rgba), ground.mask, surfaces_of(ground, colours), flat.alike,
                             flat.compressed, Part(progress, 0.15, 1.0))
    labels = _part_twins(labels, ground, colours, flat.compressed)
    if shades is not None and shades.mask.any():
        numbers = [1 + int(np.flatnonzero((colours == own).all(axis=1))[0]) for own in shades.colours]
        labels = shades.put_on(labels, np.array(numbers, np.uint8))
    if settings.count is not None and method == "flat" and found < settings.count:
        findings.append(Finding("fewer_colours", details={"wanted": settings.count, "found": found}))
    found_so = Separation(labels, _entries(colours), method, found, tuple(findings), 1.0, flat.compressed)
    return _by_hand(picture, found_so, settings)


def _all_modes(
    picture: Picture, ground: Ground, flat: FlatColours, look: Look
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The distinct colours, those of thin lines and of patches that compression has left among them."""
    picture, ground, _ = _as_it_came(picture, ground)
    modes, weights = look.modes, look.weights
    if flat.compressed:
        modes, weights = _without_rim(picture, ground, modes, weights)
    if flat.restless:
        modes = settled_modes(picture.rgba, ground.mask, modes)
    modes, weights = _with_thin_lines(picture, ground, flat, modes, weights)
    if flat.compressed:
        missed, amounts = missed_colours(picture.rgba, ground.mask, _with_ground(modes, ground))
        modes, weights = np.concatenate([modes, missed]), np.concatenate([weights, amounts])
    return modes, weights


def _as_it_came(
    picture: Picture, ground: Ground, mask: NDArray[np.bool_] | None = None
) -> tuple[Picture, Ground, NDArray[np.bool_] | None]:
    """Picture, ground and a mask with the pixels that came in, where they were enlarged: between those there are no colours."""
    n = picture.enlarged
    if n == 1:
        return picture, ground, mask
    size = max(1, picture.width // n), max(1, picture.height // n)
    masks = [None if own is None else cv2.resize(own.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST) > 0
             for own in (ground.mask, mask)]
    small = np.asarray(cv2.resize(picture.rgba, size, interpolation=cv2.INTER_AREA), np.uint8)
    assert masks[0] is not None
    return replace(picture, rgba=small, enlarged=1), replace(ground, mask=masks[0]), masks[1]


def _modes_of(flat: FlatColours) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The distinct colours: near-alike ones are told apart where every area has just one value, and no shading blurs them."""
    if flat.alike == CLEAN and not flat.compressed:
        modes, weights = find_modes(flat.colours, flat.counts, FEWEST_CLEAN_PX, CLEAN_BANDWIDTH)
        if len(modes) and concentration(flat.colours, flat.counts, modes, JUST_AT) >= PURE_SHARE:
            return modes, weights
    modes, weights = find_modes(flat.colours, flat.counts, FEWEST_CLEAN_PX if flat.alike == CLEAN else FEWEST_PX)
    return without_echoes(modes, weights) if flat.compressed else (modes, weights)


def _without_rim(
    picture: Picture, ground: Ground, modes: NDArray[np.float64], weights: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The modes but for one that looks like the background and is found nowhere but along it: what compression left there."""
    alike = np.abs(modes - np.array(ground.rgb)).max(axis=1) <= COMPRESSED_TWIN
    if not alike.any() or not ground.mask.any() or not ground.has_colour:
        return modes, weights
    inner = flat_colours(picture.rgba, cv2.dilate(ground.mask.astype(np.uint8), np.ones((RIM, RIM), np.uint8)) > 0)
    for number in np.flatnonzero(alike):
        own = np.abs(inner.colours - modes[number]).max(axis=1) <= TWIN
        alike[number] = inner.counts[own].sum() < FEWEST_PX
    return modes[~alike], weights[~alike]


def _with_thin_lines(
    picture: Picture, ground: Ground, flat: FlatColours, modes: NDArray[np.float64], weights: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The modes and those of lines too thin to have flat places."""
    thin, amounts = thin_modes(*ridge_colours(picture.rgba, ground.mask), _with_ground(modes, ground), flat.compressed)
    return np.concatenate([modes, thin]), np.concatenate([weights, amounts])


def _with_ground(modes: NDArray[np.float64], ground: Ground) -> NDArray[np.float64]:
    return np.concatenate([modes, np.array([ground.rgb], float)]) if ground.mask.any() else modes


def _twins_first(
    ground: Ground, compressed: bool, modes: NDArray[np.float64], weights: NDArray[np.float64], pinned: int
) -> tuple[NDArray[np.float64], NDArray[np.float64], int]:
    """The modes in an order where those that may be the background follow the pinned ones, and how many they are.

    Paper that is shut in by the drawing is no colour that a person counts, so none of the colours asked for is given up for it.
    """
    alike = _is_twin(modes, ground, compressed)
    alike[:pinned] = False
    order = np.concatenate([np.arange(pinned), np.flatnonzero(alike), pinned + np.flatnonzero(~alike[pinned:])])
    return modes[order], weights[order], int(alike.sum())


def _is_twin(colours: NDArray, ground: Ground, compressed: bool) -> NDArray[np.bool_]:
    """Which colours look like the background's own. colours : (N, 3), levels."""
    if not ground.mask.any() or not ground.has_colour:
        return np.zeros(len(colours), bool)
    away = np.abs(colours.astype(float) - np.array(ground.rgb)).max(axis=1)
    return np.asarray(away <= (COMPRESSED_TWIN if compressed else TWIN))


def _part_twins(labels: NDArray[np.uint8], ground: Ground, colours: NDArray[np.uint8], compressed: bool) -> NDArray[np.uint8]:
    """Tell the background from a palette colour that looks the same: it is background where it hangs together with it, and
    where it is no more than a scrap that nobody was offered as enclosed."""
    alike = _is_twin(colours, ground, compressed)
    if not alike.any():
        return labels
    twin = int(np.flatnonzero(alike)[0]) + 1
    either = ((labels == 0) | (labels == twin)).astype(np.uint8)
    found = regions_of(either)
    regions, outside = found.numbers, found.sizes < (COMPRESSED_SCRAP_PX if compressed else SCRAP_PX)
    offered = [spot for spot in ground.enclosed if not spot.taken]
    outside[[regions[spot.y, spot.x] for spot in offered]] = False
    outside[regions[ground.mask]] = True
    result = labels.copy()
    twins = labels == twin
    twins |= ~ground.mask & (labels == 0)
    result[twins] = np.where(outside, 0, twin).astype(np.uint8)[regions[twins]]
    return result


def surfaces_of(ground: Ground, colours: NDArray[np.uint8]) -> NDArray[np.float64]:
    """The colour of every label as a surface. colours : (N, 3) uint8. Returns (N + 1, 6, 4) float64, label 0 first."""
    result = np.zeros((len(colours) + 1, 6, 4))
    result[0] = ground.surface
    result[1:, 0, :3] = colours
    result[1:, 0, 3] = 255.0
    if ground.kind in ("kept", "not_plain", "page"):
        result[0, 0] = -1e4  # no background: far from every colour
    return result


def _method(
    picture: Picture, flat: FlatColours, modes: NDArray[np.float64], ground: Ground, settings: ColoursSettings
) -> Method:
    if settings.kind in INK:
        return "ink"
    if settings.kind == "photo":
        return "tones"
    if settings.kind in ("clip-art", "screenshot") or _is_of_strokes(picture, flat, modes, ground):
        return "flat"
    if flat.share < FLAT_SHARE or not len(modes) or len(modes) > MOST_FLAT_COLOURS:
        return "tones"
    # What is left of a plain background beside edges says nothing about the drawing on it.
    drawn = np.abs(flat.colours - np.array(ground.rgb)).max(axis=1) > COMPRESSED_TWIN
    if not drawn.any() or not ground.mask.any():
        drawn[:] = True
    if flat.compressed and ground.kind == "plain" and flat.counts[drawn].sum() < 2 * FEWEST_PX:
        return "flat"  # strokes of a few pixels on plain ground
    least = DRAWN_SHARE if len(modes) > FEW_COLOURS else SMALL_DRAWN_SHARE
    return "flat" if concentration(flat.colours[drawn], flat.counts[drawn], modes) >= least else "tones"


def _is_of_strokes(picture: Picture, flat: FlatColours, modes: NDArray[np.float64], ground: Ground) -> bool:
    """Whether a picture on plain ground is drawn in strokes of a few pixels, which leave it no flat places."""
    if ground.kind != "plain" or len(modes) > FEW_COLOURS:
        return False
    modes, _ = _with_thin_lines(picture, ground, flat, modes, np.zeros(len(modes)))
    return bool(len(modes)) and soft_share(picture.rgba, ground.mask, _with_ground(modes, ground)) < SOFT_SHARE


def _by_hand(picture: Picture, separation: Separation, settings: ColoursSettings) -> Separation:
    """Name the pinned colours and make the changes by hand."""
    pins = {pin.colour: pin.name for pin in settings.pins}
    made, factor, findings = [replace(own, name=pins.get(own.key, own.name)) for own in separation.entries], separation.factor, []
    labels, scores = separation.labels, separation.scores
    if settings.palette_changes:
        rgb = picture.rgba
        if labels.shape != rgb.shape[:2]:
            rgb = np.asarray(cv2.resize(rgb, labels.shape[::-1], interpolation=cv2.INTER_AREA), np.uint8)
        labels, made, missed = changed_by_hand(labels, made, settings.palette_changes, rgb, picture.places.scaled(1 / factor))
        if scores is not None:
            new = np.full((len(made) + 1 - len(scores), *labels.shape), scores.min() - 1, np.float32)
            scores = exchanged(np.concatenate([scores, new]), separation.labels, labels, labels != separation.labels)
        if missed:
            findings = [Finding("palette_changes_left_out", "warning", details={"count": len(missed), "numbers": missed})]
    return replace(separation, labels=frozen(labels), entries=tuple(made), findings=(*separation.findings, *findings),
                   scores=frozen(scores) if scores is not None else None)


def _entries(colours: NDArray[np.uint8]) -> tuple[Entry, ...]:
    """colours : (N, 3) uint8."""
    return tuple(Entry((int(red), int(green), int(blue))) for red, green, blue in colours)


def _key(colour: NDArray[np.float64]) -> str:
    red, green, blue = (int(value) for value in np.clip(np.rint(colour), 0, 255))
    return hex_of((red, green, blue))


def pin_colours(settings: ColoursSettings) -> NDArray[np.uint8]:
    """(P, 3) uint8."""
    return np.array([rgb_of(pin.colour) for pin in settings.pins], np.uint8).reshape(-1, 3)
