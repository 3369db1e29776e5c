"""The store: revisions against a plain model, blobs, and what is left after a crash."""

from __future__ import annotations

import os
import signal
import sqlite3
import subprocess
import sys
import textwrap
import threading
from pathlib import Path

import pytest
from alembic import command
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from bisectum.core.course import CourseSettings
from bisectum.core.errors import ConflictError, NotFoundError
from bisectum.core.job import JobDocument, new_document
from bisectum.store.blobs import Blobs
from bisectum.store.database import Database, alembic_config
from bisectum.store.jobs import Edit, Jobs

DOCUMENT = new_document("a" * 64, "boat.png", "Boat", CourseSettings())


@pytest.fixture()
def database(tmp_path: Path) -> Database:
    return Database(tmp_path / "bisectum.sqlite")


def closeness(document: JobDocument) -> float:
    return document.items[0].course.lines.closeness_mm


def set_closeness(value: float) -> Edit:
    return lambda document: document.with_step("picture-1", "lines", {"closeness_mm": value})


def named(name: str) -> Edit:
    return lambda document: document.renamed(name)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.one_of(st.floats(0.01, 1), st.sampled_from(["undo", "redo"])), max_size=14))
def test_undo_and_redo_are_a_line_with_a_place_on_it(database: Database, moves: list[float | str]) -> None:
    jobs = Jobs(database)
    job = jobs.create([DOCUMENT], "brought_in", [{}])[0]
    line, place = [closeness(DOCUMENT)], 0
    for move in moves:
        if move == "undo":
            job, place = jobs.undo(job.id, job.revision), max(0, place - 1)
        elif move == "redo":
            job, place = jobs.redo(job.id, job.revision), min(len(line) - 1, place + 1)
        else:
            job = jobs.change(job.id, job.revision, set_closeness(float(move)), "x", {})
            line, place = [*line[: place + 1], float(move)], place + 1
        assert closeness(job.document) == line[place]
        assert (job.undo is not None, job.redo is not None) == (place > 0, place < len(line) - 1)
    history = jobs.history(job.id)
    assert [change.done for change in history] == [i <= place for i in range(len(line))]
    assert closeness(jobs.get(job.id).document) == line[place]


def test_a_change_of_an_old_state_is_refused(database: Database) -> None:
    jobs = Jobs(database)
    job = jobs.create([DOCUMENT], "brought_in", [{}])[0]
    jobs.change(job.id, job.revision, named("Ship"), "renamed", {})
    with pytest.raises(ConflictError):
        jobs.change(job.id, job.revision, named("Raft"), "renamed", {})
    assert jobs.get(job.id).document.name == "Ship"


def test_many_writers_at_once_lose_nothing(database: Database) -> None:
    jobs = Jobs(database)
    threads = [threading.Thread(target=jobs.create, args=([DOCUMENT.renamed(f"Job {n}")], "brought_in", [{}])) for n in range(24)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(job.name for job in jobs.summaries()) == sorted(f"Job {n}" for n in range(24))


def test_a_deleted_job_is_gone_with_its_revisions(database: Database, tmp_path: Path) -> None:
    jobs = Jobs(database)
    job = jobs.create([DOCUMENT], "brought_in", [{}])[0]
    jobs.change(job.id, job.revision, named("Ship"), "renamed", {})
    jobs.delete(job.id)
    with pytest.raises(NotFoundError):
        jobs.get(job.id)
    assert sqlite3.connect(tmp_path / "bisectum.sqlite").execute("select count(*) from revision").fetchone() == (0,)


def test_the_migrations_make_what_the_tables_say(database: Database, tmp_path: Path) -> None:
    command.check(alembic_config(tmp_path / "bisectum.sqlite"))
    Database(tmp_path / "bisectum.sqlite").close()  # opening again changes nothing
    found = sqlite3.connect(tmp_path / "bisectum.sqlite").execute("pragma journal_mode").fetchone()
    assert found == ("wal",)


def test_blobs_are_kept_once_and_by_content(database: Database, tmp_path: Path) -> None:
    blobs = Blobs(database, tmp_path / "blobs")
    name = blobs.put(b"picture")
    assert blobs.put(b"picture") == name
    assert [path.name for path in (tmp_path / "blobs").rglob("*") if path.is_file()] == [name]
    assert blobs.get(name) == b"picture"
    for wrong in ("0" * 64, "../../etc/passwd", ""):
        with pytest.raises(NotFoundError):
            blobs.path(wrong)
    blobs.drop(name)
    with pytest.raises(NotFoundError):
        blobs.get(name)


def test_acknowledged_means_kept_when_the_process_is_killed(tmp_path: Path) -> None:
    script = textwrap.dedent(f"""
        from pathlib import Path
        from bisectum.core.course import CourseSettings
        from bisectum.core.job import new_document
        from bisectum.store.database import Database
        from bisectum.store.jobs import Jobs
        jobs = Jobs(Database(Path({str(tmp_path / 'bisectum.sqlite')!r})))
        job = jobs.create([new_document("a" * 64, "b", "Boat", CourseSettings())], "brought_in", [{{}}])[0]
        for number in range(10_000):
            job = jobs.change(job.id, job.revision, lambda document: document.renamed(f"Boat {{number}}"), "renamed", {{}})
            print(number, flush=True)
    """)
    process = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    last = -1
    for line in process.stdout:
        last = int(line)
        if last >= 25:
            os.kill(process.pid, signal.SIGKILL)
            break
    process.wait()
    job = Jobs(Database(tmp_path / "bisectum.sqlite")).summaries()[0]
    assert int(job.name.split()[1]) >= last
