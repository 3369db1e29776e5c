"""The Lines step: from a label map to a planar map of fitted cut lines.

Each chain of cracks is placed by the picture's anti-aliasing, fitted once, and used by both of its neighbours. Lines that
cross are cut where they do. Where that would lose an area, a chain is drawn more closely: about the crossing first, as a whole
where that does not help, down to the middles of its cracks, which never cross.
"""

from __future__ import annotations

import math
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import ComputationError
from bisectum.core.geom.bezier import area_shares, line_segments, signed_area
from bisectum.core.geom.corners import SPOILT
from bisectum.core.geom.crossings import find_crossings, pieces_of
from bisectum.core.geom.ellipse import fit_ellipse
from bisectum.core.geom.even_out import even_out
from bisectum.core.geom.fewer import fewer_nodes
from bisectum.core.geom.local_fit import arc_lengths, noise_of
from bisectum.core.geom.outline import corners_of, fit_outline, widen
from bisectum.core.geom.simplify import simplified
from bisectum.core.model.label_map import LabelMap
from bisectum.core.model.mend import cut_where_crossed, without_crossings
from bisectum.core.model.picture import frozen
from bisectum.core.model.placement import Placement
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.progress import SILENT, Part, Progress
from bisectum.core.raster.cracks import CrackGraph, crack_graph, labels_of_regions
from bisectum.core.steps.lines.blending import Blending, blending_of
from bisectum.core.steps.lines.fit_to_coverage import colours_beside, fit_chain, fit_group
from bisectum.core.steps.lines.fitted import FittedLines, with_corrections
from bisectum.core.steps.lines.junctions import clear_of_ends, place_junctions
from bisectum.core.steps.lines.level_places import level_places
from bisectum.core.steps.lines.patch import CLOSELY, patched
from bisectum.core.steps.lines.settings import LinesSettings
from bisectum.core.steps.lines.sharp_tips import CERTAIN, ROOM, fit_tips
from bisectum.core.steps.lines.small_parts import as_spot, with_round_ends
from bisectum.core.steps.lines.squared import square_up
from bisectum.core.steps.lines.subpixel import ChainPoints, PointFinder, has_hard_edges
from bisectum.core.steps.lines.zones import Zones

VERSION = 10
BATCH = 400  # chains between two looks at the progress
UNREFINED_TOLERANCE = 0.4  # px, at least, where an edge is known to the pixel only
NOISE_OF_CRACKS = 0.25  # px, of such an edge: a stair is off by half a pixel at most, and regularly so
STAIR_PASSES = 12  # of smoothing, where no edge is soft
STAIR_KEENNESS = 2.0  # times the angle of a corner: narrow bends of stairs look keen
EDGE_PER_UNREST = 2.3  # px that an edge is off for each share that the pixels beside it are
RINGING = 2.5  # times the noise of compressed edges: beside a corner they ring more than along them
RINGING_SHARE, RINGING_PX = 0.15, 8.0  # how far that goes: part of the way to the next corner; a block of JPEG's
LEVEL_PASSES = 3  # of smoothing of places on level lines
LEAST_FACE = 0.02  # px²
BUSY = 150  # chains from which a preview does without what takes longest and moves least
ABOUT_PX = 8.0  # from a place where lines still cross: what is drawn anew because of it
NOWHERE = np.zeros((0, 2))
MOST_PATCHES = 3  # times that it is drawn point by point about a crossing, or crack by crack, twice as far each time


class Level(IntEnum):
    """How closely a chain is drawn: each is safer against crossings than the one before, the last one cannot cross."""

    FITTED = 0
    CLOSE = 1
    POLYLINE = 2
    CRACKS = 3


