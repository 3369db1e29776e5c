"""Looking through all that a data folder keeps: whether files have the content they are named by, and jobs can be read."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from bisectum.core.errors import BisectumError, NotFoundError
from bisectum.store.blobs import Blobs
from bisectum.store.database import Database
from bisectum.store.folder import hold
from bisectum.store.fonts import OwnFonts
from bisectum.store.jobs import Jobs


def damage_in(data: Path) -> Iterator[str]:
    """As damage_of, of a data folder that no server runs on.

    Raises: NotFoundError where there is no data folder; InputError where a server runs on it; StorageError.
    """
    if not (data / "bisectum.sqlite").exists():
        raise NotFoundError(f"There is no data folder of Bisectum at {data}; name it with --data.", code="data_missing")
    hold(data, "the command line")
    database = Database(data / "bisectum.sqlite")
    yield from damage_of(Jobs(database), OwnFonts(database), Blobs(database, data / "blobs"))
    database.close()


def damage_of(jobs: Jobs, fonts: OwnFonts, blobs: Blobs, quickly: bool = False) -> Iterator[str]:
    """A sentence for each thing that is damaged or missing, with what to do. Nothing is changed. quickly: files are not read, so
    only those that are missing or have another size are noticed. Raises: StorageError."""
    is_sound = blobs.seems_whole if quickly else blobs.is_whole
    for job in (*jobs.summaries(), *jobs.summaries(thrown=True)):
        try:
            document = jobs.get(job.id).document
        except BisectumError as error:
            yield f"“{job.name}”: {error.message}"
            continue
        for digest, file_name in document.files.items():
            if not is_sound(digest):
                yield (f"“{job.name}”: the file {file_name} is damaged or missing. Bring that file in once more, as a "
                       "new job: this one is whole again then.")
    for font in fonts.all():
        if not is_sound(font.sha256):
            yield f"The font {font.name} is damaged or missing. Bring it in once more."
