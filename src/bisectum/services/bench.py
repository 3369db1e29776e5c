"""The use cases of the bench: bring in pictures, change settings, preview, work out, export."""

from __future__ import annotations

import hashlib
import re
import threading
from collections.abc import Sequence
from concurrent.futures import Future
from dataclasses import dataclass
from pathlib import Path
from typing import Any, cast

from bisectum.core.course import STEPS, CourseSettings, StepName
from bisectum.core.errors import BisectumError, BrokenStructure, ComputationError, PictureError, SettingsError
from bisectum.core.formats.svg.verify import verify_svg
from bisectum.core.formats.svg.write import write_svg
from bisectum.core.job import LONGEST_NAME, JobDocument, PictureItem
from bisectum.core.steps.background.settings import Touch
from bisectum.core.steps.layers.edge_view import Axis, Bar, EdgeView
from bisectum.services import compute
from bisectum.services.compute import Outcome, Recent
from bisectum.services.progress_board import ProgressBoard
from bisectum.store.blobs import Blobs
from bisectum.store.jobs import Change, Job, Jobs
from bisectum.worker.lane import Lane

FIRST_ITEM = "picture-1"
PREVIEW, FULL = "preview", "full"


@dataclass(frozen=True, slots=True)
class Shown:
    """A result on the stage. key: names it and its images for as long as they are kept."""

    key: str
    preview: bool
    outcome: Outcome
    edge: EdgeView


@dataclass(frozen=True, slots=True)
class NewJob:
    """A picture's file that a job is to be made of. name: the file's without its ending where it is not given."""

    data: bytes
    file_name: str
    name: str | None = None
    course: CourseSettings | None = None


