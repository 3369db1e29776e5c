"""The course of one picture: its steps in working order, each a pure function, each result kept by what it came from.

A preview is a run on a smaller picture. Settings that do not touch a step do not rerun it: the finished width is put on
at the end, corrections by hand come after fitting, and pieces are put right on lines that are there already.
"""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass, replace
from typing import Any, Literal, cast, get_args

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from bisectum.core.cache import Cache, Memory, Run
from bisectum.core.errors import BrokenStructure
from bisectum.core.model.ground import Ground, page_ground
from bisectum.core.model.kind import Told
from bisectum.core.model.label_map import LabelMap
from bisectum.core.model.mend import without_crossings
from bisectum.core.model.picture import Picture
from bisectum.core.model.piece_map import PieceMap
from bisectum.core.model.placement import Placement
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.model.traced_lines import TracedLines
from bisectum.core.progress import SILENT, Progress
from bisectum.core.raster.resample import premultiplied
from bisectum.core.steps.background import step as background
from bisectum.core.steps.background.settings import BackgroundSettings
from bisectum.core.steps.colours import step as colours
from bisectum.core.steps.colours.ink.separate import separate_ink
from bisectum.core.steps.colours.kind import kind_of_page
from bisectum.core.steps.colours.photo.treat import MOST_PX
from bisectum.core.steps.colours.settings import OF_INK, OF_PHOTOGRAPHS, ColoursSettings
from bisectum.core.steps.colours.sift import Separation, sifted
from bisectum.core.steps.lines import step as lines
from bisectum.core.steps.lines.fitted import FittedLines, with_corrections
from bisectum.core.steps.lines.settings import OF_STROKES, Correction, LinesSettings
from bisectum.core.steps.lines.strokes import step as strokes
from bisectum.core.steps.picture import step as picture
from bisectum.core.steps.picture.settings import PictureSettings
from bisectum.core.steps.pieces import step as pieces
from bisectum.core.steps.pieces.settings import PiecesSettings
from bisectum.core.steps.pieces.step import Size
from bisectum.core.steps.settings import StepSettings

StepName = Literal["picture", "background", "colours", "lines", "pieces"]
STEPS: tuple[StepName, ...] = get_args(StepName)
PREVIEW_PX = 500_000
SEEN_PER_TREATED = 4  # photographs are treated at fewer pixels yet, since their borders are smooth
# Finished sizes that lines are fitted for: between them a change of width only scales. In previews there are fewer.
SIZES_PER_DOUBLING, SIZES_PER_DOUBLING_SEEN = 16, 4


class CourseSettings(StepSettings):
    """The settings of all steps of one picture."""

    picture: PictureSettings = Field(default_factory=PictureSettings, title="Picture")
    background: BackgroundSettings = Field(default_factory=BackgroundSettings, title="Background")
    colours: ColoursSettings = Field(default_factory=ColoursSettings, title="Colours")
    lines: LinesSettings = Field(default_factory=LinesSettings, title="Lines")
    pieces: PiecesSettings = Field(default_factory=PiecesSettings, title="Pieces")

    def changed(self, step: StepName, settings: dict[str, Any]) -> CourseSettings:
        """With fields of one step replaced. Raises: pydantic.ValidationError."""
        return cast(CourseSettings, self.with_fields({step: getattr(self, step).with_fields(settings)}))


@dataclass(frozen=True, slots=True)
class Source:
    """A decoded picture. rgba : (H, W, 4) uint8, straight alpha, sRGB; digest: of the file it came from."""

    rgba: NDArray[np.uint8]
    natural_mm_per_px: float
    digest: str


