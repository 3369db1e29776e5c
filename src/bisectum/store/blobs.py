"""Files kept by the hash of their content, written whole or not at all."""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
from datetime import UTC, datetime
from pathlib import Path

from bisectum.core.errors import NotFoundError
from bisectum.store.database import Database
from bisectum.store.tables import BlobRow


class Blobs:
    """The same content is kept once, however often it comes in."""

    def __init__(self, database: Database, folder: Path) -> None:
        self._database, self._folder = database, folder
        folder.mkdir(parents=True, exist_ok=True)

    def put(self, data: bytes) -> str:
        """Keep `data`; returns its SHA-256 when it is safely on disk."""
        name = hashlib.sha256(data).hexdigest()
        path = self._path(name)
        if not path.exists():
            path.parent.mkdir(exist_ok=True)
            handle, beside = tempfile.mkstemp(dir=path.parent, prefix=".part-")
            with os.fdopen(handle, "wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            Path(beside).replace(path)
            _sync_folder(path.parent)
        with self._database.writing() as session:
            if session.get(BlobRow, name) is None:
                session.add(BlobRow(sha256=name, size=len(data), kept_at=datetime.now(UTC).replace(tzinfo=None)))
        return name

    def path(self, name: str) -> Path:
        """Where a kept file lies. Raises: NotFoundError."""
        if not re.fullmatch(r"[0-9a-f]{64}", name) or not self._path(name).exists():
            raise NotFoundError("A picture of this job is missing from the data folder.", code="blob_missing", blob=name)
        return self._path(name)

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

    def _path(self, name: str) -> Path:
        return self._folder / name[:2] / name


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
