"""Jobs as one open file: their documents as they are kept, their pictures and fonts, what they look like, and a word on all
of it.

A ZIP archive. Each job has a folder, the only one of a single job is the archive itself: `job.json` (the document, with the
version of its form), `shelf.json` (its tags) and, where it was there, `result.svg`. Pictures and fonts lie in `pictures/` and
`fonts/`, each once, named by the first signs of their SHA-256 and what they were called. docs/job.schema.json describes the
document. """

from __future__ import annotations

import hashlib
import json
import lzma
import re
import shutil
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import IO, Any

from bisectum.core.errors import InputError
from bisectum.core.job import JobDocument, LetteringItem
from bisectum.core.older import read_document
from bisectum.core.patterns import SHA256
from bisectum.store.blobs import Blobs

STAMP = (1980, 1, 1, 0, 0, 0)  # of files in it, so that equal jobs make equal archives
MOST_BUNDLE = 8_000_000_000  # bytes; what goes out comes in
MOST_ENTRIES, MOST_JOB_BYTES = 100_000, 50_000_000
MOST_TIMES = 200  # as large as it is packed: more is no document, and a picture is packed already
README = """This is {what} of Bisectum, which turns pictures into layered cut files.

Drop this file onto the shelf of Bisectum to have it back, or work it without a screen:
    bisectum make THIS.zip -o FOLDER --format svg

job.json     all settings, as JSON; "version" tells its form
shelf.json   the words it is found by
result.svg   what it looked like when it was taken out, in real millimetres
pictures/    the pictures it is made of, as they came in
fonts/       fonts of one's own that it uses
"""


@dataclass(frozen=True, slots=True)
class Packed:
    """A job to be taken out. document: as it is kept, whatever its form; svg: its result, if there is one; fonts: names of
    the fonts of one's own that there are, by digest."""

    document: Mapping[str, Any]
    tags: tuple[str, ...] = ()
    svg: bytes | None = None


@dataclass(frozen=True, slots=True)
class Opened:
    """What a bundle holds. files: where pictures and the like are in the archive, fonts: the names of fonts, and where; all by
    digest. The files themselves are read one by one: all of them may be more than there is memory."""

    archive: zipfile.ZipFile
    jobs: tuple[tuple[JobDocument, tuple[str, ...]], ...]
    files: Mapping[str, str]
    fonts: Mapping[str, tuple[str, str]]

    def read(self, place: str) -> bytes:
        """Raises: InputError."""
        with _sound():
            return self.archive.read(place)


def packed(
    jobs: Iterable[Packed], blobs: Blobs, fonts: Mapping[str, str], into: IO[bytes], left_out: Sequence[str] = ()
) -> None:
    """Write a ZIP archive. fonts: names of those of one's own, by digest; left_out: names of jobs that could not be taken out. A
    file that is missing is left out."""
    own = list(jobs)
    there: set[str] = set()
    with zipfile.ZipFile(into, "w", zipfile.ZIP_DEFLATED) as archive:
        def put(name: str, data: bytes) -> None:
            archive.writestr(zipfile.ZipInfo(name, STAMP), data, zipfile.ZIP_DEFLATED)

        put("README.txt", README.format(what="a job" if len(own) == 1 else "a shelf of jobs, each in its folder,").encode())
        if left_out:
            put("LEFT-OUT.txt", "\n".join(["These jobs are damaged and could not be taken out:", *left_out, ""]).encode())
        for number, job in enumerate(own, 1):
            folder = "" if len(own) == 1 else f"jobs/{number:04}-{_plain(str(job.document.get('name', '')))}/"
            put(f"{folder}job.json", json.dumps(job.document, indent=1, ensure_ascii=False).encode())
            put(f"{folder}shelf.json", json.dumps({"tags": job.tags}, ensure_ascii=False).encode())
            if job.svg is not None:
                put(f"{folder}result.svg", job.svg)
            for kind, names in (("pictures", _pictures(job.document)), ("fonts", _fonts(job.document, fonts))):
                for digest, name in sorted(names.items()):
                    if digest in there:
                        continue
                    there.add(digest)
                    if blobs.has(digest):
                        path = blobs.path(digest)
                        entry = zipfile.ZipInfo(f"{kind}/{digest[:12]}-{name}", STAMP)
                        entry.file_size = path.stat().st_size
                        with path.open("rb") as file, archive.open(entry, "w") as packing:
                            shutil.copyfileobj(file, packing, 2**20)


def stem_of(name: str) -> str:
    """What the bundle of a job is called."""
    return _plain(name) or "job"


