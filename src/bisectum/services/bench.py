"""The use cases of the bench: bring in pictures, change settings, undo, redo; what jobs there are."""

from __future__ import annotations

import hashlib
import logging
import re
import threading
from collections.abc import Callable, Collection, Mapping, Sequence
from concurrent.futures import Future
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, cast, get_args

from bisectum.core.course import CourseSettings, StepName
from bisectum.core.errors import BisectumError, Cancelled, InputError, SettingsError
from bisectum.core.formats.exporters import exporter
from bisectum.core.formats.ready.read import is_vector, read_lines
from bisectum.core.job import LONGEST_NAME, JobDocument, MakeSettings, MakeStep, PictureItem, new_document
from bisectum.core.moves import Move, Stands, copied, moved, pinned
from bisectum.core.steps.check.settings import MaterialLimits
from bisectum.core.steps.layers.opposite import with_opposite
from bisectum.core.steps.layers.settings import MOST_CLOTHS
from bisectum.core.steps.settings import StepSettings
from bisectum.core.text import one_line
from bisectum.services.export import Wanted
from bisectum.services.items import ItemChanges, NewItem, stands_of, with_changes, with_new
from bisectum.services.progress_board import ProgressBoard
from bisectum.services.results import Results, key_of
from bisectum.services.sheets import DrawnPlan, plain
from bisectum.store.blobs import Blobs
from bisectum.store.database import Database
from bisectum.store.jobs import Change, Edit, Job, Jobs, JobSummary
from bisectum.store.leavings import Leavings, Left
from bisectum.store.usage import Usages
from bisectum.worker.door import through_the_door

LOG = logging.getLogger("bisectum.bench")
MovesOf = Callable[[JobDocument, Stands], Mapping[str, Move]]
"""How the items of a document move that stand so."""


@dataclass(frozen=True, slots=True)
class NewJob:
    """A picture's file that a job is to be made of. name: the file's without its ending where it is not given. then: what else is
    done to the document. others: further pictures in it, each with the name of its file."""

    data: bytes
    file_name: str
    name: str | None = None
    course: CourseSettings | None = None
    make: MakeSettings | None = None
    then: Edit | None = None
    others: tuple[tuple[bytes, str], ...] = ()


@dataclass(frozen=True, slots=True)
class Edits:
    """Changes of one step: fields replaced; members added at the end of lists; members taken out, by their numbers.

    ticket: of the request; a change is made once for each."""

    settings: dict[str, Any]
    add: dict[str, list[Any]] = field(default_factory=dict)
    take_out: dict[str, list[int]] = field(default_factory=dict)
    ticket: str | None = None

    def fields(self, now: StepSettings) -> dict[str, Any]:
        """The fields they give, made on what is there now. Raises: SettingsError."""
        fields = dict(self.settings)
        for name in (*self.add, *self.take_out):
            present = getattr(now, name, None)
            if not isinstance(present, tuple):
                raise SettingsError(f"“{name[:40]}” is no list that could be added to.", code="settings", place=name[:40])
            gone = set(self.take_out.get(name, ()))
            fields[name] = (*(one for number, one in enumerate(present) if number not in gone), *self.add.get(name, ()))
        return fields

    @property
    def summary(self) -> dict[str, object]:
        """What the history says of them."""
        return {**self.settings, **{name: len(own) for name, own in (*self.add.items(), *self.take_out.items())}}


@dataclass(frozen=True, slots=True)
class Repairing:
    """Changes of one step that mend a finding. item: of which picture, empty for the make; step: "item" for an item's own
    fields."""

    item: str
    step: str
    edits: Edits


