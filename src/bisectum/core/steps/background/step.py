"""The Background step: what is taken away, and how the picture looks without it.

First the ground is found: transparency, else the border's colour flooded from the border, else a photograph's subject, if it is
certain; else all is kept, and cut-outs are offered.
What is done by hand follows: strokes, which the subject is solved with anew; spots; brush marks. Then the outline is moved,
smoothed and sifted. A plain ground nobody has touched keeps its colours for the later steps, which place lines by them;
any other becomes transparency.
"""

from __future__ import annotations

import math
from collections.abc import MutableMapping
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.model.ground import Cutout, Ground, GroundKind
from bisectum.core.model.picture import Picture, frozen
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster import networks
from bisectum.core.raster.colour import LINEAR_OF_SRGB, oklab, oklab_image, rgb_of
from bisectum.core.raster.flood import distance_from_field, distance_from_surface, flood_from_border
from bisectum.core.raster.resample import reduce_to, reduced_mask
from bisectum.core.raster.surface import TERMS, basis
from bisectum.core.steps.background.border import STEPS_PER_UNIT, Border, look_at_border, reach_of
from bisectum.core.steps.background.brush import brushed
from bisectum.core.steps.background.cutouts import MOST_OUTSIDE, certain_cutout, cutouts_of, is_sure, what_stands_out
from bisectum.core.steps.background.edges import moved, only_parts, smoothed, without_fuzz
from bisectum.core.steps.background.enclosed import CERTAIN, Expected, enclosed_spots, is_of_one_colour
from bisectum.core.steps.background.field import coded_surface, ground_field
from bisectum.core.steps.background.network import Seen, see_subject
from bisectum.core.steps.background.outline import outlined
from bisectum.core.steps.background.refine import refined
from bisectum.core.steps.background.saliency import saliency
from bisectum.core.steps.background.settings import BackgroundSettings, Mode, Touch
from bisectum.core.steps.background.shadow import Shadow, find_shadow
from bisectum.core.steps.background.spot import spot_at
from bisectum.core.steps.background.strokes import only_touched, with_strokes
from bisectum.core.steps.background.subject import SOLVED_PX, Guess, score

VERSION = 6
GRAINY = 0.004  # OKLab
SHADOW_PX = 300_000  # pixels that shadow is looked for in
SPECK_PX = 14  # smaller bits in a grainy ground are grain
SOLVED_OFF, FINE_BAND = 1.5, 0.25  # of its pixels a mask solved in a small picture may be off, and one led along sharp edges
OUTLINE_BAND = 2.0  # px a mask of full size may be off
CLOSE_CALL, LEAST_LIKE = 0.1, 0.35  # of the score: what two cuts differ by, and what a right one has at least
HALF_PLAIN = 0.3  # of the border: with less on it, flooding is no second choice

BY_HAND = ("touches", "loose_parts", "edge_mm", "edge_smooth_mm", "halo", "parts_kept", "smallest_part_mm2", "reverse")

Memory = MutableMapping[str, Any]


def find_background(
    picture: Picture, settings: BackgroundSettings, progress: Progress = SILENT, memory: Memory | None = None
) -> Ground:
    """The ground of a picture.

    memory: keeps partial results between calls, by content. Raises: SettingsError for a colour that is not given; Cancelled.
    """
    finder = _Finder(picture, settings, progress, memory)
    found = finder.remembered(f"found/{settings.digest_without(*BY_HAND)}", finder.ground)
    return finder.by_hand(found) if finder.is_touched() else found


def cleared_picture(picture: Picture, ground: Ground) -> NDArray[np.uint8]:
    """The picture without its ground, whatever that was told by. Returns (H, W, 4) uint8, straight alpha."""
    if ground.cleared is not None:
        return ground.cleared
    if not ground.has_colour or not ground.mask.any():
        return picture.rgba
    result = picture.rgba.copy()
    shares = refined(picture.rgba, ~ground.mask, OUTLINE_BAND)
    result[..., :3] = without_fuzz(picture.rgba, shares)
    result[..., 3] = np.minimum(shares, picture.rgba[..., 3])
    return result


