"""A photograph becomes classes that can be cut: one treatment for each kind of result that is wanted."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from bisectum.core.errors import SettingsError
from bisectum.core.model.face import Face
from bisectum.core.model.finding import Finding
from bisectum.core.model.ink_choice import InkChoice
from bisectum.core.model.picture import Picture, frozen
from bisectum.core.model.tone_scale import BINS, ToneScale
from bisectum.core.progress import SILENT, Part, Progress
from bisectum.core.raster.colour import rgb_of
from bisectum.core.raster.din99o import din99o, lab_image
from bisectum.core.raster.thresholds import best_by_error, by_area, evenly
from bisectum.core.steps.colours.by_hand import Entry
from bisectum.core.steps.colours.photo.areas import LEAST_MM2, Least
from bisectum.core.steps.colours.photo.bridges import bridges
from bisectum.core.steps.colours.photo.calm import Calm, Memory, Remembered
from bisectum.core.steps.colours.photo.dark_lines import dark_lines
from bisectum.core.steps.colours.photo.drawn import dark_field
from bisectum.core.steps.colours.photo.exchange import exchanged
from bisectum.core.steps.colours.photo.face_lines import face_lines
from bisectum.core.steps.colours.photo.faces import find_faces
from bisectum.core.steps.colours.photo.fields import (
    INK_BORDER_WORTH,
    Classes,
    against_colours,
    against_ink,
    against_tones,
    classes_of,
    tidied,
    with_lines,
)
from bisectum.core.steps.colours.photo.inks import choose_inks, ink_choices
from bisectum.core.steps.colours.photo.light import Lit, lit, middle_of
from bisectum.core.steps.colours.photo.looks import drawn_colour, ink_colours, mean_colours, unlike
from bisectum.core.steps.colours.photo.shades import Shades, gather_shades
from bisectum.core.steps.colours.photo.working import Working, working_picture
from bisectum.core.steps.colours.settings import ColoursSettings, SpotColour
from bisectum.core.steps.colours.sift import Separation

MOST_PX = 750_000  # pixels that treatments are worked at; previews take fewer
COLOURS = 5  # layers where nothing is said; of tones the drawn one is among them
TELLING_MM2 = 0.8  # the same where detail is wanted: eyes, brows, nostrils, lips
DRAWING_PX2 = 15  # what a small area loses at most, in pixels, when its outline is smoothed and drawn; 21 were measured
LINE_PER_FINE = 1.1  # deviation of drawn lines, in that of borders
OUTLINE_FINE = 0.75  # of the deviation of borders: the outline is as smooth as they are
INK_FINE = 0.5  # of the deviation: borders of ink follow its field, which is smooth already
SILHOUETTE_OF = 3  # tones, the lightest of which stays open
STANDING_OUT = 2.5  # times as bold, and this many times the smallest piece: what shows within a silhouette
CARD = (222, 205, 170)  # what a stencil is shown in
FRAME_MM = 6.0  # of a stencil: card that stays whole all around
UNCUT = 0.995  # of the picture beside its ground: nothing was cut out
LEAST_LEFT_PX = 40  # of the picture beside its ground
WANTED = 2.0  # more that colours count where somebody wants detail, while inks are chosen
MIDDLE_WORTH = 0.6  # more that strokes in the middle of a subject are worth, where faces are
INK_KEPT = 0.3  # speaks for what is drawn, against all colours under it


def treat(
    picture: Picture, ground: NDArray[np.bool_], settings: ColoursSettings, mm_per_px: float, most_px: int,
    progress: Progress = SILENT, memory: Memory | None = None,
) -> Separation:
    """A photograph as few classes with smooth borders.

    ground : (H, W) bool, what is cut away; mm_per_px: of the picture; memory: keeps partial results between calls for
    the same picture. Raises: SettingsError when nothing is left; Cancelled.
    """
    kept = Remembered(memory)
    working = kept.of(f"working/{most_px}", lambda: working_picture(picture.rgba, ground, mm_per_px, most_px))
    if working.inside.sum() < LEAST_LEFT_PX:
        raise SettingsError("Hardly anything is left beside the background: lower the reach, or keep the background.",
                            code="nothing_left")
    progress.report(0.1)
    work = _Treatment(picture, working, settings, kept, Part(progress, 0.1, 1.0))
    made = getattr(work, settings.treatment)()
    return work.separation(made)


@dataclass(frozen=True, slots=True)
class _Made:
    """scores : (K + 1, H, W), 0 for nothing; against : (K, H, W), what speaks against each class; entries: K."""

    labels: NDArray[np.uint8]
    scores: NDArray[np.float32]
    against: NDArray[np.float32]
    entries: tuple[Entry, ...]
    scale: ToneScale | None = None
    findings: tuple[Finding, ...] = ()


class _Treatment:
    def __init__(
        self, picture: Picture, working: Working, settings: ColoursSettings, kept: Remembered, progress: Progress
    ) -> None:
        self.working, self.settings, self.kept, self.progress = working, settings, kept, progress
        self.places = picture.places.scaled(1 / working.factor)
        dismissed = picture.places.to_px(np.array(settings.not_faces)).tolist()
        self.faces = tuple(replace(face, dismissed=any(face.holds(*place) for place in dismissed))
                           for face in kept.of("faces", lambda: find_faces(picture.rgba)))
        features = [part / working.factor for face in self._people() for part in face.features()]
        self.seen = f"{working.mm}/{settings.balance_mm}/{[mark.digest for mark in settings.light_marks]}/{dismissed}"
        self.lit: Lit = kept.of(
            f"lit/{self.seen}", lambda: lit(working, settings.balance_mm, settings.light_marks, self.places, features))
        self.cover = cv2.GaussianBlur(working.cover, (0, 0), working.px(OUTLINE_FINE * settings.fine_mm, 0.3))
        self.inside = np.asarray(self.cover > 0.5)
        self.calm = Calm(working, self.lit, bool(self.inside.mean() <= UNCUT), kept, self.seen)
        self.gone = self.widened = 0
        whole_px2 = working.inside.size * working.mm**2 / MOST_PX  # of the full result, in a preview too
        least = LEAST_MM2 + DRAWING_PX2 * whole_px2
        detail = self.lit.detail
        self.least = Least(least, None if detail is None else (least / TELLING_MM2) ** np.clip(detail, 0, 1))
        self.choices: tuple[InkChoice, ...] = ()
        self.pins = np.array([rgb_of(pin.colour) for pin in settings.pins], np.uint8).reshape(-1, 3)

    # Kinds

    def colours(self) -> _Made:
        """Few colours, the darkest with the lines that are there."""
        count = self.settings.count or COLOURS
        shades = self._shades()
        inks = choose_inks(shades, count, self.pins, self.settings.inks)
        self.choices = ink_choices(shades, count, self.pins, self.settings.inks)
        self.progress.report(0.2)
        calm = self.calm.colour(self.settings.fine_mm)
        darkest = int(lab_image(inks.rgb[None])[0, :, 0].argmin())
        against = self._with_lines(against_colours(calm, inks.shades, inks.owner), darkest)
        made = self._told(self._classes(against, Part(self.progress, 0.2, 1.0)))
        result = self._with_ground(made, against, ink_colours(inks))
        if len(inks.rgb) >= (self.settings.count or 0):
            return result
        fewer = Finding("fewer_colours", details={"wanted": count, "found": len(inks.rgb)})
        return replace(result, findings=(*result.findings, fewer))

    def lightness(self) -> _Made:
        """Tones of lightness, each an area of the one scale."""
        count = self.settings.count or COLOURS
        drawn = self.settings.drawn_top and count > 2
        light = self.calm.light(self.settings.fine_mm, Part(self.progress, 0.0, 0.2))
        result = self._tones(light, self._thresholds(light, count - int(drawn)))
        return self._without_bare(self._with_drawn(result, self._ink_if_any() if drawn else None))

    def dark(self) -> _Made:
        """One dark tone."""
        return self._only_ink(self._ink())

    def line_shade(self) -> _Made:
        """Lines and darkest parts over one shade; the rest is left to the cloth."""
        light = self.calm.light(self.settings.fine_mm, Part(self.progress, 0.0, 0.2))
        thresholds = self._thresholds(light, self.settings.count or 2)
        result = self._tones(light, thresholds, bare_by_itself=(len(thresholds),))
        return self._without_bare(self._with_drawn(result, self._ink_if_any()))

    def stencil(self) -> _Made:
        """The card around one dark tone, in one part: what is dark falls out. Raises: SettingsError where nothing is dark."""
        made = self._ink()
        ink, frame = made.labels == 2, self._frame()
        # Ground is card, too.
        field = np.minimum(made.scores[1] - made.scores[0], 2 * self.cover - np.float32(1))
        field = np.where(frame | (made.labels == 0), np.minimum(field, np.float32(-0.5)), field)
        card = ~(ink & ~frame)
        ties, held, count = bridges(card, self.working.px(self.settings.bridge_mm, 2.0))
        # A bridge is card to its edge, a pixel of which is as sure as anything; what no bridge holds falls out.
        field = np.minimum(np.where(card & ~held, np.float32(0.5), field), -np.clip(ties, -1, 1))
        labels = np.where(field < 0, 1, 0).astype(np.uint8)
        if not (labels == 0).any():
            raise _nothing_dark()
        # Class 0 is what falls out, class 1 the card.
        tidy, _, _ = tidied(labels + np.uint8(1), against_ink(-2 * field), self.working.mm, self.least, 0.0)
        scores = exchanged(np.stack([field, -field]), labels, tidy - np.uint8(1), labels + 1 != tidy)
        finding = Finding("bridges", details={"count": count})
        return _Made(tidy - np.uint8(1), scores, field[None], (Entry(CARD),), None, (finding,))

    def silhouette(self) -> _Made:
        """The outline of what was cut out, filled, with what stands out within left open.

        Raises: SettingsError where nothing was cut out.
        """
        if self.inside.mean() > UNCUT:
            raise SettingsError("A silhouette needs an outline: take the background away first.", code="no_outline")
        bold = STANDING_OUT * self.settings.fine_mm
        light = self.calm.light(bold)
        thresholds = self._thresholds(light, SILHOUETTE_OF)[-1:]
        against = against_tones(light, thresholds, self._middles(light, thresholds))
        made = classes_of(against, self.working, self.lit, bold, self.least.times(STANDING_OUT),
                          2 * self.settings.smallest_width_mm, self.inside, progress=Part(self.progress, 0.3, 1.0))
        made = self._closed_outside(made)
        result = self._with_ground(made, against, mean_colours(self.working.rgb, made.labels, len(made.scores)))
        return self._left_out(result, [False] + [True] * (len(result.entries) - 1))

    def _closed_outside(self, made: Classes) -> Classes:
        """With light parts that reach the outline filled: they would be bites, and no windows."""
        _, parts = cv2.connectedComponents((made.labels == 2).astype(np.uint8), connectivity=4)
        outside = cv2.dilate((~self.inside).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
        outside[[0, -1]] = outside[:, [0, -1]] = True
        bites = (parts > 0) & np.isin(parts, np.unique(parts[outside]))
        labels = np.where(bites, np.uint8(1), made.labels)
        classes = made.labels - np.uint8(1), labels - np.uint8(1)
        return replace(made, labels=labels, scores=exchanged(made.scores, *classes, bites))

    # Parts of them

    def _shades(self) -> Shades:
        fine = self.settings.fine_mm
        mattering = 0.5 + 0.5 * middle_of(self.inside)
        if self.lit.detail is not None:
            mattering = mattering * (1 + WANTED * np.clip(self.lit.detail, 0, 1))
        return self.kept.of(f"shades/{self.seen}/{fine}", lambda: gather_shades(
            self.calm.colour(fine, exactly=False), self.working.rgb, self.calm.certain(fine), self.inside,
            mattering.astype(np.float32), self.working.mm))

    def _with_lines(self, against: NDArray[np.float32], darkest: int) -> NDArray[np.float32]:
        """With dark lines, and what is dark in faces, spoken for as parts of the darkest class, if that is wanted."""
        if not self.settings.drawn_top or len(against) < 2:
            return against
        fine = self.settings.fine_mm
        lines = self.kept.of(f"lines/{self.seen}/{fine}", lambda: np.maximum(
            dark_lines(self.lit.light, self.calm.certain(fine), self.working.mm, self.calm.finest(fine)), self._face_lines()))
        return with_lines(against, darkest, lines)

    def _face_lines(self) -> NDArray[np.float32]:
        return face_lines(self.lit.light, self._people(), self.working.factor, self.working.px(self.settings.fine_mm / 2, 0.6))

    def _people(self) -> tuple[Face, ...]:
        return tuple(face for face in self.faces if not face.dismissed)

    def _tones(self, light: NDArray[np.float32], thresholds: list[float], bare_by_itself: tuple[int, ...] = ()) -> _Made:
        """Tones parted at thresholds, with their scale. bare_by_itself: those left to the cloth where nobody has said which."""
        against = against_tones(light, thresholds, self._middles(light, thresholds))
        made = self._told(self._classes(against, Part(self.progress, 0.2, 0.7)))
        entries = mean_colours(self.working.rgb, made.labels, len(made.scores))
        bare = bare_by_itself if self.settings.bare is None else self.settings.bare
        return self._with_ground(made, against, entries, self._scale(thresholds, entries, bare))

    def _classes(self, against: NDArray[np.float32], progress: Progress) -> Classes:
        s = self.settings
        return classes_of(against, self.working, self.lit, s.fine_mm, self.least, s.smallest_width_mm, self.inside,
                          progress=progress)

    def _told(self, made: Classes) -> Classes:
        """The same; what went and what was widened counts."""
        self.gone, self.widened = self.gone + made.gone, self.widened + made.widened
        return made

    def _ink(self) -> Classes:
        """Class 0 is paper, class 1 ink."""
        s = self.settings
        name = f"ink/{self.seen}/{s.fine_mm}/{s.dark_share}/{self.least.mm2}/{s.smallest_width_mm}"
        return self._told(self.kept.of(name, self._ink_anew))

    def _ink_anew(self) -> Classes:
        s = self.settings
        if float(np.ptp(self.lit.light[self.inside])) < 3.0:
            raise _nothing_dark()
        field = dark_field(self.working, self.lit.light, self.calm.light(s.fine_mm), self.calm.certain(s.fine_mm),
                           LINE_PER_FINE * s.fine_mm, s.dark_share / 100, Part(self.progress, 0.0, 0.5))
        field = np.maximum(field, 2 * self._face_lines() - 1)
        against = against_ink(field) * (1 + MIDDLE_WORTH * middle_of(self.inside))
        made = classes_of(against, self.working, self.lit, INK_FINE * s.fine_mm, self.least, s.smallest_width_mm,
                          self.inside, INK_BORDER_WORTH, Part(self.progress, 0.5, 1.0))
        if not (made.labels == 2).any():
            raise _nothing_dark()
        return made

    def _only_ink(self, made: Classes) -> _Made:
        entries = (Entry((0, 0, 0)), drawn_colour(self.working, made.labels == 2))
        return self._left_out(self._with_ground(made, -made.scores, entries), [True, False])

    def _ink_if_any(self) -> Classes | None:
        """None where nothing is dark enough to draw."""
        try:
            return self._ink()
        except SettingsError:
            return None

    def _with_drawn(self, below: _Made, ink: Classes | None) -> _Made:
        """What is drawn dark, over what is there already; what is left too small between its lines goes."""
        if ink is None:
            return below
        drawn = ink.labels == 2
        entry = drawn_colour(self.working, drawn)
        entries = (*below.entries, unlike(entry, below.entries))
        top = len(entries)
        scores = np.concatenate([below.scores, np.empty((1, *drawn.shape), np.float32)])
        scores[top] = below.scores[1:].max(axis=0) + (ink.scores[1] - ink.scores[0])
        labels = np.where(drawn & (below.labels > 0), top, below.labels).astype(np.uint8)
        # Strokes stay; of the colours between them what is much like ink goes to it, and what is too small to where it fits.
        colour = self.calm.colour(self.settings.fine_mm)
        centre = din99o(lab_image(np.array([[entry.rgb]], np.uint8)))[0].astype(float)
        against = np.concatenate([below.against, against_colours(colour, centre, np.zeros(1, np.int64))])
        against[-1] = np.where(drawn, below.against.min(axis=0) - np.float32(INK_KEPT), against[-1])
        tidy, _, _ = tidied(labels, against, self.working.mm, self.least, self.settings.smallest_width_mm)
        scores = exchanged(scores, labels, tidy, labels != tidy)
        return _Made(tidy, scores, against, entries, below.scale, below.findings)

    def _with_ground(
        self, made: Classes, against: NDArray[np.float32], entries: tuple[Entry, ...], scale: ToneScale | None = None
    ) -> _Made:
        """The classes with the ground's own score: as high as the highest where half of a pixel is ground."""
        scores = np.concatenate([np.empty((1, *made.labels.shape), np.float32), made.scores])
        scores[0] = made.scores.max(axis=0) + (np.float32(1) - 2 * self.cover)
        ground = made.labels == 0
        wrong = ground == self.inside  # small parts that have gone to the ground, or been taken from it
        scores[0][wrong] = made.scores.max(axis=0)[wrong] + np.where(ground[wrong], np.float32(1), np.float32(-1))
        return _Made(made.labels, scores, against, entries, scale)

    def _without_bare(self, made: _Made) -> _Made:
        """Without the tones that are left to the cloth."""
        return made if made.scale is None or not any(made.scale.bare) else self._left_out(made, list(made.scale.bare))

    @staticmethod
    def _left_out(made: _Made, bare: list[bool]) -> _Made:
        """With some classes left to the cloth."""
        chosen = [k + 1 for k, left in enumerate(bare[: len(made.entries)]) if left]
        kept = [k for k in range(1, len(made.entries) + 1) if k not in chosen]
        scores = np.concatenate([made.scores[[0, *chosen]].max(axis=0)[None], made.scores[kept]])
        renumbered = np.zeros(256, np.uint8)
        renumbered[kept] = np.arange(1, len(kept) + 1)
        if not kept:
            raise SettingsError("All tones are left to the cloth, so nothing is left to cut: take one of them back.",
                                code="nothing_left")
        return _Made(renumbered[made.labels], scores, made.against[[k - 1 for k in kept]],
                     tuple(made.entries[k - 1] for k in kept), made.scale, made.findings)

    # The scale of tones

    def _thresholds(self, light: NDArray[np.float32], count: int) -> list[float]:
        if self.settings.thresholds:
            return list(self.settings.thresholds)
        counts = np.histogram(light[self.inside], 256, (0, 100))[0].astype(float)
        spaced = {"best": best_by_error, "evenly": evenly, "by_area": by_area}[self.settings.spacing]
        return [float(start) * 100 / 256 for start in spaced(counts, count)]

    def _middles(self, light: NDArray[np.float32], thresholds: list[float]) -> list[float]:
        own = light[self.inside]
        tone = np.searchsorted(thresholds, own)
        bounds = [0.0, *thresholds, 100.0]
        return [float(own[tone == k].mean()) if (tone == k).any() else (bounds[k] + bounds[k + 1]) / 2
                for k in range(len(thresholds) + 1)]

    def _scale(self, thresholds: list[float], entries: tuple[Entry, ...], bare: tuple[int, ...]) -> ToneScale:
        counts = np.histogram(self.lit.light[self.inside], BINS, (0, 100))[0]
        return ToneScale(tuple((counts / counts.sum()).tolist()), tuple(thresholds), tuple(entry.rgb for entry in entries),
                         tuple(k in bare for k in range(len(entries))))

    def _frame(self) -> NDArray[np.bool_]:
        """The card that stays whole around a stencil."""
        wide = round(min(self.working.px(FRAME_MM), 0.12 * min(self.inside.shape)))
        frame = np.ones(self.inside.shape, bool)
        frame[wide:-wide or None, wide:-wide or None] = False
        return frame

    # Spots

    def separation(self, made: _Made) -> Separation:
        """With the spots that have a colour of their own."""
        missed = 0
        for spot in self.settings.spots:
            with_spot = self._with_spot(made, spot)
            missed += with_spot is None
            made = with_spot or made
        findings = list(made.findings)
        if self.gone or self.widened:
            findings.append(Finding("tidied", details={"gone": self.gone, "widened": self.widened}))
        if missed:
            findings.append(Finding("spots_left_out", "warning", details={"count": missed}))
        return Separation(frozen(made.labels), made.entries, "tones", len(made.entries), tuple(findings), self.working.factor,
                          False, frozen(made.scores), made.scale, faces=self.faces, choices=self.choices)

    def _with_spot(self, made: _Made, spot: SpotColour) -> _Made | None:
        """None where it lies beside the picture, or is too small to be cut."""
        height, width = made.labels.shape
        x, y = np.floor(self.places.to_px(np.array([spot.x, spot.y]))[0]).astype(int).tolist()
        if not (0 <= x < width and 0 <= y < height):
            return None
        colour = self.calm.colour(self.settings.fine_mm / 2)
        window = colour[max(0, y - 1) : y + 2, max(0, x - 1) : x + 2].reshape(-1, 3)
        apart = np.sqrt(((colour - np.median(window, axis=0).astype(np.float32)) ** 2).sum(axis=2))
        near = (apart <= spot.reach) & self.inside
        _, parts = cv2.connectedComponents(near.astype(np.uint8), connectivity=4)
        if parts[y, x] == 0:
            return None
        area = (parts == parts[y, x]).astype(np.float32)
        if area.sum() * self.working.mm**2 < self.least.mm2:
            return None
        soft = cv2.GaussianBlur(area, (0, 0), self.working.px(self.settings.fine_mm / 2, 0.8)) - np.float32(0.5)
        red, green, blue = np.rint(np.median(self.working.rgb[area > 0], axis=0)).astype(int).tolist()
        entries = (*made.entries, unlike(Entry((red, green, blue)), made.entries))
        scores = np.concatenate([made.scores, (made.scores.max(axis=0) + soft)[None]])
        labels = np.where((soft > 0) & self.inside, len(entries), made.labels).astype(np.uint8)
        against = np.concatenate([made.against, (made.against.min(axis=0) - 2 * soft)[None]])
        tidy, _, _ = tidied(labels, against, self.working.mm, self.least, 0.0)
        return _Made(tidy, exchanged(scores, labels, tidy, labels != tidy), against, entries, made.scale, made.findings)


def _nothing_dark() -> SettingsError:
    return SettingsError("Nothing here is dark enough to be drawn: draw more of it dark, or raise the contrast.",
                         code="nothing_dark")
