"""The database file: one writer at a time, readers beside it; what is acknowledged is on disk."""

from __future__ import annotations

import json
import logging
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from alembic.util.exc import CommandError
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from bisectum.core.errors import StorageError

LOG = logging.getLogger("bisectum.store")


class Database:
    """A SQLite database in WAL mode at `path`, brought to the newest form when it is opened."""

    def __init__(self, path: Path) -> None:
        """Raises: StorageError where it cannot be opened: no room, no right to write, damaged, made by a newer Bisectum."""
        path.parent.mkdir(parents=True, exist_ok=True)
        self.path, self.engine = path, _engine(path)
        self._writing = threading.Lock()
        with stored():
            self.engine.connect().close()  # the first connection turns WAL on, for good
            self._refuse_newer()
            command.upgrade(alembic_config(path), "head")

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """Raises: StorageError."""
        with stored(), Session(self.engine) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A transaction that is committed at the end, or rolled back when something is raised. Raises: StorageError."""
        with stored(), self._writing, Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    def shrink(self) -> int:
        """Give room that deleted jobs took back to the disk. Returns bytes. Raises: StorageError."""
        before = self._size()
        with stored(), self._writing, self.engine.connect() as connection:
            raw = connection.connection.driver_connection
            assert raw is not None
            raw.execute("VACUUM")
            raw.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        return max(0, before - self._size())

    def close(self) -> None:
        self.engine.dispose()

    def _size(self) -> int:
        return sum(beside.stat().st_size for beside in self.path.parent.glob(f"{self.path.name}*"))

    def _refuse_newer(self) -> None:
        with self.engine.connect() as connection:
            current = MigrationContext.configure(connection).get_current_revision()
        known = {script.revision for script in ScriptDirectory.from_config(alembic_config(self.path)).walk_revisions()}
        if current is not None and current not in known:
            raise StorageError("The data folder was used by a newer Bisectum; start that one, or name another folder with "
                               "--data.", code="data_newer")


@contextmanager
def stored() -> Iterator[None]:
    """Turn what the database says into a sentence. Raises: StorageError."""
    try:
        yield
    except (DBAPIError, CommandError) as error:
        LOG.warning("The database said: %s", error)
        raise told(str(getattr(error, "orig", None) or error)) from error


def told(said: str) -> StorageError:
    """The sentence for what the database or the disk says."""
    low = said.lower()
    if "full" in low or "no space" in low:
        return StorageError("The disk is full, so nothing could be kept. Make room, then do it again; the job is as it was.",
                            code="disk_full")
    if "readonly" in low or "read-only" in low or "permission" in low or "unable to open" in low:
        return StorageError("The data folder cannot be written. Give Bisectum the right to, or name another one with --data.",
                            code="data_folder")
    if "malformed" in low or "not a database" in low:
        return StorageError("The database in the data folder is damaged. Put a copy in its place, or name another folder with "
                            "--data; the pictures in it are still there.", code="data_damaged")
    return StorageError("The data folder could not be used just now; the job is as it was. Do it again.", code="storage")


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 20}, json_deserializer=_read)

    @event.listens_for(engine, "connect")
    def prepare(connection: Any, _: Any) -> None:
        connection.isolation_level = None  # transactions are begun below, not by the driver
        for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def begin(connection: Any) -> None:
        connection.exec_driver_sql("BEGIN")

    return engine


def _read(text: str) -> Any:
    """A value of a row; None where it is damaged, so that the rows beside it can be read."""
    try:
        return json.loads(text)
    except ValueError:
        return None


def alembic_config(path: Path) -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations").replace("%", "%%"))
    config.set_main_option("sqlalchemy.url", f"sqlite:///{path}".replace("%", "%%"))
    return config
