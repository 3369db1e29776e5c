"""Results of jobs: ordered from the computing processes, kept while there is room, handed to all who wait.

Nothing here waits: every question gives a future, so a thousand open pages hold no thread of the server.
"""

from __future__ import annotations

import hashlib
import itertools
import logging
import threading
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any, TypeVar

from bisectum.core.check import CutCheck
from bisectum.core.errors import BisectumError, ComputationError
from bisectum.core.formats.pdf.build_sheet import Paper
from bisectum.core.formats.svg.write import path_data
from bisectum.core.job import JobDocument, LetteringItem, PictureItem
from bisectum.core.steps.background.settings import Touch
from bisectum.core.steps.layers.edge_view import Axis, Bar, EdgeView
from bisectum.core.tryouts.recipes import Recipe, Treatment
from bisectum.services import build_sheet, check, compute, cut, export, fonts, sheets
from bisectum.services.compute import Outcome, Tried
from bisectum.services.cut import DrawnCut
from bisectum.services.export import Wanted
from bisectum.services.kept import Kept
from bisectum.services.marks import Sender
from bisectum.services.pieces import PieceList
from bisectum.services.progress_board import ProgressBoard, Work
from bisectum.services.sheets import DrawnPlan
from bisectum.store.blobs import Blobs
from bisectum.store.jobs import Job, Jobs
from bisectum.worker.lane import Lane

PREVIEW, FULL, BATCH = "preview", "full", "batch"
LOG = logging.getLogger("bisectum.results")
T = TypeVar("T")


@dataclass(frozen=True)
class Shown:
    """A result on the stage. key: names it for as long as it is kept."""

    key: str
    preview: bool
    outcome: Outcome

    @cached_property
    def edge(self) -> EdgeView:
        return EdgeView(self.outcome.artwork)

    @cached_property
    def paths(self) -> tuple[str, ...]:
        """SVG path data of each layer."""
        return tuple(path_data(layer) for layer in self.outcome.artwork.layers)


@dataclass(frozen=True, slots=True, eq=False)
class _UnderWay:
    """A full result that is being worked out. answer: what all who want it wait for; lane: where."""

    answer: Future[Shown]
    lane: str