class _Finder:
    def __init__(self, picture: Picture, settings: BackgroundSettings, progress: Progress, memory: Memory | None) -> None:
        self.picture, self.settings, self.progress, self.memory = picture, settings, progress, memory
        self.rgba = picture.rgba
        self.clear = picture.rgba[..., 3] < 128
        self.outside = 0

    def ground(self) -> Ground:
        """The ground as it is found, before anything is done by hand."""
        mode = self.settings.mode
        if mode == "keep":
            return self._nothing("kept", "auto")
        if mode == "auto" and self.clear.any():
            kind: GroundKind = "cleared_all" if self.clear.all() else "transparent"
            return Ground(frozen(self.clear), frozen(np.zeros((TERMS, 4))), kind, 0.0)
        self.progress.report(0.1)
        if mode == "colour":
            return self._flooded(self._of_colour())
        if mode == "subject":
            return self._chosen_subject()
        border = look_at_border(self.rgba)
        if mode == "border" or (border.surely_plain and not border.shaded):
            return self._flooded(border)
        if not border.plain:
            return self._certain_subject(border)
        flooded = self._flooded(border)
        return flooded if self._looks_right(flooded, border) else self._certain_subject(border)

    def _nothing(self, kind: GroundKind, runner_up: str | None) -> Ground:
        return Ground(frozen(np.zeros(self.clear.shape, bool)), frozen(np.zeros((TERMS, 4))), kind, 0.0, runner_up=runner_up)

    def _of_colour(self) -> Border:
        if self.settings.colour is None:
            raise SettingsError("No background colour was given; write one such as #ffffff.")
        flat = np.zeros((TERMS, 3))
        flat[0] = oklab(np.array(rgb_of(self.settings.colour), np.uint8))
        return Border(flat, 1.0, 0.0)

    # A ground of one colour

    def _flooded(self, border: Border) -> Ground:
        self.progress.raise_if_cancelled()
        if border.shaded:
            field = self.remembered("field", lambda: ground_field(oklab_image(self._small()[0]), border))
            distances = distance_from_field(self.rgba, field, LINEAR_OF_SRGB)

            def expected(y: NDArray[np.intp], x: NDArray[np.intp]) -> NDArray[np.floating]:
                return field[y * field.shape[0] // self.clear.shape[0], x * field.shape[1] // self.clear.shape[1]]
        else:

            def expected(y: NDArray[np.intp], x: NDArray[np.intp]) -> NDArray[np.floating]:
                return basis(y, x, *self.clear.shape) @ border.surface

            distances = distance_from_surface(self.rgba, border.surface, LINEAR_OF_SRGB)
        if self.clear.any():
            distances[self.clear] = 0
        reach = self.settings.reach / 100.0 if self.settings.reach is not None else reach_of(distances)
        level = min(254, round(reach * STEPS_PER_UNIT))
        self.progress.report(0.4)
        self.progress.raise_if_cancelled()
        mask = flood_from_border(distances, np.uint8(level))
        if border.noise > GRAINY:
            mask = _without_specks(mask)
        self.progress.report(0.5)
        self.progress.raise_if_cancelled()
        shadow = self._shadow(expected, mask, border) if self.settings.shadow else None
        self.progress.report(0.6)
        shaded: Expected = expected
        if shadow is not None:
            distances, shaded = self._with_shut_in(distances, mask, level, expected, *shadow)
        spots, member = enclosed_spots(self.rgba, border, shaded, distances, mask, level)
        surface, fits = coded_surface(self.rgba, mask)
        one_colour = bool(spots) and is_of_one_colour(self.rgba, mask, ~mask & (member < 0))
        taken = self._taken([spot.likelihood for spot in spots], member, one_colour)
        if taken.any():
            mask = mask | np.append(taken, False)[member]
        spots = tuple(spot.with_taken(bool(gone)) for spot, gone in zip(spots, taken, strict=True))
        kind: GroundKind = "cleared_all" if mask.all() else "shaded" if border.shaded else "plain"
        second: Mode = "auto" if self.settings.mode in ("border", "colour") else "subject"
        if shadow is not None and kind != "cleared_all":
            shares = self._without_shadow(mask, shadow[0].cast, shadow[1])
            return self._cleared(shares, kind, second,
                                 Ground(frozen(mask), frozen(surface), kind, reach, spots, second, has_shadow=True,
                                        one_colour=one_colour))
        if not fits and kind != "cleared_all":  # later steps could not go by such a ground's colour
            shares = np.where(mask, 0, refined(self.rgba, ~mask, OUTLINE_BAND)).astype(np.uint8)
            found = Ground(frozen(mask), frozen(surface), kind, reach, spots, second, one_colour=one_colour)
            return self._cleared(shares, kind, second, found)
        return Ground(frozen(mask), frozen(surface), kind, reach, spots, second, one_colour=one_colour)

    def _shadow(self, expected: Expected, mask: NDArray[np.bool_], border: Border) -> tuple[Shadow, float] | None:
        """The shadow cast on a ground, reduced, and by how much; None where there is none. mask: what is ground."""
        if mask.all() or not mask.any():
            return None
        small, n = reduce_to(self.rgba, SHADOW_PX)
        height, width = small.shape[:2]
        rows, columns = (np.minimum((index * n + n / 2).astype(np.intp), limit - 1)
                         for index, limit in zip(np.indices((height, width)), mask.shape, strict=True))
        field = np.ascontiguousarray(expected(rows, columns), np.float32)
        ground = reduced_mask(mask, height, width, int(n))
        if not ground.any():
            return None
        shadow = find_shadow(oklab_image(small), field, ground, border.noise)
        return (shadow, n) if shadow is not None else None

    def _with_shut_in(
        self, distances: NDArray[np.uint8], mask: NDArray[np.bool_], level: int, expected: Expected, shadow: Shadow, n: float
    ) -> tuple[NDArray[np.uint8], Expected]:
        """Distances and expected colours by which shadow that is shut in counts as the ground it lies on."""
        if not shadow.shut_in.any():
            return distances, expected
        height, width = mask.shape
        rows, columns = np.arange(height) // int(n), np.arange(width) // int(n)
        rows, columns = np.minimum(rows, shadow.cast.shape[0] - 1), np.minimum(columns, shadow.cast.shape[1] - 1)
        dark = shadow.shut_in[rows[:, None], columns] & ~mask

        def shaded(y: NDArray[np.intp], x: NDArray[np.intp]) -> NDArray[np.floating]:
            light = np.where(dark[y, x], shadow.light[rows[y], columns[x]], 1.0)
            return expected(y, x) * light[..., None]

        return np.where(dark, np.minimum(distances, level), distances).astype(np.uint8), shaded

    def _without_shadow(self, mask: NDArray[np.bool_], shadow: NDArray[np.bool_], n: float) -> NDArray[np.uint8]:
        """The shares of the subject: found anew beside the shadow, as they are by the ground's colour elsewhere."""
        import cv2

        height, width = self.clear.shape
        small = reduced_mask(mask, shadow.shape[0], shadow.shape[1], int(n))
        size = (math.ceil(width / n) * int(n), math.ceil(height / n) * int(n))
        disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (7, 7))
        about = cv2.resize(cv2.dilate(shadow.astype(np.uint8), disc), size, interpolation=cv2.INTER_NEAREST)[:height, :width] > 0
        return np.where(about, self._refined_from(~(small | shadow), n), refined(self.rgba, ~mask, OUTLINE_BAND))

    def _taken(self, likely: list[float], member: NDArray[np.int32], one_colour: bool) -> NDArray[np.bool_]:
        """Which enclosed spots go. member : (H, W), the spot of each pixel; one_colour: all that is drawn has one."""
        rule = self.settings.enclosed
        taken = np.array([rule == "all" or (rule == "auto" and (one_colour or value >= CERTAIN)) for value in likely], bool)
        height, width = member.shape
        for choice in self.settings.enclosed_choices:
            x, y = self.picture.places.to_px(np.array([choice.x, choice.y]))[0]
            column, row = math.floor(x), math.floor(y)
            near = member[max(0, row - 1) : row + 2, max(0, column - 1) : column + 2] if row > -2 and column > -2 else member[:0]
            numbers = near[near >= 0]
            if numbers.size and row <= height and column <= width:
                taken[numbers[0]] = choice.take
        return taken

    def _looks_right(self, flooded: Ground, border: Border) -> bool:
        """Whether what a flood leaves looks as much like a subject as the best cut does.

        Where the ground is surely plain it is wrong only if that looks like none, and the networks see more of one.
        """
        small, n = self._small()
        lab = oklab_image(small)
        left = ~reduced_mask(flooded.mask, small.shape[0], small.shape[1], int(n))
        salient = saliency(lab)
        likeness = score(lab, salient, left)
        if border.surely_plain and likeness >= LEAST_LIKE:
            return True
        seen = self._seen()
        if border.surely_plain:
            return seen is None or seen.outside(left) <= MOST_OUTSIDE
        if seen is not None and is_sure(seen):
            return likeness >= score(lab, salient, seen.best)
        guess = self._guess(small)
        return score(lab, guess.likely, left) >= max(LEAST_LIKE, guess.score - CLOSE_CALL)

    def _seen(self) -> Seen | None:
        """What the networks see, where there are any."""
        if not networks.are_provided():
            return None
        whole, small = (np.ascontiguousarray(rgba[..., :3]) for rgba in (self.rgba, self._small()[0]))
        found: Seen = self.remembered("seen", lambda: see_subject(whole, small))
        return found

    def _guess(self, small: NDArray[np.uint8]) -> Guess:
        guess: Guess = self.remembered("subject", lambda: what_stands_out(self.rgba, small))
        return guess

    # The ground around a subject

    def _certain_subject(self, border: Border) -> Ground:
        """The ground around a subject that is certain; else nothing is taken away."""
        offered, certain = self._offered()
        if certain is None:
            return replace(self._nothing("not_plain", "subject"), cutouts=offered)
        return self._around(certain, offered, "border" if border.agreeing >= HALF_PLAIN else "keep")

    def _chosen_subject(self) -> Ground:
        """The ground around the cut-out that was asked for, or around the most likely one."""
        offered, _ = self._offered()
        named = [one for one in offered if one.name == self.settings.cutout]
        chosen = (named or offered)[:1]
        return self._around(chosen[0], offered, "auto") if chosen else self._nothing("not_plain", "keep")

    def _offered(self) -> tuple[tuple[Cutout, ...], Cutout | None]:
        """The cut-outs there are, the most likely first, and the one that may be made without asking."""
        seen = self._seen()
        self.progress.raise_if_cancelled()
        guess = self._guess(self._small()[0])
        return cutouts_of(seen, guess), certain_cutout(seen, guess)

    def _around(self, cutout: Cutout, offered: tuple[Cutout, ...], second: Mode) -> Ground:
        self.progress.report(0.6)
        if cutout.fine is not None:
            shares = self._refined_from(cutout.fine, math.ceil(self.clear.shape[0] / cutout.fine.shape[0]), FINE_BAND)
        else:
            self.progress.raise_if_cancelled()
            shares = outlined(self.rgba, cutout.mask)
        return replace(self._cleared(shares, "subject", second), cutouts=offered, cutout=cutout.name)

    def _small(self) -> tuple[NDArray[np.uint8], float]:
        return reduce_to(self.rgba, SOLVED_PX)

    def remembered(self, what: str, work: Any) -> Any:
        """A partial result, worked out if it is not in memory."""
        if self.memory is None:
            return work()
        if what not in self.memory:
            self.memory[what] = work()
        return self.memory[what]

    def _refined_from(self, mask: NDArray[np.bool_], n: float, off: float = SOLVED_OFF) -> NDArray[np.uint8]:
        """Shares at full size from a mask reduced by n, whose outline may be off by so many of its pixels."""
        import cv2

        height, width = self.clear.shape
        if n > 1:
            size = (math.ceil(width / n) * int(n), math.ceil(height / n) * int(n))
            grown = cv2.resize(mask.astype(np.uint8) * np.uint8(255), size, interpolation=cv2.INTER_LINEAR)
            mask = grown[:height, :width] > 127
        self.progress.raise_if_cancelled()
        return refined(self.rgba, mask, off * n + 2.0)

    # By hand

    def is_touched(self) -> bool:
        s = self.settings
        return bool(s.touches or s.edge_mm or s.edge_smooth_mm or s.reverse or s.parts_kept != "all" or s.smallest_part_mm2)

    def by_hand(self, found: Ground) -> Ground:
        """What is found, with everything done by hand."""
        touches = self.settings.touches
        places = self.picture.places
        shape = self.clear.shape
        inside = self._hits(touches)
        self.outside = int(len(inside) - inside.sum())
        here = [touch for touch, hit in zip(touches, inside, strict=True) if hit]
        strokes = tuple(touch for touch in here if touch.kind in ("keep", "drop"))
        spots = [touch for touch in here if touch.kind.startswith("spot")]
        marks = tuple(touch for touch in here if touch.kind in ("clear", "restore"))
        if strokes:
            small, n = self._small()
            before = ~reduced_mask(found.mask, small.shape[0], small.shape[1], int(n))
            keeps = tuple(stroke for stroke in strokes if stroke.kind == "keep")
            all_kept = bool(keeps) and not found.mask.any()  # who says what stays then does not want all of it
            start = found.cutouts[0].mask if all_kept and found.kind == "not_plain" and found.cutouts else before
            seen = self._seen()
            solved = with_strokes(np.ascontiguousarray(small[..., :3]), start, seen.likely if seen is not None else None, strokes,
                                  places.scaled(1 / n), self.memory, self.progress)
            if all_kept and not self.settings.loose_parts:
                solved = only_touched(solved, keeps, places.scaled(1 / n))
            shares = self._where_solved(found, before, solved, n)
        else:
            shares = self._shares_of(found)
        self.progress.report(0.8)
        self.progress.raise_if_cancelled()
        if spots:
            shares = self._spotted(shares, spots)
        if marks:
            below = f"{self.settings.digest_without('touches')}/{','.join(one.digest for one in (*strokes, *spots))}"
            shares = brushed(shares, marks, places, self.memory, below, self.progress)
        shares = self._along_edges(shares)
        if self.settings.reverse:
            shares = 255 - shares
        kind: GroundKind = "by_hand" if shape and (shares >= 128).any() else "cleared_all"
        return self._cleared(shares, kind, found.runner_up, found)

    def _hits(self, touches: tuple[Touch, ...]) -> NDArray[np.bool_]:
        """Which touches lie on the picture, if only with one point."""
        if not touches:
            return np.zeros(0, bool)
        height, width = self.clear.shape
        x, y = self.picture.places.to_px(np.concatenate([touch.places for touch in touches])).T
        on = (x >= 0) & (x < width) & (y >= 0) & (y < height)
        first = np.cumsum([0, *(len(touch.points) for touch in touches[:-1])])
        return np.maximum.reduceat(on, first)

    def _shares_of(self, found: Ground) -> NDArray[np.uint8]:
        """How much of each pixel is subject, in a ground as it was found."""
        if found.cleared is not None:
            return found.cleared[..., 3]
        if found.kind == "transparent" or not found.mask.any():
            return self.rgba[..., 3]
        return refined(self.rgba, ~found.mask, OUTLINE_BAND)

    def _where_solved(
        self, found: Ground, before: NDArray[np.bool_], solved: NDArray[np.bool_], n: float
    ) -> NDArray[np.uint8]:
        """The shares found, with those of the new solution where strokes have changed it."""
        import cv2

        shares = self._shares_of(found)
        changed = before != solved
        if not changed.any():
            return shares
        new = self._refined_from(solved, n)
        around = cv2.dilate(changed.astype(np.uint8), np.ones((5, 5), np.uint8))
        height, width = self.clear.shape
        size = (math.ceil(width / n) * int(n), math.ceil(height / n) * int(n))
        wide = cv2.resize(around, size, interpolation=cv2.INTER_NEAREST)[:height, :width] > 0
        return np.where(wide, new, shares)

    def _spotted(self, shares: NDArray[np.uint8], spots: list[Any]) -> NDArray[np.uint8]:
        mask = shares > 127
        touched = np.zeros(mask.shape, bool)
        for spot in spots:
            self.progress.raise_if_cancelled()
            x, y = self.picture.places.to_px(np.array(spot.points))[0]
            area = spot_at(self.rgba, x, y, spot.reach, spot.everywhere)
            if area is not None:
                mask = mask & ~area if spot.kind == "spot_clear" else mask | area
                touched |= area
        import cv2

        new = refined(self.rgba, mask, OUTLINE_BAND)
        wide = cv2.dilate(touched.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
        return np.where(wide, new, shares)

    def _along_edges(self, shares: NDArray[np.uint8]) -> NDArray[np.uint8]:
        s = self.settings
        columns = np.flatnonzero((shares > 127).any(axis=0))
        if not len(columns):
            return shares
        mm_per_px = self.picture.mm_per_px(columns[-1] - columns[0] + 1)
        shares = only_parts(shares, s.parts_kept == "largest", s.smallest_part_mm2 / mm_per_px**2)
        return moved(smoothed(shares, s.edge_smooth_mm / mm_per_px), s.edge_mm / mm_per_px)

    def _cleared(
        self, shares: NDArray[np.uint8], kind: GroundKind, runner_up: str | None, found: Ground | None = None
    ) -> Ground:
        """The ground as transparency. found: what it was made from, if by hand."""
        cleared = np.empty_like(self.rgba)
        cleared[..., :3] = without_fuzz(self.rgba, shares) if self.settings.halo else self.rgba[..., :3]
        cleared[..., 3] = np.minimum(shares, self.rgba[..., 3])
        mask = cleared[..., 3] < 128
        spots = tuple(spot for spot in found.enclosed if not mask[spot.y, spot.x] or spot.taken) if found else ()
        spots = tuple(spot.with_taken(bool(mask[spot.y, spot.x])) for spot in spots)
        return Ground(
            frozen(mask), frozen(np.zeros((TERMS, 4))), "cleared_all" if mask.all() else kind, found.reach if found else 0.0,
            spots, runner_up, frozen(cleared), self.outside, found.kind if found else kind,
            found.has_shadow if found else False, found.one_colour if found else False,
            found.cutouts if found else (), found.cutout if found else None,
        )


def _without_specks(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The ground without the odd grain of noise that was left in it."""
    import cv2

    count, parts, stats, _ = cv2.connectedComponentsWithStats((~mask).astype(np.uint8))
    specks = stats[:, cv2.CC_STAT_AREA] < SPECK_PX
    specks[0] = False
    return mask | specks[parts] if count > 1 else mask