class Bench:
    """Everything a person can do with jobs. Its own calls are short; long work is ordered from `results`."""

    def __init__(
        self, database: Database, blobs: Blobs, results: Results, progress: ProgressBoard, jobs: Jobs, leavings: Leavings,
        usages: Usages,
    ) -> None:
        self._leavings, self._usages = leavings, usages
        self._database, self._blobs, self.results, self.progress, self._jobs = database, blobs, results, progress, jobs
        self._tidying = threading.Lock()
        self.freed = 0
        """Bytes that were given back to the disk since the start."""

    # The shelf

    def jobs(self, thrown: bool = False) -> list[JobSummary]:
        """thrown: those that were taken off the shelf."""
        return self._jobs.summaries(thrown)

    def job(self, job_id: int) -> Job:
        return self._jobs.get(job_id)

    def history(self, job_id: int) -> list[Change]:
        return self._jobs.history(job_id)

    def new_job(self, data: bytes, file_name: str, name: str | None = None, course: CourseSettings | None = None) -> Job:
        """A job from a picture. Raises: PictureError; then nothing has been kept."""
        return self.new_jobs([NewJob(data, file_name, name, course)])[0]

    def new_jobs(self, wanted: Sequence[NewJob]) -> list[Job]:
        """Jobs from pictures, all of them or none. Raises: PictureError, InputError; then nothing has been kept."""
        if any(is_vector(new.data) for new in wanted):
            raise InputError("A job begins with a picture. Open one and drop this vector file there: it comes in beside it.",
                             code="lines_alone")
        files_of = [(new.data, *(data for data, _ in new.others)) for new in wanted]
        limits = self._limits()
        with self._blobs.held(*(data for own in files_of for data in own)) as names:
            for name in names:
                self.results.look_at(self._blobs.path(name)).result()
            ahead = iter(names)
            documents = [_begun(new, [next(ahead) for _ in own]).with_make_step("check", {"limits": limits})
                         for new, own in zip(wanted, files_of, strict=True)]
            files: list[dict[str, object]] = [{"file": document.pictures[0].file_name} for document in documents]
            jobs = self._jobs.create(documents, "brought_in", files)
        self._ready(jobs)
        return jobs

    def _limits(self) -> tuple[MaterialLimits, ...]:
        """What the machine at hand can cut, as it was said last: a new job begins with it."""
        for last in self._jobs.summaries():
            with suppress(BisectumError):  # one that cannot be read stands in no new one's way
                return self._jobs.get(last.id).document.make.check.limits
        return ()

    def _ready(self, jobs: list[Job]) -> None:
        """Begin what will be asked for next. Of several jobs the first results wait behind what is on the bench."""
        for job in jobs:
            self.results.of(job, seldom=len(jobs) > 1).add_done_callback(_told)

    def bring_in(self, job_id: int, expected: int, data: bytes, file_name: str) -> Job:
        """Another picture into a job, or ready lines. Raises: PictureError, InputError, SettingsError, ConflictError; then
        nothing has been kept."""
        if is_vector(data):
            return self._bring_in_lines(job_id, expected, data, clean_name(file_name))
        with self._blobs.held(data) as (name,):
            self.results.look_at(self._blobs.path(name)).result()
            clean = clean_name(file_name)

            def edit(document: JobDocument) -> JobDocument:
                return document.with_picture(name, clean, _title_of(clean), CourseSettings())

            return self._changed(job_id, expected, edit, "brought_in_another", {"file": clean})

    def _bring_in_lines(self, job_id: int, expected: int, data: bytes, file_name: str) -> Job:
        with self._blobs.held(data) as (name,):
            through_the_door(read_lines, data)

            def edit(document: JobDocument) -> JobDocument:
                return document.with_made("lines", _title_of(file_name), {"made": {"source": name, "file_name": file_name}})

            return self._changed(job_id, expected, edit, "brought_in_another", {"file": file_name})

    def rename(self, job_id: int, expected: int, name: str, ticket: str | None = None) -> Job:
        """Raises: SettingsError."""
        named = _name(name)
        return self._changed(job_id, expected, lambda document: document.renamed(named), "renamed", {"name": named}, ticket)

    def delete(self, job_id: int) -> None:
        """Take a job off the shelf; what only it needed is given back to the disk soon. Raises: NotFoundError."""
        self.results.stop(job_id)
        self._jobs.delete(job_id)
        self.progress.gone(job_id)
        threading.Thread(target=self.tidy, daemon=True).start()

    def tidy(self) -> int:
        """Take out files and parts that nothing names any more. Returns bytes given back. One at a time."""
        with self._tidying:
            try:
                self._jobs.drop_unused_parts()
                freed = self._blobs.collect(self._jobs.blobs_in_use) + self._database.shrink()
            except BisectumError:
                LOG.exception("Tidying was not done")
                return 0
            self.freed += freed
            return freed

    # Changes

    def change(self, job_id: int, expected: int, item_id: str, step: StepName, edits: Edits) -> Job:
        """One change of one step of an item. Raises: ConflictError, NotFoundError, SettingsError, pydantic.ValidationError."""
        def edit(document: JobDocument) -> JobDocument:
            return self.edited(document, item_id, step, edits)

        return self._changed(job_id, expected, edit, f"changed_{step}", edits.summary, edits.ticket)

    @staticmethod
    def edited(document: JobDocument, item_id: str, step: StepName, edits: Edits) -> JobDocument:
        """A document with a change that is not kept. Raises: as change."""
        return document.with_step(item_id, step, edits.fields(getattr(document.picture(item_id).course, step)))

    def change_make(self, job_id: int, expected: int, step: MakeStep, edits: Edits) -> Job:
        """One change of one step of the make. Raises: as change."""
        def edit(document: JobDocument) -> JobDocument:
            return self.edited_make(document, step, edits)

        return self._changed(job_id, expected, edit, f"changed_{step}", edits.summary, edits.ticket)

    @staticmethod
    def edited_make(document: JobDocument, step: MakeStep, edits: Edits) -> JobDocument:
        """A document with a change of the make that is not kept. Raises: as change."""
        return document.with_make_step(step, edits.fields(getattr(document.make, step)))

    def repair(self, job_id: int, expected: int, code: str, edits: Sequence[Repairing], ticket: str | None = None) -> Job:
        """What mends findings of the cut check, as one step of the history. Raises: as change."""
        return self._changed(job_id, expected, lambda document: self.repaired(document, edits), "repaired",
                             {"did": code, "count": len(edits)}, ticket)

    @staticmethod
    def repaired(document: JobDocument, edits: Sequence[Repairing]) -> JobDocument:
        """A document with repairs that are not kept. Raises: as change."""
        for one in edits:
            if one.step == "item":
                document = document.with_changed_item(one.item, one.edits.settings)
            elif one.step in get_args(StepName):
                document = Bench.edited(document, one.item, cast(StepName, one.step), one.edits)
            else:
                document = Bench.edited_make(document, cast(MakeStep, one.step), one.edits)
        return document

    def resize(self, job_id: int, expected: int, width_mm: float, ticket: str | None = None) -> Job:
        """Make everything larger or smaller by one factor, so that the page is so wide.

        Raises: ConflictError; pydantic.ValidationError where an item would become too small or too large.
        """
        outcome = self.results.of(self.job(job_id)).result().outcome
        left, _, right, _ = outcome.artwork.room
        factor = (width_mm - left - right) / (outcome.artwork.width - left - right)
        if factor <= 0:
            raise SettingsError("The backing alone is wider than that; make its margin smaller first.",
                                code="smaller_than_backing")
        widths = {item.id: item.size[0] for item in outcome.items}
        return self._changed(job_id, expected, lambda document: _resized(document, widths, factor), "resized",
                             {"width_mm": width_mm}, ticket)

    def add_opposite(self, job_id: int, expected: int, ticket: str | None = None) -> Job:
        """The variant for the opposite cloth, as one more. Raises: ConflictError, SettingsError."""
        job = self.job(job_id)
        outcome = self.results.of(job).result().outcome

        def edit(document: JobDocument) -> JobDocument:
            layers = document.make.layers
            if len(layers.variants) >= MOST_CLOTHS:
                raise SettingsError(f"A job is made for at most {MOST_CLOTHS} further cloths.", code="too_many_cloths",
                                    most=MOST_CLOTHS)
            return document.with_make_step("layers", with_opposite(layers, outcome.artwork.layers, outcome.scales))

        return self._changed(job_id, expected, edit, "added_cloth", {}, ticket)

    # Items that are no pictures, and how all items lie

    def add_made(self, job_id: int, expected: int, new: NewItem, ticket: str | None = None) -> Job:
        """Lettering, a shape, a drawn line or a border. Raises: SettingsError, ConflictError, pydantic.ValidationError."""
        stands = self._stands_if_any(job_id)
        return self._changed(job_id, expected, lambda document: with_new(document, new, stands), f"added_{new.kind}",
                             {"name": new.name}, ticket)

    def _stands(self, job_id: int) -> Stands:
        """Where the items of the job stand as it is now, waited for: also where somebody stops the work or the job moves on.
        Raises: SettingsError where nothing is left to cut; Cancelled when the program is being ended."""
        while True:
            try:
                return stands_of(self.results.of(self.job(job_id)).result().outcome)
            except Cancelled as given_up:
                if given_up.code == "ended":
                    raise

    def _stands_if_any(self, job_id: int) -> Stands:
        """The same; nothing stands anywhere where nothing is left to cut."""
        try:
            return self._stands(job_id)
        except SettingsError:
            return Stands({}, (0.0, 0.0), (0.0, 0.0))

    def change_items(
        self, job_id: int, expected: int, changes: ItemChanges, did: str, ticket: str | None = None
    ) -> Job:
        """Own fields of one or several items, as one step of the history. did: a word for what was done to them. Where a place
        changes, items that nobody has placed stay where they stand.

        Raises: NotFoundError, SettingsError, ConflictError, pydantic.ValidationError.
        """
        document = self.job(job_id).document
        places = any("place" in own for own in changes.values())
        stands = (Stands.unseen(document) or self._stands_if_any(job_id)) if places else None
        return self._changed(job_id, expected, lambda now: with_changes(pinned(now, stands) if stands else now, changes),
                             "changed_items", _did(document, changes, did), ticket)

    def move_items(
        self, job_id: int, expected: int, moves_of: MovesOf, did: str, ticket: str | None = None, shifts: bool = False
    ) -> Job:
        """Items moved, sized or lined up, as one step of the history, from where they stand when their turn comes. shifts: it
        only shifts or turns, so that sizes need not be waited for. Raises: as change_items."""
        document = self.job(job_id).document
        stands = (Stands.unseen(document) if shifts else None) or self._stands(job_id)
        values = _did(document, moves_of(document, stands), did)
        return self._changed(job_id, expected, lambda now: moved(now, stands, moves_of(now, stands)), "changed_items", values,
                             ticket)

    def copy_item(
        self, job_id: int, expected: int, item_id: str, moves: Sequence[Move], ticket: str | None = None
    ) -> Job:
        """Copies of an item, each moved on from it. Raises: NotFoundError, SettingsError, ConflictError."""
        document = self.job(job_id).document
        stands = Stands.unseen(document) or self._stands_if_any(job_id)
        return self._changed(job_id, expected, lambda now: copied(now, stands, item_id, moves), "copied_item",
                             {"name": document.item(item_id).name, "count": len(moves)}, ticket)

    def rename_item(self, job_id: int, expected: int, item_id: str, name: str, ticket: str | None = None) -> Job:
        """Raises: SettingsError, NotFoundError, ConflictError."""
        named = _name(name)
        return self._changed(job_id, expected, lambda document: document.with_item(item_id, name=named), "renamed_item",
                             {"name": named}, ticket)

    def move_item(self, job_id: int, expected: int, item_id: str, place: int, ticket: str | None = None) -> Job:
        """Put an item at another place among the others. Raises: NotFoundError, ConflictError."""
        return self._changed(job_id, expected, lambda document: document.moved(item_id, place), "moved_item", {"place": place},
                             ticket)

    def take_out_item(self, job_id: int, expected: int, item_id: str, ticket: str | None = None) -> Job:
        """Raises: NotFoundError, ConflictError; SettingsError for the only one."""
        return self._changed(job_id, expected, lambda document: document.without_item(item_id), "took_out_item", {}, ticket)

    def _changed(
        self, job_id: int, expected: int, edit: Edit, what: str, values: dict[str, object], ticket: str | None = None
    ) -> Job:
        return self._begun(self._jobs.change(job_id, expected, edit, what, values, ticket))

    def undo(self, job_id: int, expected: int) -> Job:
        """Raises: NotFoundError, ConflictError."""
        return self._begun(self._jobs.undo(job_id, expected))

    def redo(self, job_id: int, expected: int) -> Job:
        """Raises: NotFoundError, ConflictError."""
        return self._begun(self._jobs.redo(job_id, expected))

    def _begun(self, job: Job) -> Job:
        self.results.of(job).add_done_callback(_told)
        return job

    # Files

    def thumbnail(self, job_id: int) -> Path | None:
        """Where the job's small picture lies. Raises: NotFoundError."""
        name = self._jobs.thumbnail(job_id)
        return self._blobs.path(name) if name is not None else None

    def export(self, job_id: int, wanted: Wanted) -> Future[tuple[str, str, bytes]]:
        """Name, media type and bytes-to-come of files of the job. Raises: InputError, NotFoundError."""
        exporter(wanted.kind)
        job = self.job(job_id)
        job.document.for_cloth(wanted.cloth)
        return self.results.export(job, wanted)

    def took_along(self, job: Job, name: str, cut: bool = True, cloth: str = "") -> None:
        """Take note that a file of this state of the job has left the house. cut: it is there to be cut, so it takes stock."""
        state = state_of(job.document)
        self._leavings.add(job.id, name, state)
        if not cut or not any(record.stock for record in job.document.for_cloth(cloth).make.layers.records):
            return

        def note(done: Future[DrawnPlan]) -> None:
            if not done.cancelled() and done.exception() is None:
                taken = [(one.stock_id, one.taken_mm2) for one in done.result().used if one.stock_id]
                self._usages.note(job.id, f"{state}/{cloth}"[:64], taken)

        self.results.taken(job, cloth).add_done_callback(note)

    def left(self, job_id: int) -> list[tuple[Left, bool]]:
        """What left the house, the last first, each with whether the job is still as it was then. Raises: NotFoundError."""
        state = state_of(self.job(job_id).document)
        return [(one, one.state == state) for one in self._leavings.of(job_id)]

    def sheets_archive(self, job_id: int, kind: str, cloth: str) -> tuple[str, Future[bytes]]:
        """File name and bytes-to-come of all sheets. Raises: InputError, NotFoundError."""
        exporter(kind)
        job = self.job(job_id)
        return f"{_stem(job, cloth)}-sheets.zip", self.results.sheets_archive(job, cloth, kind)

    def close(self) -> None:
        self.results.close()
        self._database.close()