class Results:
    """What the bench shows of jobs. Full results, previews and batches have a lane each."""

    def __init__(
        self, jobs: Jobs, blobs: Blobs, lanes: dict[str, Lane], progress: ProgressBoard, most_bytes: int, layouts: Path,
    ) -> None:
        """layouts: the folder of close layouts."""
        self._jobs, self._blobs, self._lanes, self.progress, self._layouts = jobs, blobs, lanes, progress, layouts
        self._plans = Kept(most_bytes // 8)
        self._senders = {name: Sender() for name in lanes}
        self._shown, self._previews, self._pictures = Kept(most_bytes // 2), Kept(most_bytes // 6), Kept(most_bytes // 3)
        self._under_way: dict[tuple[int, int], _UnderWay] = {}
        self._asked: dict[str, Future[Any]] = {}
        self._open: dict[int, int] = {}
        self._pinned: dict[int, str] = {}
        self._ranks = itertools.count(1)
        self._lock = threading.Lock()

    # Full results

    def of(self, job: Job, seldom: bool = False) -> Future[Shown]:
        """The full result of a job as it stands, in place of older work on it. seldom: on the lane that gives way to others."""
        key = key_of(job.document, preview=False)
        there = self.shown(key)
        if there is not None:
            self._stop_older(job)
            self._is_shown(job, there)
            return _done(there)
        lane, at = BATCH if seldom else FULL, (job.id, job.moves)
        with self._lock:
            before = self._under_way.get(at)
            if before is not None and (seldom or before.lane == FULL):
                return before.answer
            # What waits among batches is brought forward, for those who wait for it already, too.
            now = self._under_way[at] = _UnderWay(before.answer if before else Future(), lane)
        board = self.progress.begin(job.id, job.moves)
        try:
            work = self._ordered(lane, job.document, False, _group(job.id), job.moves, board.step)
        except Exception as error:  # a picture is missing, say: whoever waits must hear of it
            self._settle_failure(at, now, board, error)
            return now.answer
        self._stop_older(job)
        if before is not None:
            self._lanes[BATCH].stop(_group(job.id))
        work.add_done_callback(lambda done: self._settle(job, key, now, board, done))
        return now.answer

    def _stop_older(self, job: Job) -> None:
        """Give up full results of earlier states of a job, on whichever lane."""
        for lane in (FULL, BATCH):
            self._lanes[lane].stop_older(_group(job.id), job.moves)

    def _settle(self, job: Job, key: str, own: _UnderWay, board: Work, done: Future[Outcome]) -> None:
        at = (job.id, job.moves)
        with self._lock:
            if self._under_way.get(at) is not own:  # it was brought forward, and is answered from there
                return
        try:
            shown = Shown(key, False, done.result())
            self._shown[key] = shown
            self._is_shown(job, shown)
        except Exception as error:
            self._settle_failure(at, own, board, error)
            return
        with self._lock:
            self._under_way.pop(at, None)
        board.end()
        own.answer.set_result(shown)

    def _settle_failure(self, at: tuple[int, int], own: _UnderWay, board: Work, error: Exception) -> None:
        with self._lock:
            self._under_way.pop(at, None)
        if not isinstance(error, BisectumError):
            LOG.error("A result could not be kept", exc_info=error)
            error = ComputationError("The result could not be kept. The job is as it was.", code="not_kept")
        if error.code != "superseded":  # the newer work has begun to tell of itself
            board.fail(error.code)
        own.answer.set_exception(error)

    def stop(self, job_id: int) -> None:
        """Give up all work on a job."""
        for lane in self._lanes.values():
            lane.stop(_group(job_id))

    # Previews and questions

    def preview(self, job_id: int, document: JobDocument) -> Future[Shown]:
        """What a changed document would give, on reduced pictures. The newest request of a job replaces the others."""
        key = key_of(document, preview=True)
        there = self.shown(key)
        if there is not None:
            return _done(there)
        work = self._ordered(PREVIEW, document, True, _group(job_id), next(self._ranks))
        return _then(work, lambda outcome: self._kept_preview(Shown(key, True, outcome)))

    def _kept_preview(self, shown: Shown) -> Shown:
        self._previews[shown.key] = shown
        return shown

    def picture(self, source: str) -> Future[bytes]:
        """The picture for the stage, PNG. Raises: NotFoundError."""
        there: bytes | None = self._pictures.get(source)
        if there is not None:
            return _done(there)
        work = self._lanes[PREVIEW].order(None, compute.picture_png, self._blobs.path(source), compute.STAGE_PX)

        def keep(data: bytes) -> bytes:
            self._pictures[source] = data
            return data

        return _then(work, keep)

    def spot(self, job_id: int, document: JobDocument, item_id: str, touch: Touch) -> Future[bytes]:
        """What a click on the background would take, PNG of preview size; a newer question replaces older ones."""
        item = document.picture(item_id)
        course = item.course.with_fields({"background": item.course.background.with_fields({"touches": ()})})
        return self._lanes[PREVIEW].order(f"{_group(job_id)}/spot", compute.spot_png, self._blobs.path(item.source), course,
                                          touch, rank=next(self._ranks))

    def ground(self, job_id: int, document: JobDocument, item_id: str) -> Future[bytes]:
        """The ground that a changed document gives, PNG of preview size: there before the rest of the work."""
        path = self._blobs.path(document.picture(item_id).source)
        return self._sent(PREVIEW, document, lambda sent: self._lanes[PREVIEW].order(
            _group(job_id), compute.ground_png, path, sent, item_id, rank=next(self._ranks)))

    def cleared(self, document: JobDocument, item_id: str) -> Future[bytes]:
        """The picture of an item without its background, PNG. Raises: NotFoundError."""
        path = self._blobs.path(document.picture(item_id).source)
        return self._sent(FULL, document, lambda sent: self._lanes[FULL].order(None, compute.cleared_png, path, sent, item_id))

    def pieces(self, job_id: int, document: JobDocument, item_id: str) -> Future[PieceList]:
        """The pieces of a picture as the job stands; a newer question replaces older ones."""
        path = self._blobs.path(document.picture(item_id).source)
        return self._shared(f"pieces/{item_id}/{key_of(document, preview=False)}", lambda: self._sent(
            FULL, document, lambda sent: self._lanes[FULL].order(
                f"{_group(job_id)}/pieces/{item_id}", compute.pieces, path, sent, item_id, rank=next(self._ranks))))

    def dropper(self, job_id: int, document: JobDocument, item_id: str, x: float, y: float) -> Future[str | None]:
        """The colour of the flat area at a place of the picture, "#rrggbb"; None beside it."""
        item = document.picture(item_id)
        course = item.course.with_fields({"background": item.course.background.with_fields({"touches": ()})})
        return self._lanes[PREVIEW].order(None, compute.dropper, self._blobs.path(item.source), course, x, y,
                                          rank=next(self._ranks))

    def recipes(
        self, job_id: int, document: JobDocument, item_id: str, treatment: Treatment, like_this: bool
    ) -> Future[tuple[Recipe, ...]]:
        """What is worth trying on an item's picture. Raises: pydantic.ValidationError."""
        document = _treated(document, item_id, treatment)
        path = self._blobs.path(document.picture(item_id).source)
        return self._sent(PREVIEW, document, lambda sent: self._lanes[PREVIEW].order(
            f"{_group(job_id)}/recipes", compute.recipes, path, sent, item_id, like_this, rank=next(self._ranks)))

    def tried(self, job_id: int, document: JobDocument, item_id: str, treatment: Treatment) -> Future[Tried]:
        """A treatment tried on an item's picture. The newest request of a job replaces the others.

        Raises: pydantic.ValidationError.
        """
        document = _treated(document, item_id, treatment)
        path = self._blobs.path(document.picture(item_id).source)
        return self._sent(PREVIEW, document, lambda sent: self._lanes[PREVIEW].order(
            f"{_group(job_id)}/try", compute.tried, path, sent, item_id, rank=next(self._ranks)))

    def look_at(self, path: Path) -> Future[Any]:
        """Whether a picture's file can be used. The future raises: PictureError."""
        return self._lanes[PREVIEW].order(None, compute.look_at, path)

    def variant(self, job: Job, cloth: str) -> Future[Shown]:
        """The full result of the make for another cloth. A newer question of the job replaces older ones for the same cloth."""
        document = job.document.for_cloth(cloth)
        key = key_of(document, preview=False)
        there = self.shown(key)
        if there is not None:
            return _done(there)
        return self._shared(f"cloth/{key}", lambda: _then(
            self._ordered(FULL, document, False, f"{_group(job.id)}/cloth/{cloth}", job.moves),
            lambda outcome: self._kept_variant(Shown(key, False, outcome))))

    def _kept_variant(self, shown: Shown) -> Shown:
        self._shown[shown.key] = shown
        return shown

    # Files, sheets and the check: of the make as it stands

    def export(self, job: Job, wanted: Wanted) -> Future[tuple[str, str, bytes]]:
        """Name, media type and bytes of files of the job as it stands, written, read back and compared in the computing
        process."""
        return self._of_make(None, job.document, export.exported, wanted)

    def build_sheet(self, job: Job, cloth: str, paper: Paper) -> Future[bytes]:
        """The build sheet of the job as it stands, PDF."""
        return self._of_make(None, job.document.for_cloth(cloth), build_sheet.build_sheet, self._layouts, paper)

    def sheet_file(self, job: Job, cloth: str, kind: str, number: int) -> Future[tuple[str, bytes]]:
        """The name and bytes of one sheet of the job as it stands."""
        document = job.document.for_cloth(cloth)
        return self._of_make(None, document, sheets.sheet_file, self._layouts, kind, number, document.name)

    def sheets_archive(self, job: Job, cloth: str, kind: str) -> Future[bytes]:
        """All sheets of the job as it stands, as an archive."""
        document = job.document.for_cloth(cloth)
        return self._of_make(None, document, sheets.sheets_archive, self._layouts, kind, document.name)

    def sheets(self, job: Job, cloth: str = "") -> Future[DrawnPlan]:
        """The sheets of the job as it stands. A question about a newer state replaces older ones."""
        document = job.document.for_cloth(cloth)
        return self._kept_plan(f"sheets/{document.make.sheets.digest}", document, lambda: self._of_make(
            f"{_group(job.id)}/sheets/{cloth}", document, sheets.drawn, self._layouts,
            told=self.progress.begin(job.id, job.moves)))

    def taken(self, job: Job, cloth: str) -> Future[DrawnPlan]:
        """The sheets of the job as it stands, for what they take of each stock. Nothing replaces this question."""
        document = job.document.for_cloth(cloth)
        return self._kept_plan(f"sheets/{document.make.sheets.digest}", document, lambda: self._of_make(
            None, document, sheets.drawn, self._layouts), is_shared=False)

    def cut(self, job: Job, cloth: str, number: int) -> Future[DrawnCut]:
        """A sheet of the job, cut by the stand-in cutter. number: from 0. A question about a newer state replaces older ones."""
        document = job.document.for_cloth(cloth)
        return self._kept_plan(f"cut/{document.make.sheets.digest}/{number}", document, lambda: self._of_make(
            f"{_group(job.id)}/cut/{cloth}/{number}", document, cut.cut_sheet, self._layouts, number,
            told=self.progress.begin(job.id, job.moves)))

    def check(self, job: Job, cloth: str = "") -> Future[CutCheck]:
        """The cut check of the job as it stands. A question about a newer state replaces older ones."""
        document = job.document.for_cloth(cloth)
        make, names = document.make, "/".join(item.name for item in document.items)
        return self._kept_plan(f"check/{make.sheets.digest}/{make.check.digest}/{names}", document, lambda: self._of_make(
            f"{_group(job.id)}/check/{cloth}", document, check.checked, self._layouts))

    def _shared(self, key: str, ask: Callable[[], Future[T]]) -> Future[T]:
        """The answer to a question: the one that somebody else is waiting for already, if there is one."""
        with self._lock:
            under_way: Future[T] | None = self._asked.get(key)
            if under_way is None:
                answer: Future[T] = Future()
                self._asked[key] = answer
        if under_way is not None:
            return under_way

        def settle(done: Future[T]) -> None:
            with self._lock:
                del self._asked[key]
            error = done.exception()
            if error is not None:
                answer.set_exception(error)
            else:
                answer.set_result(done.result())

        try:
            work = ask()
        except Exception as error:  # a picture is missing, say: whoever waits must hear of it
            work = Future()
            work.set_exception(error)
        work.add_done_callback(settle)
        return answer

    def _kept_plan(
        self, name: str, document: JobDocument, ask: Callable[[], Future[T]], is_shared: bool = True
    ) -> Future[T]:
        """What was made of a document before, or else is asked for now and kept. is_shared: the answer may be one that somebody
        else waits for, and that a newer state may replace."""
        key = f"{name}/{key_of(document, preview=False)}"
        there: T | None = self._plans.get(key)
        if there is not None:
            return _done(there)

        def keep(plan: T) -> T:
            self._plans[key] = plan
            return plan

        return self._shared(key, lambda: _then(ask(), keep)) if is_shared else _then(ask(), keep)

    # What is kept

    def shown(self, key: str) -> Shown | None:
        found: Shown | None = self._shown.get(key) or self._previews.get(key)
        return found

    def raster(self, name: str) -> bytes | None:
        """A raster of any result that is kept, PNG."""
        for kept in (self._shown, self._previews):
            for key in reversed(list(kept)):
                shown = kept.get(key)
                if shown is not None and name in shown.outcome.rasters:
                    return bytes(shown.outcome.rasters[name])
        return None

    def edge(self, key: str, axis: Axis, at: float) -> list[Bar] | None:
        """The stack under a seam; None for a result that is no longer kept."""
        shown = self.shown(key)
        return shown.edge.cut(axis, at) if shown is not None else None

    def opened(self, job_id: int) -> None:
        """Somebody has the job on the bench: its result stays in memory, whatever else comes in."""
        with self._lock:
            self._open[job_id] = self._open.get(job_id, 0) + 1

    def closed(self, job_id: int) -> None:
        """One who had it there has left."""
        with self._lock:
            left = self._open.pop(job_id, 1) - 1
            if left > 0:
                self._open[job_id] = left
            elif job_id in self._pinned:
                self._shown.unpin(self._pinned.pop(job_id))

    def _is_shown(self, job: Job, shown: Shown) -> None:
        """Take note that a job has this result now."""
        with self._lock:
            if job.id in self._open and self._pinned.get(job.id) != shown.key:
                if job.id in self._pinned:
                    self._shown.unpin(self._pinned[job.id])
                self._shown.pin(shown.key)
                self._pinned[job.id] = shown.key
        self._set_thumbnail(job, shown)

    def close(self) -> None:
        """End the processes. Whoever waits or watches is told."""
        self.progress.ended = True
        for lane in self._lanes.values():
            lane.close()

    def _set_thumbnail(self, job: Job, shown: Shown) -> None:
        with self._blobs.held(shown.outcome.thumbnail) as (name,):
            artwork = shown.outcome.artwork
            self._jobs.set_looks(job.id, name, round(artwork.width, 3), round(artwork.height, 3), len(artwork.layers))

    # Orders

    def _paths(self, document: JobDocument) -> dict[str, Path]:
        """Raises: NotFoundError where a picture is missing."""
        return {name: self._blobs.path(name) for name in document.files}

    def _ordered(
        self, lane: str, document: JobDocument, preview: bool, group: str, rank: int,
        on_step: Callable[[float, str], None] | None = None,
    ) -> Future[Outcome]:
        paths, fonts = self._paths(document), self._fonts(document)
        return self._sent(lane, document, lambda sent: self._lanes[lane].order(
            group, compute.run, paths, fonts, sent, preview, rank=rank, on_step=on_step))

    def _of_make(
        self, group: str | None, document: JobDocument, work: Callable[..., T], *values: object, told: Work | None = None
    ) -> Future[T]:
        """An order of what is made from a full result. group: newer orders of it replace older ones; values: what `work` takes
        after the pictures' and fonts' files and the document; told: where it says how far it is."""
        paths, own_fonts = self._paths(document), self._fonts(document)
        return self._sent(FULL, document, lambda sent: self._lanes[FULL].order(
            group, work, paths, own_fonts, sent, *values, rank=next(self._ranks), on_step=told.step if told else None))

    def _fonts(self, document: JobDocument) -> dict[str, Path]:
        """Where the person's own fonts lie that a job uses. Raises: NotFoundError where one is missing."""
        used = {item.made.font for item in document.items if isinstance(item, LetteringItem)}
        return {font: self._blobs.path(font) for font in used if not fonts.is_shipped(font)}

    def _sent(self, lane: str, document: JobDocument, order: Callable[[Any], Future[T]]) -> Future[T]:
        """An order with its document; sent once more, and whole, to a process that lacks some of its marks."""
        answer: Future[T] = Future()

        def settle(done: Future[T], again: bool) -> None:
            error = done.exception()
            if again and isinstance(error, ComputationError) and error.code == "mark_missing":
                order(self._senders[lane].send(document, whole=True)).add_done_callback(lambda done: settle(done, False))
            elif error is not None:
                answer.set_exception(error)
            else:
                answer.set_result(done.result())

        order(self._senders[lane].send(document)).add_done_callback(lambda done: settle(done, True))
        return answer


def _done(value: T) -> Future[T]:
    future: Future[T] = Future()
    future.set_result(value)
    return future


def _then(work: Future[Any], make: Callable[[Any], T]) -> Future[T]:
    """The future of what `make` makes of another one's result."""
    answer: Future[T] = Future()

    def settle(done: Future[Any]) -> None:
        try:
            answer.set_result(make(done.result()))
        except Exception as error:
            answer.set_exception(error)

    work.add_done_callback(settle)
    return answer


def _treated(document: JobDocument, item_id: str, treatment: Treatment) -> JobDocument:
    """Raises: pydantic.ValidationError."""
    return document.with_item(item_id, course=treatment.on(document.picture(item_id).course))


def _group(job_id: int) -> str:
    return f"job-{job_id}"


def key_of(document: JobDocument, preview: bool) -> str:
    """The same for documents that give the same result: names, other cloths and sheets do not matter."""
    parts = [f"{item.id}/{item.hidden}/{item.place.digest}/{item.part.digest}/" +
             (f"{item.source}/{item.course.digest}" if isinstance(item, PictureItem) else item.made.digest)
             for item in document.items]
    make = f"{document.make.arrange.digest}/{document.make.layers.digest_without('variants')}"
    return hashlib.sha256(f"{preview}|{'|'.join(parts)}|{make}".encode()).hexdigest()[:32]