def draw_lines(
    label_map: LabelMap, image: NDArray[np.uint8], surfaces: NDArray[np.float64], settings: LinesSettings,
    progress: Progress = SILENT, places: Placement | None = None, preview: bool = False,
) -> PlanarMap:
    """Cut lines of a label map, fitted and corrected. Values as in fit_lines and with_corrections (image : (H, W, 4) uint8).

    Raises: Cancelled; ComputationError.
    """
    places = places or Placement.plain(label_map.labels.shape[1])
    fitted = fit_lines(label_map, image, surfaces, settings, label_map.mm_per_px, progress, places, preview)
    return without_crossings(with_corrections(fitted, label_map, settings.corrections, places))


def fit_lines(
    label_map: LabelMap, image: NDArray[np.uint8], surfaces: NDArray[np.float64], settings: LinesSettings, mm_per_px: float,
    progress: Progress, places: Placement, preview: bool = False,
) -> FittedLines:
    """The lines as they are found, in pixels, without corrections by hand.

    image : (H, W, 4) uint8, premultiplied, and surfaces : (N, 6, 4), the labels' colours in it: what the edges are
    placed by. An image of another size than the labels is not looked at. mm_per_px: what the settings in mm are measured by.
    places: where marks lie on the labels. preview: of a busy picture corners are left where the points have them.
    Raises: Cancelled; ComputationError where lines cross whatever is done.
    """
    graph = crack_graph(label_map.labels)
    progress.report(0.1)
    drawing = _Drawing(label_map, image, surfaces, Zones(settings, places, mm_per_px), graph, preview, progress)
    drawing.fit_all(Part(progress, 0.35, 0.85))
    return drawing.fitted(drawing.repair(Part(progress, 0.85, 1.0)))