class Bench:
    """Everything a person can do with jobs. Blocking; to be called from worker threads of the web."""

    def __init__(self, jobs: Jobs, blobs: Blobs, lanes: dict[str, Lane], progress: ProgressBoard) -> None:
        self._jobs, self._blobs, self._lanes, self.progress = jobs, blobs, lanes, progress
        self._shown = Recent(24)
        self._under_way: dict[str, Future[Shown]] = {}
        self._pictures = Recent(6)
        self._lock = threading.Lock()
        for lane in lanes.values():
            lane.order("warm-up", compute.warm_up)

    # The shelf

    def jobs(self) -> list[Job]:
        return self._jobs.all()

    def job(self, job_id: int) -> Job:
        return self._jobs.get(job_id)

    def history(self, job_id: int) -> list[Change]:
        return self._jobs.history(job_id)

    def new_job(self, data: bytes, file_name: str, name: str | None = None, course: CourseSettings | None = None) -> Job:
        """A job from a picture. Raises: PictureError; then nothing has been kept."""
        return self.new_jobs([NewJob(data, file_name, name, course)])[0]

    def new_jobs(self, wanted: Sequence[NewJob]) -> list[Job]:
        """Jobs from pictures, all of them or none. Raises: PictureError; then nothing has been kept."""
        documents = [self._begun(new) for new in wanted]
        return self._jobs.create(documents, "brought_in", [{"file": document.items[0].file_name} for document in documents])

    def _begun(self, new: NewJob) -> JobDocument:
        """The document of a new job, its picture kept. Raises: PictureError; then it is not."""
        data = new.data
        known = self._is_kept(data)
        blob = self._blobs.put(data)
        try:
            self._lanes[FULL].order(f"look-at-{blob}", compute.look_at, self._blobs.path(blob)).result()
        except PictureError:
            if not known:
                self._blobs.drop(blob)
            raise
        file_name = clean_name(new.file_name)
        item = PictureItem(id=FIRST_ITEM, source=blob, file_name=file_name, course=new.course or CourseSettings())
        title = new.name or file_name.rsplit(".", 1)[0].replace("_", " ").replace("-", " ").strip() or "New job"
        return JobDocument(name=title[:LONGEST_NAME], items=(item,))

    def rename(self, job_id: int, expected: int, name: str) -> Job:
        if not name.strip() or len(name.strip()) > LONGEST_NAME:
            raise SettingsError(f"A job's name has 1 to {LONGEST_NAME} characters; this one has {len(name.strip())}.",
                                code="bad_name", most=LONGEST_NAME, has=len(name.strip()))
        return self._jobs.change(job_id, expected, self.job(job_id).document.renamed(name), "renamed", {"name": name.strip()})

    def delete(self, job_id: int) -> None:
        for lane in self._lanes.values():
            lane.stop(_group(job_id))
        self._jobs.delete(job_id)

    # Settings, undo, redo

    def change(self, job_id: int, expected: int, step: StepName, settings: dict[str, Any]) -> Job:
        """One change of one step as a revision. Raises: ConflictError, NotFoundError, pydantic.ValidationError."""
        document = self.job(job_id).document.with_step(FIRST_ITEM, step, settings)
        job = self._jobs.change(job_id, expected, document, f"changed_{step}", settings)
        self._order_full(job)
        return job

    def undo(self, job_id: int) -> Job:
        return self._moved(self._jobs.undo(job_id))

    def redo(self, job_id: int) -> Job:
        return self._moved(self._jobs.redo(job_id))

    def _moved(self, job: Job) -> Job:
        self._order_full(job)
        return job

    # Results

    def result(self, job_id: int) -> Shown:
        """The full result of the job as it stands, worked out if it is not there. Raises: BisectumError of the work."""
        job = self.job(job_id)
        key = _key(job.document.items[0], preview=False)
        there = self.shown(key)
        if there is None:
            return self._order_full(job).result()
        if job.thumbnail is None:  # worked out for another job with the same picture and settings
            self._set_thumbnail(job.id, there)
        return there

    def preview(self, job_id: int, step: StepName, settings: dict[str, Any]) -> Shown:
        """What a change would give, on a reduced picture; the newest request of a job replaces the others."""
        item = self.job(job_id).document.with_step(FIRST_ITEM, step, settings).items[0]
        key = _key(item, preview=True)
        there = self.shown(key)
        if there is not None:
            return there
        future = self._lanes[PREVIEW].order(_group(job_id), compute.run, self._blobs.path(item.source), item.course, True)
        outcome: Outcome = future.result()
        return self._keep(Shown(key, True, outcome, EdgeView(outcome.artwork)))

    def stop(self, job_id: int) -> None:
        for lane in self._lanes.values():
            lane.stop(_group(job_id))

    def shown(self, key: str) -> Shown | None:
        with self._lock:
            try:
                return cast(Shown, self._shown[key])
            except KeyError:
                return None

    def edge(self, key: str, axis: Axis, at: float) -> list[Bar] | None:
        shown = self.shown(key)
        return shown.edge.cut(axis, at) if shown is not None else None

    def _order_full(self, job: Job) -> Future[Shown]:
        """Begin the full result of a job, in place of older work on it."""
        item = job.document.items[0]
        key = _key(item, preview=False)
        answer: Future[Shown] = Future()
        there = self.shown(key)
        if there is not None:
            self._lanes[FULL].stop(_group(job.id))
            self._set_thumbnail(job.id, there)
            answer.set_result(there)
            return answer
        with self._lock:
            if key in self._under_way:
                return self._under_way[key]
            self._under_way[key] = answer
        board = self.progress.begin(job.id)
        future = self._lanes[FULL].order(_group(job.id), compute.run, self._blobs.path(item.source), item.course, False,
                                         on_step=board.step)

        def settle(done: Future[Outcome]) -> None:
            with self._lock:
                self._under_way.pop(key, None)
            try:
                outcome = done.result()
                shown = Shown(key, False, outcome, EdgeView(outcome.artwork))
                self._set_thumbnail(job.id, shown)
                self._keep(shown)
                board.end()
                answer.set_result(shown)
            except BisectumError as error:
                if error.code != "superseded":  # the newer work has begun to tell of itself
                    board.fail(error.code)
                answer.set_exception(error)
            except Exception as error:  # the disk is full, say; whoever waits must hear of it
                board.fail("not_kept")
                answer.set_exception(ComputationError(f"The result could not be kept: {error}.", code="not_kept"))

        future.add_done_callback(settle)
        return answer

    def _keep(self, shown: Shown) -> Shown:
        with self._lock:
            self._shown[shown.key] = shown
        return shown

    def _set_thumbnail(self, job_id: int, shown: Shown) -> None:
        self._jobs.set_thumbnail(job_id, self._blobs.put(shown.outcome.images["thumbnail"]))

    # Pictures and files

    def picture(self, job_id: int) -> bytes:
        """The picture for the stage, PNG."""
        source = self.job(job_id).document.items[0].source
        with self._lock:
            if source in self._pictures:
                return self._pictures[source]
        path = self._blobs.path(source)
        data: bytes = self._lanes[PREVIEW].order(f"picture-{source}", compute.picture_png, path, compute.STAGE_PX).result()
        with self._lock:
            self._pictures[source] = data
        return data

    def spot(self, job_id: int, touch: Touch) -> bytes:
        """What a click on the background would take, PNG of preview size; a newer question replaces older ones."""
        item = self.job(job_id).document.items[0]
        path = self._blobs.path(item.source)
        data: bytes = self._lanes[PREVIEW].order(f"spot-{job_id}", compute.spot_png, path, item.course, touch).result()
        return data

    def ground(self, job_id: int, settings: dict[str, Any]) -> bytes:
        """The ground that a change of the background would give, PNG of preview size: there before the rest of the work."""
        item = self.job(job_id).document.with_step(FIRST_ITEM, "background", settings).items[0]
        path = self._blobs.path(item.source)
        data: bytes = self._lanes[PREVIEW].order(_group(job_id), compute.ground_png, path, item.course).result()
        return data

    def dropper(self, job_id: int, x: float, y: float) -> str | None:
        """The colour of the flat area at a place of the picture, "#rrggbb"; None beside it."""
        item = self.job(job_id).document.items[0]
        path = self._blobs.path(item.source)
        found: str | None = self._lanes[PREVIEW].order(f"dropper-{job_id}", compute.dropper, path, item.course, x, y).result()
        return found

    def thumbnail(self, job_id: int) -> Path | None:
        name = self.job(job_id).thumbnail
        return self._blobs.path(name) if name is not None else None

    def export_svg(self, job_id: int) -> tuple[str, str]:
        """File name and text of the plain SVG, read back and compared. Raises: BisectumError."""
        job = self.job(job_id)
        shown = self.result(job_id)
        if shown.outcome.fault is not None:
            raise BrokenStructure(f"{shown.outcome.fault} Please report this; the job is as it was.")
        text = write_svg(shown.outcome.artwork, job.document.name)
        verify_svg(text, shown.outcome.artwork)
        stem = re.sub(r"[^\w-]+", "-", job.document.name).strip("-") or "bisectum"
        return f"{stem}.svg", text

    def close(self) -> None:
        for lane in self._lanes.values():
            lane.close()

    def _is_kept(self, data: bytes) -> bool:
        try:
            self._blobs.path(hashlib.sha256(data).hexdigest())
        except BisectumError:
            return False
        return True


def clean_name(text: str) -> str:
    """A file's name without folders or unprintable characters, not too long."""
    name = re.split(r"[/\\]", text)[-1]
    name = "".join(character for character in name if character.isprintable()).strip()
    if len(name) > LONGEST_NAME:
        stem, dot, ending = name.rpartition(".")
        name = f"{stem[: LONGEST_NAME - len(ending) - 1]}{dot}{ending}" if dot and len(ending) < 8 else name[:LONGEST_NAME]
    return name or "picture"


def _group(job_id: int) -> str:
    return f"job-{job_id}"


def _key(item: PictureItem, preview: bool) -> str:
    return hashlib.sha256(f"{item.source}/{item.course.digest()}/{preview}/{len(STEPS)}".encode()).hexdigest()[:32]