@dataclass(frozen=True, slots=True)
class CourseResult:
    """What the steps made. made: the result of each step that was run; keys: what each is named by; fresh: which of them had
    to be worked out anew. relit: the picture's colours are not those it came with. shape: the same for lines that
    differ in size only. finished: as of a Run."""

    made: dict[StepName, Any]
    keys: dict[StepName, str]
    relit: bool
    fresh: tuple[str, ...]
    shape: str = ""
    finished: tuple[str, ...] = ()

    def _of(self, step: StepName) -> Any:
        if step not in self.made:
            raise BrokenStructure(f"The course was not run as far as {step}.")
        return self.made[step]

    @property
    def picture(self) -> Picture:
        """With its ground still there."""
        return cast(Picture, self._of("picture"))

    @property
    def ground(self) -> Ground:
        return cast(Ground, self._of("background"))

    @property
    def label_map(self) -> LabelMap:
        return cast(LabelMap, self._of("colours"))

    @property
    def planar_map(self) -> PlanarMap:
        """As it was traced; what of it is cut is in `pieces`."""
        return self.lines.planar

    @property
    def lines(self) -> TracedLines:
        """The cut lines as they were traced, and strokes."""
        return cast(TracedLines, self._of("lines"))

    @property
    def pieces(self) -> PieceMap:
        return cast(PieceMap, self._of("pieces"))

    @property
    def key(self) -> str:
        """Names the last result."""
        return self.keys[max(self.keys, key=STEPS.index)]


def run_course(
    source: Source, settings: CourseSettings, cache: Cache, progress: Progress = SILENT, most_px: int | None = None,
    treated_px: int | None = None, until: StepName = "pieces",
) -> CourseResult:
    """Run the steps up to `until`, taking from `cache` what is there already.

    most_px: work on a picture reduced to so many pixels; treated_px: treat a photograph at so many
    and fit its lines as in a full result, in place of what suits a preview.
    Raises: SettingsError when nothing is left to cut; Cancelled.
    """
    course = _Course(source, settings, Run(cache, progress), most_px, treated_px)
    for step in STEPS[: STEPS.index(until) + 1]:
        getattr(course, step)()
    light = settings.picture.exposure, settings.picture.contrast, settings.picture.black, settings.picture.white
    return CourseResult(course.made, course.keys, light != (0, 0, 0, 255), course.run.fresh, course.shape,
                        tuple(course.run.finished))


