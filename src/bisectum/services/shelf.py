"""The shelf as a whole: jobs are found by their words, copied, taken off and put back, taken out as bundles and brought back."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import partial
from pathlib import Path
from typing import IO

from bisectum.core.errors import BisectumError, NotFoundError, SettingsError
from bisectum.core.items.lettering import look_at_font
from bisectum.core.text import one_line
from bisectum.services.bench import Bench
from bisectum.services.bundle import MOST_BUNDLE, Opened, Packed, opened, packed, stem_of
from bisectum.services.export import Wanted
from bisectum.services.verify import damage_of
from bisectum.store.blobs import Blobs
from bisectum.store.fonts import OwnFont, OwnFonts
from bisectum.store.jobs import Job, Jobs
from bisectum.worker.door import through_the_door

WAY_BACK = timedelta(days=30)
LONGEST_TAG, MOST_TAGS = 30, 20
MOST_AT_ONCE = 5000
SAMPLES = ("lighthouse.png", "kettle.jpg", "tide-note.jpg")  # to try it with, of the demo's pictures


class Shelf:
    """What is done with jobs from outside. Its calls are short but for bundles."""

    def __init__(self, bench: Bench, jobs: Jobs, blobs: Blobs, fonts: OwnFonts, pictures: Path | None = None) -> None:
        """pictures: the folder of the demo's pictures, where there is one."""
        self._bench, self._jobs, self._blobs, self._fonts, self._pictures = bench, jobs, blobs, fonts, pictures
        self.damage: tuple[str, ...] = ()  # as it was seen last, a sentence for each thing

    def samples(self) -> list[str]:
        """Names of pictures to try it with."""
        return [name for name in SAMPLES if self._pictures is not None and (self._pictures / name).exists()]

    def sample(self, name: str) -> Path:
        """Where a picture to try it with lies. Raises: NotFoundError."""
        if name not in self.samples() or self._pictures is None:
            raise NotFoundError("This picture is not there.", code="sample_missing")
        return self._pictures / name

    def try_sample(self, name: str) -> Job:
        """A job of a picture to try it with. Raises: NotFoundError."""
        return self._bench.new_job(self.sample(name).read_bytes(), name)

    def throw(self, job_ids: Sequence[int], thrown: bool) -> None:
        """Take jobs off the shelf, or put them back. Raises: NotFoundError; then all are where they were."""
        self._jobs.throw(job_ids, thrown)
        for job_id in job_ids if thrown else ():
            self._bench.results.stop(job_id)

    def look_through(self, quickly: bool = False) -> tuple[str, ...]:
        """See what is damaged of all that is kept, as verify.damage_of. Raises: StorageError."""
        self.damage = tuple(damage_of(self._jobs, self._fonts, self._blobs, quickly))
        return self.damage

    def sweep(self, now: datetime | None = None) -> int:
        """Delete for good what was taken off the shelf WAY_BACK ago. Returns how many."""
        old = self._jobs.thrown_before((now or datetime.now(UTC)) - WAY_BACK)
        for job_id in old:
            self._bench.delete(job_id)
        return len(old)

    def tag(self, job_ids: Sequence[int], add: Sequence[str], take_off: Sequence[str] = ()) -> None:
        """Add words to jobs, and take others off. Raises: SettingsError, NotFoundError; then all are as they were."""
        words = [" ".join(one_line(word).split()) for word in add]
        wrong = next((word for word in words if not 0 < len(word) <= LONGEST_TAG), None)
        if wrong is not None:
            raise SettingsError(f"A tag has 1 to {LONGEST_TAG} characters; this one has {len(wrong)}.", code="bad_tag",
                                most=LONGEST_TAG, has=len(wrong))
        if len(words) > MOST_TAGS:
            raise SettingsError(f"{MOST_TAGS} tags are the most at once.", code="too_many_tags", most=MOST_TAGS)
        self._jobs.tag(job_ids, words, take_off)

    def copy(self, job_id: int, name: str) -> Job:
        """A job as it stands, once more, under another name. Raises: NotFoundError, pydantic.ValidationError."""
        job = self._jobs.get(job_id)
        with self._blobs.held(*(self._blobs.get(digest) for digest in job.document.files)):
            copied, = self._jobs.create([job.document.renamed(name)], "copied", [{"name": job.document.name}])
        self._jobs.tag([copied.id], self._tags().get(job_id, ()), ())
        self._bench.results.of(copied, seldom=True).add_done_callback(_told)
        return copied

    # Bundles

    def take_out(self, job_ids: Sequence[int]) -> tuple[str, IO[bytes]]:
        """File name of a bundle of jobs, and the file, whether or not they can be opened. Raises: NotFoundError; SettingsError
        where they are too large together."""
        tags = self._tags()
        jobs = [Packed(self._jobs.raw(job_id), tags.get(job_id, ())) for job_id in job_ids]
        if len(jobs) == 1:
            jobs[0] = replace(jobs[0], svg=self._svg(job_ids[0]))
        name = stem_of(str(jobs[0].document.get("name", ""))) if len(jobs) == 1 else "bisectum-shelf"
        return f"{name}.zip", self._packed(jobs)

    def take_out_all(self) -> tuple[str, IO[bytes]]:
        """All that is on the shelf; what cannot be taken out is named in the bundle. Raises: SettingsError where nothing can."""
        jobs, left_out = [], []
        for job in self._jobs.summaries():
            try:
                jobs.append(Packed(self._jobs.raw(job.id), job.tags))
            except BisectumError:
                left_out.append(job.name)
        if not jobs:
            raise SettingsError("There is nothing on the shelf that could be taken out.", code="shelf_empty")
        return "bisectum-shelf.zip", self._packed(jobs, left_out)

    def _packed(self, jobs: Sequence[Packed], left_out: Sequence[str] = ()) -> IO[bytes]:
        """A bundle as a file that goes when it is closed. Raises: SettingsError where it could not come in again."""
        file = tempfile.TemporaryFile()  # noqa: SIM115  it is handed out open
        packed(jobs, self._blobs, {font.sha256: font.name for font in self._fonts.all()}, file, left_out)
        if file.tell() > MOST_BUNDLE:
            file.close()
            raise SettingsError(f"Together these jobs have more than {MOST_BUNDLE // 10**9} GB, which is the most that comes in "
                                "again. Take them out in parts.", code="bundle_too_large", most=MOST_BUNDLE // 10**9)
        file.seek(0)
        return file

    def bring_back(self, file: IO[bytes]) -> list[Job]:
        """The jobs of a bundle, all of them or none. Raises: InputError, DocumentError, PictureError, SettingsError; then
        nothing has been kept."""
        with opened(file) as bundle:
            return self._brought_back(bundle)

    def _brought_back(self, bundle: Opened) -> list[Job]:
        for _, place in bundle.fonts.values():
            through_the_door(look_at_font, bundle.read(place))
        places = (*bundle.files.values(), *(place for _, place in bundle.fonts.values()))
        with self._blobs.held(*(partial(bundle.read, place) for place in places)):
            for document, _ in bundle.jobs:
                for item in document.pictures:
                    self._bench.results.look_at(self._blobs.path(item.source)).result()
            for digest, (name, _) in bundle.fonts.items():
                self._fonts.add(OwnFont(digest, name))
            jobs = self._jobs.create([document for document, _ in bundle.jobs], "brought_back",
                                     [{"name": document.name} for document, _ in bundle.jobs])
        for job, (_, tags) in zip(jobs, bundle.jobs, strict=True):
            words = [one_line(tag)[:LONGEST_TAG] for tag in tags[:MOST_TAGS]]
            self._jobs.tag([job.id], [word for word in words if word], ())
            self._bench.results.of(job, seldom=len(jobs) > 1).add_done_callback(_told)
        return jobs

    def _svg(self, job_id: int) -> bytes | None:
        """What a job looks like as a file; None where it cannot be made."""
        try:
            return self._bench.export(job_id, Wanted("svg")).result(timeout=120)[2]
        except Exception:  # a job that cannot be worked out is taken out nevertheless
            return None

    def _tags(self) -> dict[int, tuple[str, ...]]:
        return {job.id: job.tags for thrown in (False, True) for job in self._jobs.summaries(thrown)}


def _told(_: object) -> None:
    """Whoever asks for the result is told of an error."""
