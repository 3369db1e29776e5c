"""A bundle worked without a shelf: its jobs are made in a folder of their own that goes afterwards."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from bisectum.core.job import JobDocument
from bisectum.core.make import MakeResult
from bisectum.core.progress import SILENT
from bisectum.core.steps.sheets.step import Desk, lay_out
from bisectum.services.bundle import opened
from bisectum.services.compute import sound_make
from bisectum.services.export import Wanted, files_of_make
from bisectum.services.sheets import all_written, desk_of

Worked = tuple[JobDocument, MakeResult, Desk]


@contextmanager
def worked(data: bytes) -> Iterator[Iterator[Worked]]:
    """The jobs of a bundle with what is made of them, one after the other. Raises: as bundle.opened, compute.sound_make."""
    with opened(io.BytesIO(data)) as bundle, tempfile.TemporaryDirectory() as folder:
        paths: dict[str, Path] = {}
        for digest, place in (*bundle.files.items(), *((name, font) for name, (_, font) in bundle.fonts.items())):
            paths[digest] = Path(folder) / digest
            paths[digest].write_bytes(bundle.read(place))
        fonts = {digest: paths[digest] for digest in bundle.fonts}

        def each() -> Iterator[Worked]:
            for document, _ in bundle.jobs:
                result = sound_make(paths, fonts, document, SILENT)
                yield document, result, desk_of(document, result, Path(folder))

        yield each()


def files_of_bundle(data: bytes, kinds: tuple[str, ...], per: str) -> Iterator[tuple[str, bytes]]:
    """Name and bytes of the files of all jobs of a bundle. per: "make", "layer" or "sheet". Raises: as worked; InputError."""
    with worked(data) as jobs:
        for document, result, desk in jobs:
            for kind in kinds:
                if per == "sheet":
                    yield from all_written(lay_out(result.artwork, desk), kind, document.name)
                else:
                    yield from files_of_make(document, result, replace(Wanted(kind), per=per))  # type: ignore[arg-type]