@contextmanager
def opened(file: IO[bytes]) -> Iterator[Opened]:
    """What a bundle holds, as long as it is open. Raises: InputError where it is none, one of its files lacks, or it is not safe
    to open; DocumentError where a job in it cannot be read."""
    with _sound():
        archive = zipfile.ZipFile(file)
    with archive:
        with _sound():
            entries = [entry for entry in archive.infolist() if not entry.is_dir()]
            _refuse_unsafe(entries)
            documents = sorted(entry.filename for entry in entries if PurePosixPath(entry.filename).name == "job.json")
            jobs = [(json.loads(archive.read(name)), _tags_beside(archive, name)) for name in documents]
            named = set(re.findall(r"[0-9a-f]{64}", json.dumps([document for document, _ in jobs])))
            places: dict[str, dict[str, str]] = {}
            for kind in ("pictures", "fonts"):
                stems = tuple(f"{kind}/{digest[:12]}-" for digest in named)
                there = [entry.filename for entry in entries if entry.filename.startswith(stems)]
                places[kind] = {_digest(archive, place): place for place in there}
        if not jobs:
            raise InputError("There is no job in this archive; take a bundle out of Bisectum.", code="bundle_unreadable")
        read = tuple((read_document(document), tags) for document, tags in jobs)
        for document, _ in read:
            if any(digest not in places["pictures"] for digest in document.files):
                raise InputError(f"A picture of “{document.name}” is missing in this bundle; take it out of Bisectum anew.",
                                 code="bundle_incomplete", name=document.name)
        fonts = {digest: (PurePosixPath(place).stem[13:] or "My font", place) for digest, place in places["fonts"].items()}
        yield Opened(archive, read, places["pictures"], fonts)


@contextmanager
def _sound() -> Iterator[None]:
    """Raises: InputError for whatever an archive that is none, or damaged, leads to."""
    try:
        yield
    except (zipfile.BadZipFile, zlib.error, lzma.LZMAError, OSError, ValueError, RuntimeError, EOFError) as error:
        raise InputError("This is no bundle of a job; take one out of Bisectum.", code="bundle_unreadable") from error


def _digest(archive: zipfile.ZipFile, place: str) -> str:
    whole = hashlib.sha256()
    with archive.open(place) as file:
        while part := file.read(2**20):
            whole.update(part)
    return whole.hexdigest()


def _refuse_unsafe(entries: list[zipfile.ZipInfo]) -> None:
    """Raises: InputError."""
    if len(entries) > MOST_ENTRIES:
        raise InputError(f"This archive holds {len(entries)} files; {MOST_ENTRIES} are the most that a bundle has.",
                         code="bundle_too_large", most=MOST_ENTRIES)
    if any(entry.filename.startswith(("/", "\\")) or ".." in PurePosixPath(entry.filename.replace("\\", "/")).parts
           for entry in entries):
        raise InputError("A file in this archive has a name that leads out of it, as no bundle of Bisectum has. Nothing was "
                         "taken.", code="bundle_unsafe")
    swollen = any(entry.file_size > MOST_TIMES * max(1000, entry.compress_size) for entry in entries)
    heavy = any(entry.file_size > MOST_JOB_BYTES for entry in entries if entry.filename.endswith(".json"))
    if swollen or heavy or sum(entry.file_size for entry in entries) > MOST_BUNDLE:
        raise InputError("This archive is far larger unpacked than any bundle. Nothing was taken.", code="bundle_too_large")


def _tags_beside(archive: zipfile.ZipFile, job: str) -> tuple[str, ...]:
    try:
        told = json.loads(archive.read(str(PurePosixPath(job).with_name("shelf.json"))))
        return tuple(str(tag) for tag in told["tags"])
    except (KeyError, TypeError, ValueError):
        return ()


def _plain(text: str) -> str:
    return re.sub(r"[^\w-]+", "-", text).strip("-")


def _pictures(document: Mapping[str, Any]) -> dict[str, str]:
    """The files of the pictures a document names, whatever its form: by their digest, what each was called."""
    items = document.get("items")
    own = [item for item in items if isinstance(item, dict)] if isinstance(items, list) else []
    made = [item["made"] for item in own if isinstance(item.get("made"), dict)]
    found = [one for one in (*own, *made) if re.fullmatch(SHA256, str(one.get("source")))]
    return {str(item["source"]): re.sub(r"[^\w.-]+", "-", str(item.get("file_name", "picture"))) for item in found}


def _fonts(document: Mapping[str, Any], names: Mapping[str, str]) -> dict[str, str]:
    """The fonts of one's own that a document names."""
    try:
        read = read_document(dict(document))
    except InputError:
        return {}
    used = {item.made.font for item in read.items if isinstance(item, LetteringItem)}
    return {digest: f"{_plain(name) or 'font'}.ttf" for digest, name in names.items() if digest in used}
