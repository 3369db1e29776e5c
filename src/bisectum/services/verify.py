"""Looking through all that a data folder keeps: whether files have the content they are named by, and jobs can be read."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from bisectum.core.errors import BisectumError, NotFoundError
from bisectum.core.patterns import SHA256
from bisectum.store.blobs import Blobs, is_whole
from bisectum.store.database import Database
from bisectum.store.folder import hold
from bisectum.store.fonts import OwnFonts
from bisectum.store.jobs import Jobs


def damage_in(data: Path) -> Iterator[str]:
    """A sentence for each thing that is damaged or missing, with what to do. Nothing is changed.

    Raises: NotFoundError where there is no data folder; InputError where a server runs on it; StorageError.
    """
    if not (data / "bisectum.sqlite").exists():
        raise NotFoundError(f"There is no data folder of Bisectum at {data}; name it with --data.", code="data_missing")
    hold(data, "the command line")
    database = Database(data / "bisectum.sqlite")
    jobs, fonts, blobs = Jobs(database), OwnFonts(database), Blobs(database, data / "blobs")
    damaged = {path.name for path in (data / "blobs").glob("*/*") if re.fullmatch(SHA256, path.name) and not is_whole(path)}
    for job in (*jobs.summaries(), *jobs.summaries(thrown=True)):
        try:
            document = jobs.get(job.id).document
        except BisectumError as error:
            yield f"“{job.name}”: {error.message}"
            continue
        for item in document.pictures:
            if item.source in damaged or not blobs.has(item.source):
                yield (f"“{job.name}”: the picture {item.file_name} is damaged or missing. Bring that file in once more, as a "
                       "new job: this one is whole again then.")
    for font in fonts.all():
        if font.sha256 in damaged or not blobs.has(font.sha256):
            yield f"The font {font.name} is damaged or missing. Bring it in once more."
    database.close()