class _Course:
    """The steps of one run, each building on those before."""

    def __init__(self, source: Source, settings: CourseSettings, run: Run, most_px: int | None, treated_px: int | None) -> None:
        self.source, self.settings, self.run, self.most_px = source, settings, run, most_px
        self.treated_px = treated_px or (MOST_PX if most_px is None else min(MOST_PX, most_px // SEEN_PER_TREATED))
        self.hasty = most_px is not None and treated_px is None
        self.made: dict[StepName, Any] = {}
        self.keys: dict[StepName, str] = {}
        self.shape = ""
        self.page: Told | None = None
        self.calmed: Picture | None = None

    def _keep(self, step: StepName, key: str, result: Any) -> None:
        self.keys[step], self.made[step] = key, result

    def picture(self) -> None:
        settings, start = self.settings.picture, f"{self.source.digest}:{self.most_px or 'full'}"
        key, prepared = self.run.step(
            "picture", picture.VERSION, settings.digest_without("width_mm", "measured"), start, (0.0, 0.05),
            lambda _: picture.prepare_picture(self.source.rgba, self.source.natural_mm_per_px, settings, self.most_px,
                                              Memory(self.run.cache, self.source.digest)))
        self._keep("picture", key, replace(prepared, width_mm=settings.width_mm, measured=settings.measured))

    def background(self) -> None:
        settings, taken, drawn = self.settings.background, self.keys["picture"], self.made["picture"]
        kind = self.settings.colours.kind
        _, self.page = self.run.step("background/kind", background.VERSION, kind, taken, (0.05, 0.06),
                                     lambda _: Told(kind, "by_hand") if kind != "auto" else kind_of_page(drawn.rgba))
        if self.page is not None and self.page.kind == "handwriting" and settings.mode == "auto":
            if not settings.touches:
                self._keep("background", f"{taken}-page", page_ground(drawn.rgba.shape[:2]))
                return
            settings = settings.with_fields({"mode": "keep"})  # nothing goes but what a hand took away
        if settings.edge_mm or settings.edge_smooth_mm or settings.smallest_part_mm2:  # the finished size matters only to these
            taken += f"/{drawn.width_mm}/{drawn.measured}"
        key, ground = self.run.step(
            "background", background.VERSION, settings.digest, taken, (0.05, 0.2),
            lambda part: background.find_background(drawn, settings, part, Memory(self.run.cache, taken)))
        self._keep("background", key, ground)

    def colours(self) -> None:
        settings, taken, ground = self.settings.colours, self.keys["background"], self.made["background"]
        drawn = self.made["picture"].without(ground.cleared)
        plain = settings.digest_without(*OF_PHOTOGRAPHS, *OF_INK)
        key, look = self.run.step("colours/look", colours.VERSION, plain, taken, (0.2, 0.25),
                                  lambda _: colours.look_at(drawn, ground, settings, self.page))
        self.calmed = look.calmed
        if look.is_photograph:
            key, separation = self._treated(drawn, key)
        elif look.is_page:
            key, separation = self._ink(key, look.told.kind == "handwriting")
        else:
            key, separation = self.run.step(
                "colours/separated", colours.VERSION, plain, key, (0.25, 0.45),
                lambda part: colours.separated(drawn, ground, settings, look, part))
        size = f"{drawn.width_mm}/{drawn.measured}"
        key, label_map = self.run.step("colours", colours.VERSION, size, key, (0.45, 0.5),
                                       lambda part: sifted(replace(separation, told=look.told), drawn, settings, part))
        self._keep("colours", key, label_map)

    def _ink(self, looked: str, written: bool) -> tuple[str, Separation]:
        """A page of ink is looked at with its paper; of the ground only what somebody took away by hand counts."""
        settings, drawn = self.settings.colours, self.made["picture"]
        cleared = self.made["background"].mask if self.settings.background.touches else None
        taken = f"{looked}/{drawn.width_mm}/{drawn.measured}" if settings.bolder_mm else looked
        return self.run.step("colours/ink", colours.VERSION, settings.digest_without(*OF_PHOTOGRAPHS), taken, (0.25, 0.45),
                             lambda part: separate_ink(drawn, cleared, settings, written, part))

    def _treated(self, drawn: Picture, looked: str) -> tuple[str, Separation]:
        """A photograph is worked at the finished size: at one of a row of sizes, so that a small change of it costs nothing."""
        settings, ground = self.settings.colours, self.made["background"]
        mm_per_px = _fitted_scale(colours.size_to_treat(drawn, ground), drawn.natural_mm_per_px,
                                  SIZES_PER_DOUBLING if self.most_px is None else SIZES_PER_DOUBLING_SEEN)
        taken = f"{looked}/{mm_per_px!r}/{self.treated_px}"
        memory = Memory(self.run.cache, f"photo/{self.keys['background']}/{mm_per_px!r}")
        return self.run.step(
            "colours/treated", colours.VERSION, settings.digest, taken, (0.25, 0.45),
            lambda part: colours.treated(drawn, ground, settings, mm_per_px, self.treated_px, part, memory))

    def lines(self) -> None:
        drawn_so = self._strokes()
        if drawn_so is not None:
            self._keep("lines", *drawn_so)
            return
        settings, label_map, ground = self.settings.lines, self.made["colours"], self.made["background"]
        drawn = self.calmed or self.made["picture"].without(ground.cleared)
        places = drawn.places.scaled(label_map.labels.shape[1] / drawn.width)
        scale = _fitted_scale(label_map.mm_per_px, drawn.natural_mm_per_px * drawn.width / label_map.labels.shape[1],
                              SIZES_PER_DOUBLING if self.most_px is None else SIZES_PER_DOUBLING_SEEN)
        taken = f"{self.keys['background']}/{label_map.digest}/{scale!r}"
        fitted_key, fitted = self.run.step(
            "lines/fitted", lines.VERSION, settings.digest_without("corrections", *OF_STROKES), f"{taken}/{self.hasty}",
            (0.5, 0.94),
            lambda part: lines.fit_lines(label_map, premultiplied(drawn.rgba), _surfaces(ground, label_map), settings, scale,
                                         part, places, self.hasty))
        corrections = hashlib.sha256(",".join(one.digest for one in settings.corrections).encode()).hexdigest()
        key, planar = self.run.step("lines", lines.VERSION, corrections, f"{fitted_key}/{label_map.mm_per_px!r}", (0.94, 0.96),
                                    lambda part: self._corrected(fitted, label_map, settings.corrections, places, part))
        rounded = any(one.radius_mm for one in settings.corrections)  # by a radius in mm
        self.shape = f"{fitted_key}/{corrections}/{label_map.mm_per_px if rounded else ''}"
        self._keep("lines", key, TracedLines(planar))

    def _strokes(self) -> tuple[str, TracedLines] | None:
        """The lines of a drawing in strokes, where its middles are wanted, or it is a plan with folds."""
        settings, label_map, drawn = self.settings.lines, self.made["colours"], self.made["picture"]
        if settings.drawn == "filled" or (settings.drawn == "auto" and label_map.told.kind != "line-drawing"):
            return None
        natural = drawn.natural_mm_per_px * drawn.width / label_map.labels.shape[1]
        scale = _fitted_scale(label_map.mm_per_px, natural, SIZES_PER_DOUBLING)
        rgba = drawn.without(self.made["background"].cleared).rgba
        places = drawn.places.scaled(label_map.labels.shape[1] / drawn.width)
        taken = f"{self.keys['background']}/{label_map.digest}/{label_map.mm_per_px!r}/{scale!r}"
        key, made = self.run.step("lines/strokes", strokes.VERSION, settings.digest, taken, (0.5, 0.9),
                                  lambda _: strokes.draw_strokes(label_map, rgba, settings, scale, places))
        if made is None:
            return None
        self.shape = key
        return key, made

    def pieces(self) -> None:
        settings, planar, drawn = self.settings.pieces, self.made["lines"].planar, self.made["picture"]
        if not planar.chain_count:
            self._keep("pieces", self.keys["lines"], PieceMap.none(planar))
            return
        size = Size(drawn.width_mm, drawn.measured)
        places = drawn.places.scaled(planar.width / drawn.width)
        # Of the changes by hand only what is given back matters to the rules.
        kept = ",".join(change.digest for change in settings.changes if change.kind == "keep")
        page = self.made["colours"].page
        pen_mm = page.pen * self.made["colours"].mm_per_px if page is not None else None
        taken = f"{self.keys['lines']}/{size}/{self.hasty}"
        ruled_key, ruled = self.run.step(
            "pieces/ruled", pieces.VERSION, settings.digest_without("changes", "bridge_mm"), f"{taken}/{kept}", (0.96, 0.99),
            lambda part: pieces.by_rules(planar, settings, places, size, part, self.hasty, pen_mm))
        ground = self.made["background"]
        colour = ground.rgb if ground.has_colour else None
        key, made = self.run.step("pieces", pieces.VERSION, settings.digest, ruled_key, (0.99, 1.0),
                                  lambda _: pieces.put_right(ruled, settings, places, colour))
        self.shape = f"{self.shape}/{made.shape}"
        self._keep("pieces", key, made)

    def _corrected(
        self, fitted: FittedLines, label_map: LabelMap, corrections: tuple[Correction, ...], places: Placement, part: Progress
    ) -> PlanarMap:
        """With the corrections by hand, and without crossings; what is looked at for a moment need not be cut."""
        planar = with_corrections(fitted, label_map, corrections, places, part)
        return planar if self.hasty else without_crossings(planar)


def _surfaces(ground: Ground, label_map: LabelMap) -> NDArray[np.float64]:
    rgb = np.array([colour.rgb for colour in label_map.palette.colours], np.uint8)
    return colours.surfaces_of(ground, rgb)


def _fitted_scale(mm_per_px: float, natural: float, sizes: int) -> float:
    """The size of a pixel that lines are fitted for: the next of a row of sizes about the natural one, mm.

    It is never smaller than the true one, so a line never strays farther than was asked, and hardly less far.
    """
    steps = math.ceil(sizes * math.log2(mm_per_px / natural) - 1e-9)
    return float(natural * 2.0 ** (steps / sizes))
