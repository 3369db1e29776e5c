"""Files kept by the hash of their content, written whole or not at all."""

from __future__ import annotations

import hashlib
import re
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import delete

from bisectum.core.errors import NotFoundError
from bisectum.core.patterns import SHA256
from bisectum.store.database import Database, told
from bisectum.store.tables import BlobRow
from bisectum.store.whole import UNFINISHED, sync_folder, write_whole


class Blobs:
    """The same content is kept once, however often it comes in."""

    def __init__(self, database: Database, folder: Path) -> None:
        self._database, self._folder = database, folder
        self._held: dict[str, int] = {}
        self._shared: set[str] = set()  # of those held: which two have held at once, so that neither may drop it
        self._touched: set[str] = set()  # while files are collected: those that came in meanwhile
        self._lock = threading.Lock()
        folder.mkdir(parents=True, exist_ok=True)

    def put(self, data: bytes) -> str:
        """Keep `data`; returns its SHA-256 when it is safely on disk. What was kept and is damaged is written anew.

        Raises: StorageError; then nothing is left behind.
        """
        name = hashlib.sha256(data).hexdigest()
        path = self._path(name)
        with self._lock:
            self._touched.add(name)
        if not is_whole(path):
            try:
                self._write(path, data)
            except OSError as error:
                raise told(error.strerror or str(error)) from error
        with self._database.writing() as session:
            if session.get(BlobRow, name) is None:
                session.add(BlobRow(sha256=name, size=len(data), kept_at=datetime.now(UTC).replace(tzinfo=None)))
        return name

    @staticmethod
    def _write(path: Path, data: bytes) -> None:
        if not path.parent.exists():
            path.parent.mkdir(exist_ok=True)
            sync_folder(path.parent.parent)
        write_whole(path, data)

    @contextmanager
    def held(self, *contents: bytes | Callable[[], bytes]) -> Iterator[list[str]]:
        """Keep files that no job names yet, safe from `collect`. Where an error ends this, those that were new go again.

        contents: bytes, or what gives them: then only one is in memory at a time.
        """
        names: list[str] = []
        new: list[str] = []
        try:
            for content in contents:
                data = content() if callable(content) else content
                name = hashlib.sha256(data).hexdigest()
                with self._lock:
                    if name in self._held:
                        self._shared.add(name)
                    self._held[name] = self._held.get(name, 0) + 1
                names.append(name)
                if not self._path(name).exists():
                    new.append(name)
                self.put(data)
            yield names
        except BaseException:
            for name in new:
                with self._lock:
                    alone = name not in self._shared
                if alone:
                    with suppress(OSError):
                        self.drop(name)
            raise
        finally:
            with self._lock:
                for name in names:
                    self._held[name] -= 1
                    if not self._held[name]:
                        del self._held[name]
                        self._shared.discard(name)

    def path(self, name: str) -> Path:
        """Where a kept file lies. Raises: NotFoundError."""
        if not re.fullmatch(SHA256, name) or not self._path(name).exists():
            raise NotFoundError("A picture of this job is missing from the data folder.", code="blob_missing", blob=name)
        return self._path(name)

    def has(self, name: str) -> bool:
        return self._path(name).exists()

    def is_whole(self, name: str) -> bool:
        """Whether a kept file is there and has the content it is named by."""
        return is_whole(self._path(name))

    def seems_whole(self, name: str) -> bool:
        """The same by its size alone, without reading it."""
        with self._database.reading() as session:
            row = session.get(BlobRow, name)
        return self.has(name) and (row is None or self._path(name).stat().st_size == row.size)

    def get(self, name: str) -> bytes:
        """Raises: NotFoundError."""
        return self.path(name).read_bytes()

    def drop(self, name: str) -> None:
        """Forget a file that nothing refers to."""
        with self._database.writing() as session:
            row = session.get(BlobRow, name)
            if row is not None:
                session.delete(row)
        self._path(name).unlink(missing_ok=True)

    def collect(self, in_use: Callable[[], set[str]]) -> int:
        """Take out every file that is not in use, not held, and did not come in meanwhile. Returns bytes that became free.

        in_use: tells the names that jobs have, when it is asked.
        """
        with self._lock:
            self._touched.clear()
        # Listed before it is asked what is in use: what comes in later is not among these, or is touched.
        paths = [path for path in self._folder.glob("*/*") if re.fullmatch(SHA256, path.name)]
        used, freed = in_use(), 0
        for path in paths:
            with self._lock:
                if path.name in used or path.name in self._held or path.name in self._touched:
                    continue
                size = path.stat().st_size
                path.unlink(missing_ok=True)
            freed += size
            with self._database.writing() as session:
                session.execute(delete(BlobRow).where(BlobRow.sha256 == path.name))
        return freed

    def drop_unfinished(self) -> int:
        """Take out what was being written when the machine stopped. Only when nobody writes. Returns bytes."""
        freed = 0
        for path in self._folder.glob(f"*/{UNFINISHED}*"):
            freed += path.stat().st_size
            path.unlink(missing_ok=True)
        return freed

    def _path(self, name: str) -> Path:
        return self._folder / name[:2] / name


def is_whole(path: Path) -> bool:
    """Whether a kept file is there and has the content that it is named by."""
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest() == path.name
    except OSError:
        return False


