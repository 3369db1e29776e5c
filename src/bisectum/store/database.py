"""The database file: one writer at a time, readers beside it; what is acknowledged is on disk."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session


class Database:
    """A SQLite database in WAL mode at `path`, brought to the newest form when it is opened."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self.engine = _engine(path)
        self._writing = threading.Lock()
        self.engine.connect().close()  # the first connection turns WAL on, for good
        _migrate(path)

    @contextmanager
    def reading(self) -> Iterator[Session]:
        with Session(self.engine) as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A transaction that is committed at the end, or rolled back when something is raised."""
        with self._writing, Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    def close(self) -> None:
        self.engine.dispose()


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 20})

    @event.listens_for(engine, "connect")
    def prepare(connection: Any, _: Any) -> None:
        connection.isolation_level = None  # transactions are begun below, not by the driver
        for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def begin(connection: Any) -> None:
        connection.exec_driver_sql("BEGIN")

    return engine


def alembic_config(path: Path) -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations").replace("%", "%%"))
    config.set_main_option("sqlalchemy.url", f"sqlite:///{path}".replace("%", "%%"))
    return config


def _migrate(path: Path) -> None:
    command.upgrade(alembic_config(path), "head")
