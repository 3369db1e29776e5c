"""The course: the steps of a job in working order, each a pure function, each result kept by what it came from.

A step's key is made of its name, the version of its method, its settings and the keys of what it takes in. So a change
runs on through the later steps only, undo finds old results again, and a preview is a run on a smaller picture.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, MutableMapping
from dataclasses import dataclass
from typing import Any, Literal, TypeVar, cast, get_args

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from bisectum.core.model.artwork import Artwork
from bisectum.core.model.ground import Ground
from bisectum.core.model.label_map import LabelMap
from bisectum.core.model.picture import Picture
from bisectum.core.model.planar_map import PlanarMap
from bisectum.core.progress import SILENT, Part, Progress
from bisectum.core.raster.resample import premultiplied
from bisectum.core.steps.background import step as background
from bisectum.core.steps.background.settings import BackgroundSettings
from bisectum.core.steps.colours import step as colours
from bisectum.core.steps.colours.settings import ColoursSettings
from bisectum.core.steps.layers import step as layers
from bisectum.core.steps.layers.settings import LayersSettings
from bisectum.core.steps.lines import step as lines
from bisectum.core.steps.lines.settings import LinesSettings
from bisectum.core.steps.picture import step as picture
from bisectum.core.steps.picture.settings import PictureSettings
from bisectum.core.steps.settings import StepSettings

StepName = Literal["picture", "background", "colours", "lines", "layers"]
STEPS: tuple[StepName, ...] = get_args(StepName)
PREVIEW_PX = 500_000

Cache = MutableMapping[str, Any]
T = TypeVar("T")


class CourseSettings(StepSettings):
    """The settings of all steps of one picture."""

    picture: PictureSettings = Field(default_factory=PictureSettings)
    background: BackgroundSettings = Field(default_factory=BackgroundSettings)
    colours: ColoursSettings = Field(default_factory=ColoursSettings)
    lines: LinesSettings = Field(default_factory=LinesSettings)
    layers: LayersSettings = Field(default_factory=LayersSettings)

    def changed(self, step: StepName, settings: dict[str, Any]) -> CourseSettings:
        """With fields of one step replaced. Raises: pydantic.ValidationError."""
        whole = self.model_dump()
        whole[step] = whole[step] | settings
        return CourseSettings.model_validate(whole)


@dataclass(frozen=True, slots=True)
class Source:
    """A decoded picture. rgba : (H, W, 4) uint8, straight alpha, sRGB; digest: of the file it came from."""

    rgba: NDArray[np.uint8]
    natural_mm_per_px: float
    digest: str


@dataclass(frozen=True, slots=True)
class CourseResult:
    """What every step made, and which of them had to be worked out anew.

    picture: with its ground still there; picture_key: names it; relit: its colours are not those it came with.
    """

    picture: Picture
    picture_key: str
    relit: bool
    ground: Ground
    label_map: LabelMap
    planar_map: PlanarMap
    artwork: Artwork
    key: str
    fresh: tuple[StepName, ...]


def run_course(
    source: Source, settings: CourseSettings, cache: Cache, progress: Progress = SILENT, preview: bool = False
) -> CourseResult:
    """Run all steps, taking from `cache` what is there already.

    preview: work on a picture reduced to PREVIEW_PX. Raises: SettingsError when nothing is left to cut; Cancelled.
    """
    run = _Run(cache, progress)
    picture_key, whole, key, ground = _to_ground(run, source, settings, cache, preview)
    drawn = whole.without(ground.cleared)
    key, label_map = run.step("colours", colours.VERSION, settings.colours, key, (0.2, 0.5),
                              lambda part: colours.separate_colours(drawn, ground, settings.colours, part))
    key, planar = run.step("lines", lines.VERSION, settings.lines, key, (0.5, 0.9),
                           lambda part: _draw_lines(drawn, ground, label_map, settings.lines, preview, part))
    key, artwork = run.step("layers", layers.VERSION, settings.layers, key, (0.9, 1.0), lambda part: layers.build_layers(
        planar, settings.layers, drawn.measured, drawn.width_mm, part))
    light = settings.picture.exposure, settings.picture.contrast, settings.picture.black, settings.picture.white
    return CourseResult(whole, picture_key, light != (0, 0, 0, 255), ground, label_map, planar, artwork, key, tuple(run.fresh))


def find_ground(source: Source, settings: CourseSettings, cache: Cache, progress: Progress = SILENT) -> Ground:
    """Only the ground, on a picture reduced to PREVIEW_PX: what is seen first after a stroke. Raises: as run_course."""
    return _to_ground(_Run(cache, progress), source, settings, cache, preview=True)[3]


def _to_ground(
    run: _Run, source: Source, settings: CourseSettings, cache: Cache, preview: bool
) -> tuple[str, Picture, str, Ground]:
    """The first two steps. Returns the picture's key, the picture, the ground's key, the ground."""
    most = PREVIEW_PX if preview else None
    start = f"{source.digest}:{PREVIEW_PX if preview else 'full'}"
    picture_key, drawn = run.step(
        "picture", picture.VERSION, settings.picture, start, (0.0, 0.05),
        lambda _: picture.prepare_picture(source.rgba, source.natural_mm_per_px, settings.picture, most))
    key, ground = run.step(
        "background", background.VERSION, settings.background, picture_key, (0.05, 0.2),
        lambda part: background.find_background(drawn, settings.background, part, _Parts(cache, picture_key)))
    return picture_key, drawn, key, ground


def _draw_lines(
    drawn: Picture, ground: Ground, label_map: LabelMap, settings: LinesSettings, preview: bool, part: Progress
) -> PlanarMap:
    rgb = np.array([colour.rgb for colour in label_map.palette.colours], np.uint8)
    places = drawn.places.scaled(label_map.labels.shape[1] / drawn.width)
    surfaces = colours.surfaces_of(ground, rgb)
    return lines.draw_lines(label_map, premultiplied(drawn.rgba), surfaces, settings, part, places, preview)


class _Parts(MutableMapping[str, Any]):
    """A step's partial results, in the cache of the course, under the key of what the step takes in."""

    def __init__(self, cache: Cache, taken: str) -> None:
        self._cache, self._taken = cache, taken

    def _name(self, part: str) -> str:
        return f"{part}/{self._taken}"

    def __getitem__(self, part: str) -> Any:
        return self._cache[self._name(part)]

    def __setitem__(self, part: str, value: Any) -> None:
        self._cache[self._name(part)] = value

    def __delitem__(self, part: str) -> None:
        del self._cache[self._name(part)]

    def __iter__(self) -> Iterator[str]:
        own = f"/{self._taken}"
        return (name.removesuffix(own) for name in self._cache if name.endswith(own))

    def __len__(self) -> int:
        return sum(1 for _ in self)


class _Run:
    def __init__(self, cache: Cache, progress: Progress) -> None:
        self._cache, self._progress = cache, progress
        self.fresh: list[StepName] = []

    def step(
        self, name: StepName, version: int, settings: StepSettings, taken: str, stretch: tuple[float, float],
        work: Callable[[Progress], T],
    ) -> tuple[str, T]:
        self._progress.raise_if_cancelled()
        key = hashlib.sha256(f"{name}/{version}/{settings.digest()}/{taken}".encode()).hexdigest()
        if key in self._cache:
            result = cast(T, self._cache[key])
        else:
            result = work(Part(self._progress, *stretch))
            self._cache[key] = result
            self.fresh.append(name)
        self._progress.report(stretch[1])
        return key, result