def _resized(document: JobDocument, widths: dict[str, float], factor: float) -> JobDocument:
    """Every item, its place and the room between items by one factor. widths: mm, by the items' ids; hidden ones have none."""
    for item in document.items:
        if isinstance(item, PictureItem):
            width = widths.get(item.id, item.course.picture.width_mm)
            if width is not None:
                document = document.with_step(item.id, "picture", {"width_mm": width * factor})
        else:
            document = document.with_item(item.id, made=item.made.scaled(factor))
        fields: dict[str, Any] = {}
        if item.place.is_given:
            fields["place"] = {"x_mm": (item.place.x_mm or 0.0) * factor, "y_mm": (item.place.y_mm or 0.0) * factor}
        if item.part.clear_mm:
            fields["part"] = {"clear_mm": item.part.clear_mm * factor}
        document = document.with_changed_item(item.id, fields)
    return document.with_make_step("arrange", {"gap_mm": document.make.arrange.gap_mm * factor}) if len(widths) > 1 else document


def _did(document: JobDocument, changed: Collection[str], did: str) -> dict[str, object]:
    """What the history says of changes of items."""
    names = [item.name for item in document.items if item.id in changed]
    return {"did": did, "name": names[0] if names else "", "count": len(names)}


def _stem(job: Job, cloth: str) -> str:
    """What a file of a job is called: by the job, and by the cloth it is for."""
    layers = job.document.for_cloth(cloth).make.layers
    return plain(f"{job.document.name} for {layers.cloth}" if layers.cloth else job.document.name)