class _Drawing:
    """The lines of one picture while they are being fitted; pixels."""

    def __init__(self, label_map: LabelMap, image: NDArray[np.uint8], surfaces: NDArray[np.float64],
                 zones: Zones, graph: CrackGraph, preview: bool, progress: Progress) -> None:
        self.label_map, self.graph = label_map, graph
        self.labels = labels_of_regions(graph, label_map.labels)
        self.chains = len(graph.first) - 1
        self.rough = preview and self.chains > BUSY
        self.by_picture = label_map.scores is None and image.shape[:2] == label_map.labels.shape
        self.blending = blending_of(image, surfaces, label_map.labels, label_map.compressed) if self.by_picture else Blending(
            image, np.arange(256.0), surfaces)
        self.found = self._places(progress)
        progress.report(0.3)
        self.junctions = place_junctions(graph, self.found)
        self.hard = self.by_picture and has_hard_edges(self.found)
        self.noise = NOISE_OF_CRACKS if self.hard else self._noise()
        self.noises = np.where(self.found.refined, self.noise * self._faintness(), NOISE_OF_CRACKS)
        self.zones = zones
        self.zones.corner *= STAIR_KEENNESS if self.hard or label_map.scores is not None else 1.0
        # Places on smooth scores are a smooth line as they are; while a hand moves nobody counts nodes.
        self.least = Level.POLYLINE if preview and label_map.scores is not None and self.chains > BUSY else Level.FITTED
        self.level, self.patches = np.full(self.chains, self.least, np.uint8), np.zeros(self.chains, np.uint8)
        self.curves: list[NDArray[np.float64]] = [np.empty((0, 4, 2))] * self.chains
        self.straight: list[NDArray[np.bool_]] = [np.empty(0, bool)] * self.chains
        self.deviation = np.zeros(self.chains)
        self.crossed: dict[int, NDArray[np.float64]] = {}
        longest = int(np.diff(self.found.first).max()) if self.chains else 1
        self._corner_space = (np.empty(2 * longest + 16, np.int64), np.empty((2 * longest + 16, 2)),
                              np.empty(2 * longest + 16), np.empty((2 * longest + 16, 10)))
        self._space = np.empty((2 * longest + 16, 4, 2)), np.empty(2 * longest + 16, bool), np.empty(1)

    def _places(self, progress: Progress) -> ChainPoints:
        """Places on the edges: where smooth scores are equal, or by anti-aliasing."""
        if self.label_map.scores is not None:
            return level_places(self.label_map.scores, self.label_map.labels, self.graph, LEVEL_PASSES)
        finder = PointFinder(self.blending, self.label_map.labels, self.graph, self.by_picture)
        for start in range(0, self.chains, BATCH):
            progress.raise_if_cancelled()
            finder.find(start, min(self.chains, start + BATCH))
        return finder.found()

    def _noise(self) -> float:
        """Deviation of refined places, px: the median over the edges' length, and what the unrest beside the edges says.

        The first sees grain; JPEG's ringing bends edges smoothly, which only the second sees.
        """
        values, weights = [], []
        for number in np.flatnonzero(self.found.refined).tolist():
            own = self._points(number)
            noise = noise_of(own, arc_lengths(own))
            if noise >= 0.0:
                values.append(noise)
                weights.append(len(own))
        # Coarse anti-aliasing errs on slanting edges only: level ones, which are exact, must not speak for all.
        order = np.argsort(values)
        reached = np.cumsum(np.array(weights)[order])
        typical = values[order[np.searchsorted(reached, reached[-1] / 2)]] if values else 0.02
        return max(float(typical), EDGE_PER_UNREST * self.found.unrest)

    def _faintness(self) -> NDArray[np.float64]:
        """How many times more grain moves each chain than the median one: as its two colours lie nearer. At least 1."""
        colours = np.vstack([self.blending.surfaces[self.labels, 0], np.zeros(4)])
        contrast = np.sqrt(((colours[self.graph.sides[:, 0]] - colours[self.graph.sides[:, 1]]) ** 2).sum(axis=1))
        inner = self.found.refined & (self.graph.sides >= 0).all(axis=1)
        if not inner.any():
            return np.ones(self.chains)
        return np.clip(np.median(contrast[inner]) / np.maximum(contrast, 1.0), 1.0, None)

    def _points(self, number: int) -> NDArray[np.float64]:
        return self.found.points[self.found.first[number] : self.found.first[number + 1]]

    def fit_all(self, progress: Progress) -> None:
        for number in range(self.chains):
            if number % BATCH == 0:
                progress.raise_if_cancelled()
                progress.report(number / self.chains)
            self.fit(number)
        if not self.chains:
            return
        height, width = self.label_map.labels.shape
        self.curves, self.junctions, moved = square_up(self.curves, self.straight, self.found.refined, self.graph.ends,
                                                       self.junctions, self.noises, (width, height))
        self.deviation[self.found.refined] += moved

    def _outline(self, number: int) -> tuple[NDArray[np.float64], bool]:
        """The points a chain is fitted through, ends included for an open one, and whether it is closed."""
        own = self._points(number)
        start, end = self.graph.ends[number]
        if start < 0:
            return own, True
        first, last = self.junctions[start], self.junctions[end]
        if self.found.refined[number]:
            low, high = clear_of_ends(own, first, last, SPOILT)
            own = own[low:high]
        whole = np.empty((len(own) + 2, 2))
        whole[0], whole[1:-1], whole[-1] = first, own, last
        return whole, False

    def fit(self, number: int) -> None:
        """Draw one chain as its level says."""
        level = self.level[number]
        points, closed = self._outline(number)
        if level == Level.CRACKS or (closed and len(points) < 6):
            self._draw_polyline(number, self._crack_places(number, closed and level != Level.CRACKS), closed)
        elif level == Level.POLYLINE:
            ring = np.concatenate([points, points[:1]]) if closed else points
            self._draw_polyline(number, ring[simplified(np.ascontiguousarray(ring), 0.2)], False)
        elif not (closed and self.found.refined[number] and self._draw_ellipse(number, points)):
            self._draw_fitted(number, points, closed, level == Level.CLOSE)

    def _draw_fitted(self, number: int, measured: NDArray[np.float64], closed: bool, close: bool) -> None:
        refined = bool(self.found.refined[number])
        noise = float(self.noises[number])
        curves, straight, worst = self._space
        points = np.array(measured)  # its own: they may be smoothed, and the chain may have to be drawn anew
        zones = self.zones.of(points)
        present = self.zones.present(zones)
        corners = self._corner_space
        left, right = self.graph.sides[number]
        by_picture = self.by_picture and refined and not close and left >= 0 and right >= 0 and not self.hard and not self.rough
        keenest = float(min(self.zones.corner[zone] for zone in present))
        smooths = any(self.zones.passes[zone] for zone in present)
        count = corners_of(points, closed, noise, keenest, ROOM if by_picture else CERTAIN, *corners)
        if by_picture and count:
            seen, rings = self.blending, RINGING if self.label_map.compressed else 1.0
            count = fit_tips(points, seen.image, seen.light, seen.surfaces, self.labels[left], self.labels[right], noise * rings,
                             keenest, count, *corners)
        if self.label_map.compressed and refined:
            widen(points, count, closed, RINGING_SHARE, RINGING_PX, *corners[1:3])
        if any(present):
            count = self.zones.keen(zones, count, corners)
        for zone in present if smooths and not close else ():
            if self.zones.passes[zone]:
                even_out(points, closed, zones != zone, count, corners[0], self.zones.passes[zone])
        if any(present):
            count = self.zones.with_borders(points, closed, zones, count, corners)
        tolerances = self.zones.tolerances(zones, closed, count, corners[0])
        if self.hard:
            even_out(points, closed, np.zeros(len(points), bool), count, corners[0], STAIR_PASSES)
            tolerances = np.maximum(UNREFINED_TOLERANCE, tolerances + NOISE_OF_CRACKS)
        else:
            tolerances = tolerances + 3.5 * noise if refined else np.maximum(UNREFINED_TOLERANCE, tolerances)
        if close:
            tolerances = np.minimum(tolerances, 0.12 if refined else 0.3)
        exact = refined and self.by_picture
        count = fit_outline(points, closed, count, *corners, noise, exact, tolerances, curves, straight, worst)
        if by_picture and not smooths:
            seen = self.blending
            fit_chain(curves[:count], straight[:count], closed, *points[len(points) // 2], seen.image, seen.light, seen.surfaces,
                      self.labels, self.graph.regions, left, right)
        curves, straight = curves[:count].copy(), straight[:count].copy()
        if by_picture and not smooths:
            curves, straight = self._with_small_parts(number, points, closed, curves, straight)
        smoothed = math.sqrt(float(((points - measured) ** 2).sum(axis=1).max())) if smooths or self.hard else 0.0
        self._keep(number, curves, straight, float(worst[0]) + smoothed)
        if self.zones.simplifies and not close:
            self._simplify(number, closed)

    def _with_small_parts(
        self, number: int, points: NDArray[np.float64], closed: bool, curves: NDArray[np.float64], straight: NDArray[np.bool_]
    ) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
        """The chain with the ends of its strokes round, or as a round spot, where the pixels say so."""
        left, right = self.graph.sides[number]
        colours = np.empty((2, 4))
        seen = self.blending
        colours_beside(*points[len(points) // 2], seen.image, seen.surfaces, self.labels[left], self.labels[right], colours)

        def settle(trial: NDArray[np.float64], flat: NDArray[np.bool_], first: int, nodes: int) -> float:
            return float(fit_group(trial, flat, closed, first, nodes, self.blending.image, self.blending.light, colours,
                                      self.graph.regions, left, right))

        if closed:
            spot = as_spot(curves, straight, points, signed_area(curves) > 0, settle)
            if spot is not None:
                return spot
        with_round_ends(curves, straight, closed, settle)
        return curves, straight

    def _simplify(self, number: int, closed: bool) -> None:
        bounds = self.zones.simplify[self.zones.of(self.curves[number].mean(axis=1))]
        if bounds.any():
            fewer, lines, moved = fewer_nodes(self.curves[number], self.straight[number], closed, bounds)
            self._keep(number, fewer, lines, self.deviation[number] + moved)

    def _draw_ellipse(self, number: int, points: NDArray[np.float64]) -> bool:
        """Draw a closed chain as a circle or an ellipse, if it is one."""
        zones = self.zones.of(points)
        if len(points) < 16 or np.ptp(zones):
            return False
        tolerance = float(self.zones.tolerance[zones[0]])
        ellipse = fit_ellipse(points)
        if ellipse is None or ellipse.b < 3.0 or ellipse.a > 12 * ellipse.b:
            return False
        distances = ellipse.distances(points)
        away = float(distances.max())
        noise = float(self.noises[number])
        if away > min(tolerance, 0.06) + 8.0 * noise or math.sqrt(distances @ distances / len(points)) > max(
                0.03, 1.9 * noise):
            return False
        arcs = 4 if 2.7e-4 * ellipse.a <= max(tolerance, 0.06) else 8
        around = signed_area(line_segments(np.concatenate([points, points[:1]])))
        self._keep(number, ellipse.segments(arcs, around > 0), np.zeros(arcs, bool), away)
        return True

    def _crack_places(self, number: int, corners: bool) -> NDArray[np.float64]:
        """Middles of a chain's cracks with its ends, or the corners of its cracks for a tiny closed one."""
        vertices = self.graph.vertices[self.graph.first[number] : self.graph.first[number + 1], ::-1].astype(np.float64)
        if corners:
            return vertices[:-1]
        middles = (vertices[1:] + vertices[:-1]) / 2
        start, end = self.graph.ends[number]
        return middles if start < 0 else np.concatenate([self.junctions[start][None], middles, self.junctions[end][None]])

    def _draw_polyline(self, number: int, points: NDArray[np.float64], closed: bool) -> None:
        if closed:
            points = np.concatenate([points, points[:1]])
        curves = line_segments(points)
        self._keep(number, curves, np.ones(len(curves), bool), 0.0)

    def _keep(self, number: int, curves: NDArray[np.float64], straight: NDArray[np.bool_], deviation: float) -> None:
        start, end = self.graph.ends[number]
        lasting = (curves != curves[:, :1]).any(axis=(1, 2))
        if not lasting.all() and lasting.any():  # two corners may have met
            curves, straight = curves[lasting], straight[lasting]
        curves[1:, 0] = curves[:-1, 3]
        if start >= 0:
            curves[0, 0], curves[-1, 3] = self.junctions[start], self.junctions[end]
        else:
            curves[-1, 3] = curves[0, 0]
        self.curves[number], self.straight[number], self.deviation[number] = curves, straight, deviation

    def repair(self, progress: Progress) -> NDArray[np.float64]:
        """Redraw chains that cross until none does.

        Returns a place in each that was redrawn, where it crossed if it did; (K, 2). Raises: ComputationError, Cancelled.
        """
        for round_ in range(24):
            progress.raise_if_cancelled()
            if not self.chains:
                return NOWHERE
            pieces, segment = pieces_of(np.concatenate(self.curves), 0.02)
            owners = np.repeat(np.arange(self.chains), [len(curves) for curves in self.curves])
            crossing = find_crossings(pieces, owners[segment])
            places: dict[int, list[tuple[float, float]]] = {}
            for one, other, x, y in crossing:
                for number in {one, other}:
                    places.setdefault(number, []).append((x, y))
            touched = sorted(self._not_cut_apart(places) if places else set()) or sorted(self._of_lost_faces())
            if not touched:
                redrawn = np.flatnonzero((self.level > self.least) | (self.patches > 0)).tolist()
                return np.array([self.crossed.get(number, self._points(number)[0]) for number in redrawn]).reshape(-1, 2)
            self.crossed |= {number: np.array(places[number][0]) for number in touched if number in places}
            touched = [number for number in touched if not self._patch(number, places.get(number, []))]
            if round_ >= 16:  # nothing local has helped: the cracks themselves, everywhere
                touched = list(range(self.chains))
                self.level[:] = Level.CRACKS
            for count, number in enumerate(self._raise(touched)):
                if count % BATCH == 0:
                    progress.raise_if_cancelled()
                self.fit(number)
        raise ComputationError("The cut lines of this picture could not be kept from crossing.", code="lines_cross")

    def _not_cut_apart(self, places: dict[int, list[tuple[float, float]]]) -> set[int]:
        """The chains whose crossings cannot just be cut, as those of tips that touch an outline can: an area would be lost, or
        lines would still cross. places: where each chain crosses others.
        """
        mended = cut_where_crossed(with_corrections(self.fitted(NOWHERE), self.label_map, (), Placement.plain(1.0)))
        lost = np.atleast_1d(np.isin(self.graph.sides, mended.lost).any(axis=1))
        result = {number for number in places if lost[number]}
        faults = list(mended.planar.faults())
        for fault in faults:
            at = np.array([fault.x, fault.y]) / self.label_map.mm_per_px
            result |= {number for number, own in places.items() if np.hypot(*(np.array(own) - at).T).min() < ABOUT_PX}
        return result or (set(places) if faults or len(mended.lost) else result)

    def _patch(self, number: int, places: list[tuple[float, float]]) -> bool:
        """Draw a chain through its points where it crosses, and only there; where that has not helped, through its cracks.

        Returns whether that could be tried.
        """
        if self.level[number] > Level.FITTED or not places:
            return False
        while self.patches[number] < 2 * MOST_PATCHES:
            by_cracks, times = divmod(int(self.patches[number]), MOST_PATCHES)
            self.patches[number] += 1
            points, closed = self._outline(number)
            if by_cracks:
                points = self._crack_places(number, False)
            found = patched(self.curves[number], self.straight[number], points, closed, np.array(places), SPOILT * 2.0**times,
                            0.0 if by_cracks else CLOSELY)
            if found is not None:
                break
        else:
            return False
        self._keep(number, *found, float(self.deviation[number]))
        return True

    def _of_lost_faces(self) -> set[int]:
        """Chains around faces that have shrunk to nothing, their lines falling together."""
        starts = np.cumsum([0, *(len(curves) for curves in self.curves[:-1])])
        area = np.add.reduceat(area_shares(np.concatenate(self.curves)), starts)
        faces = np.zeros(self.graph.region_count + 1)
        np.add.at(faces, self.graph.sides[:, 1], area)
        np.subtract.at(faces, self.graph.sides[:, 0], area)
        lost = faces[:-1] < LEAST_FACE
        if not lost.any():
            return set()
        around = np.append(lost, False)[self.graph.sides].any(axis=1)
        return {int(number) for number in np.flatnonzero(around & (self.level < Level.CRACKS))}

    def _raise(self, touched: list[int]) -> list[int]:
        """Draw these chains one level closer. Returns all chains that must be drawn anew."""
        again = set(touched)
        for number in touched:
            self.level[number] = min(Level.CRACKS, self.level[number] + 1)
            if self.level[number] == Level.CRACKS:
                for junction in self.graph.ends[number]:
                    if junction >= 0:
                        self.junctions[junction] = self.graph.junctions[junction, ::-1]
                        again |= {int(half) >> 1 for half in self.graph.spokes[junction] if half >= 0}
        return sorted(again)

    def fitted(self, repaired: NDArray[np.float64]) -> FittedLines:
        return FittedLines(tuple(frozen(own) for own in self.curves), tuple(frozen(own) for own in self.straight),
                           frozen(self.junctions), frozen(self.labels), self.graph, float(self.deviation.max(initial=0.0)),
                           frozen(repaired))