def state_of(document: JobDocument) -> str:
    """The same for documents that give the same files."""
    make = document.make
    variants = "/".join(variant.digest for variant in make.layers.variants)
    named = f"{key_of(document, preview=False)}|{make.sheets.digest}|{variants}|{document.name}"
    return hashlib.sha256(named.encode()).hexdigest()


def _told(done: Future[Any]) -> None:
    """Take note of an error that whoever asks for the result will be told anyway."""
    done.exception()


def _name(name: str) -> str:
    if not name.strip() or len(name.strip()) > LONGEST_NAME:
        raise SettingsError(f"A name has 1 to {LONGEST_NAME} characters; this one has {len(name.strip())}.",
                            code="bad_name", most=LONGEST_NAME, has=len(name.strip()))
    return name.strip()


def _begun(new: NewJob, sources: list[str]) -> JobDocument:
    file_name = clean_name(new.file_name)
    title = (new.name or _title_of(file_name))[:LONGEST_NAME]
    document = new_document(sources[0], file_name, title, new.course or CourseSettings(), new.make)
    for source, (_, other) in zip(sources[1:], new.others, strict=True):
        document = document.with_picture(source, clean_name(other), _title_of(clean_name(other)), CourseSettings())
    return new.then(document) if new.then else document


def _title_of(file_name: str) -> str:
    return file_name.rsplit(".", 1)[0].replace("_", " ").replace("-", " ").strip() or "New picture"


def clean_name(text: str) -> str:
    """A file's name without folders, not too long."""
    name = one_line(re.split(r"[/\\]", text)[-1])
    if len(name) > LONGEST_NAME:
        stem, dot, ending = name.rpartition(".")
        name = f"{stem[: LONGEST_NAME - len(ending) - 1]}{dot}{ending}" if dot and len(ending) < 8 else name[:LONGEST_NAME]
    return name or "picture"
