"""The store: revisions against a plain model, blobs, and what is left after a crash."""

from __future__ import annotations

import dataclasses
import errno
import io
import json
import os
import shutil
import signal
import sqlite3
import stat
import subprocess
import sys
import textwrap
import threading
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
from alembic import command
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import event

from bisectum.core.course import CourseSettings
from bisectum.core.errors import ConflictError, DocumentError, InputError, NotFoundError, StorageError
from bisectum.core.job import JobDocument, new_document
from bisectum.core.steps.background.settings import Touch
from bisectum.main import make_bench
from bisectum.services.bundle import Packed, packed
from bisectum.store.blobs import Blobs
from bisectum.store.database import Database, alembic_config
from bisectum.store.jobs import Edit, Jobs

DOCUMENTS = Path(__file__).parents[1] / "documents"
NAMED = 1 << 62  # marks an inode whose name is on the disk, too
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
            if move != line[place]:  # a change that leaves all as it was is no step, and redo still reaches what it reached
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


def test_acknowledged_means_kept_when_the_power_is_lost(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """After each acknowledged step, what is surely on the disk is a data folder with all steps before: files that were fsynced
    under their names' own folder's fsync, and the database, which SQLite syncs at each commit (synchronous=FULL, sqlite.org)."""
    synced: set[int] = set()
    fsync = os.fsync

    def noted(handle: int) -> None:
        fsync(handle)
        about = os.fstat(handle)
        synced.add(about.st_ino)
        if stat.S_ISDIR(about.st_mode):
            synced.update(entry.inode() | NAMED for entry in os.scandir(f"/proc/self/fd/{handle}"))

    monkeypatch.setattr(os, "fsync", noted)
    data = tmp_path / "data"
    data.mkdir()
    (data / "blobs").mkdir()
    database = Database(data / "bisectum.sqlite")
    with database.engine.connect() as connection:
        assert connection.exec_driver_sql("PRAGMA synchronous").scalar() == 2
    blobs, jobs = Blobs(database, data / "blobs"), Jobs(database)
    acknowledged: dict[int, tuple[int, str]] = {}
    for number in range(12):
        if number % 3 == 0:
            source = blobs.put(f"picture {number}".encode() * 99)
            job = jobs.create([new_document(source, "boat.png", f"Boat {number}", CourseSettings())], "brought_in", [{}])[0]
        else:
            job = jobs.change(job.id, job.revision, named(f"Ship {number}"), "renamed", {})
        acknowledged[job.id] = job.revision, job.document.pictures[0].source
        kept = tmp_path / f"kept-{number}"
        (kept / "blobs").mkdir(parents=True)
        for path in data.glob("bisectum.sqlite*"):
            shutil.copy(path, kept)
        for path in (data / "blobs").glob("*/*"):
            if {path.stat().st_ino, path.stat().st_ino | NAMED, path.parent.stat().st_ino | NAMED} <= synced:
                (kept / "blobs" / path.parent.name).mkdir(exist_ok=True)
                shutil.copy(path, kept / "blobs" / path.parent.name)
        after = Database(kept / "bisectum.sqlite")
        left, files = Jobs(after), Blobs(after, kept / "blobs")
        for job_id, (revision, source) in acknowledged.items():
            assert left.get(job_id).revision == revision and files.is_whole(source)
        after.close()


def test_numbers_never_come_again(database: Database) -> None:
    """A request of a job that was deleted must find nothing, whatever was made since."""
    jobs = Jobs(database)
    gone = jobs.create([DOCUMENT, DOCUMENT], "brought_in", [{}, {}])[-1]
    gone = jobs.change(gone.id, gone.revision, named("Ship"), "renamed", {})
    jobs.delete(gone.id)
    new = jobs.create([DOCUMENT.renamed("Raft")], "brought_in", [{}])[0]
    assert new.id > gone.id and new.revision > gone.revision
    with pytest.raises(NotFoundError):
        jobs.change(gone.id, gone.revision, named("Wreck"), "renamed", {})
    assert jobs.get(new.id).document.name == "Raft"


def test_a_change_of_an_old_state_is_made_where_it_touches_something_else(database: Database) -> None:
    jobs = Jobs(database)
    first = jobs.create([DOCUMENT], "brought_in", [{}])[0]
    second = jobs.change(first.id, first.revision, set_closeness(0.3), "x", {})
    both = jobs.change(first.id, first.revision, named("Ship"), "renamed", {})
    assert (both.document.name, closeness(both.document), both.base) == ("Ship", 0.3, second.revision)
    with pytest.raises(ConflictError):
        jobs.change(first.id, first.revision, set_closeness(0.4), "x", {})
    two = jobs.change(first.id, both.revision, lambda now: now.with_picture("b" * 64, "", "b", CourseSettings()), "x", {})
    jobs.change(first.id, two.revision, lambda now: now.without_item("picture-2"), "x", {})
    with pytest.raises(ConflictError):
        jobs.change(first.id, two.revision, lambda now: now.with_item("picture-2", name="c"), "x", {})
    other = jobs.create([DOCUMENT], "brought_in", [{}])[0]
    with pytest.raises(ConflictError):
        jobs.change(other.id, first.revision, named("Ship"), "renamed", {})


def test_undo_and_redo_refuse_a_state_that_is_gone(database: Database) -> None:
    jobs = Jobs(database)
    first = jobs.create([DOCUMENT], "brought_in", [{}])[0]
    second = jobs.change(first.id, first.revision, set_closeness(0.3), "x", {})
    third = jobs.change(first.id, second.revision, set_closeness(0.4), "x", {})
    for move in (jobs.undo, jobs.redo):
        with pytest.raises(ConflictError):
            move(first.id, first.revision)
    assert jobs.undo(first.id, third.revision).moves == third.moves + 1


def test_a_step_that_is_sent_twice_is_made_once(database: Database) -> None:
    """Its answer may have got lost."""
    jobs = Jobs(database)
    first = jobs.create([DOCUMENT], "brought_in", [{}])[0]
    second = jobs.change(first.id, first.revision, set_closeness(0.3), "x", {})
    back = [jobs.undo(first.id, second.revision) for _ in range(3)]
    assert {(one.revision, one.moves) for one in back} == {(first.revision, second.moves + 1)}
    again = [jobs.redo(first.id, first.revision) for _ in range(3)]
    assert {(one.revision, one.moves) for one in again} == {(second.revision, second.moves + 2)}


def test_a_change_that_is_sent_twice_is_made_once(database: Database) -> None:
    jobs = Jobs(database)
    job = jobs.create([DOCUMENT], "brought_in", [{}])[0]
    made = [jobs.change(job.id, job.revision, named("Ship"), "renamed", {}, ticket="t-1") for _ in range(3)]
    assert len({one.revision for one in made}) == 1 and len(jobs.history(job.id)) == 2


def mark(number: int) -> dict[str, object]:
    points = [(round(0.1 + 0.001 * step + 1e-5 * number, 5), 0.5) for step in range(40)]
    return {"kind": "clear", "points": points, "width": 0.01}


def test_marks_cost_what_they_weigh_once(database: Database, tmp_path: Path) -> None:
    """One brush mark of 40 points a revision: the disk grows by the mark and a little, not by all marks before it."""
    jobs = Jobs(database)
    job = jobs.create([DOCUMENT], "brought_in", [{}])[0]
    sizes = []
    for number in range(300):
        def add(now: JobDocument, number: int = number) -> JobDocument:
            touches = now.items[0].course.background.touches
            return now.with_step("picture-1", "background", {"touches": (*touches, Touch.model_validate(mark(number)))})

        job = jobs.change(job.id, job.revision, add, "changed_background", {"touches": [mark(number)] * number})
        if number % 100 == 99:
            sizes.append(kept_bytes(tmp_path))
    assert sizes[2] - sizes[1] < 1.3 * (sizes[1] - sizes[0])
    assert (sizes[2] - sizes[1]) / 100 < 60e6 / 4000
    fresh = Jobs(database)
    assert fresh.get(job.id).document == job.document
    assert fresh.history(job.id)[-1].values == {"touches": 299}
    back = fresh.undo(job.id, job.revision)
    assert back.document.items[0].course.background.touches == job.document.items[0].course.background.touches[:-1]


def kept_bytes(folder: Path) -> int:
    """Bytes of rows, without the room a log or a half-filled page takes."""
    connection = sqlite3.connect(folder / "bisectum.sqlite")
    return sum(connection.execute(f"select coalesce(sum(length({column})), 0) from {table}").fetchone()[0]
               for table, column in (("part", "text"), ("part", "digest"), ("revision", "document"), ("revision", "what_values")))


def test_what_no_job_names_is_given_back(database: Database, tmp_path: Path) -> None:
    jobs, blobs = Jobs(database), Blobs(database, tmp_path / "blobs")
    source, lost, thumbnail = blobs.put(b"picture"), blobs.put(b"nobody's"), blobs.put(b"small")
    job = jobs.create([new_document(source, "", "x", CourseSettings())], "brought_in", [{}])[0]
    jobs.change(job.id, job.revision, lambda now: now.with_picture(lost, "", "y", CourseSettings()), "x", {})
    job = jobs.undo(job.id, jobs.get(job.id).revision)  # undone, but redo still leads there
    jobs.set_looks(job.id, thumbnail, 100, 80, 3)
    unfinished = tmp_path / "blobs" / source[:2] / ".part-x"
    unfinished.write_bytes(b"half")
    gone = jobs.create([new_document("c" * 64, "", "z", CourseSettings())], "brought_in", [{}])[0]
    jobs.delete(gone.id)
    before = kept_bytes(tmp_path)
    assert jobs.drop_unused_parts() > 0 and kept_bytes(tmp_path) < before
    assert blobs.drop_unfinished() == 4 and not unfinished.exists()
    with blobs.held(b"coming in") as (coming,):
        assert blobs.collect(jobs.blobs_in_use) == 0
        assert blobs.get(coming) == b"coming in"
    assert blobs.collect(jobs.blobs_in_use) == len(b"coming in")
    assert jobs.get(job.id) == dataclasses.replace(job, thumbnail=thumbnail)
    jobs.delete(job.id)
    jobs.drop_unused_parts()
    assert kept_bytes(tmp_path) == 0
    assert blobs.collect(jobs.blobs_in_use) == len(b"picture") + len(b"nobody's") + len(b"small")
    assert [path for path in (tmp_path / "blobs").rglob("*") if path.is_file()] == []


def test_a_file_that_comes_in_while_others_are_collected_stays(database: Database, tmp_path: Path) -> None:
    """A new one, and one that nobody had named for long and a job names just now."""
    blobs = Blobs(database, tmp_path / "blobs")
    old, lost = blobs.put(b"old"), blobs.put(b"lost")
    came: list[str] = []

    def in_use() -> set[str]:
        with blobs.held(b"new", b"old") as names:
            came.extend(names)
        return set()

    assert blobs.collect(in_use) == len(b"lost")
    assert came[1] == old and {blobs.get(name) for name in came} == {b"new", b"old"}
    with pytest.raises(NotFoundError):
        blobs.path(lost)


def test_an_error_leaves_no_file_that_was_held(database: Database, tmp_path: Path) -> None:
    blobs = Blobs(database, tmp_path / "blobs")
    kept = blobs.put(b"known")
    with pytest.raises(RuntimeError), blobs.held(b"known", b"new"):
        raise RuntimeError
    assert [path.name for path in (tmp_path / "blobs").rglob("*") if path.is_file()] == [kept]


def test_an_error_of_one_does_not_take_the_file_of_another(database: Database, tmp_path: Path) -> None:
    """Two bring in the same picture at once; one succeeds, the other one is refused."""
    blobs = Blobs(database, tmp_path / "blobs")
    with pytest.raises(RuntimeError), blobs.held(b"same"):
        with blobs.held(b"same") as (name,):
            pass
        raise RuntimeError
    assert blobs.get(name) == b"same"


def test_a_long_shelf_is_told_without_reading_its_jobs(database: Database) -> None:
    """By SQLAlchemy's own count of statements: as many for 200 jobs as for one."""
    Jobs(database).create([DOCUMENT] * 200, "copied", [{}] * 200)
    asked: list[str] = []
    event.listen(database.engine, "before_cursor_execute", lambda *given: asked.append(given[2]))
    shelf = Jobs(database).summaries()
    assert len(shelf) == 200 and all(one.readable and one.pictures == len(DOCUMENT.pictures) for one in shelf)
    assert len([one for one in asked if one.startswith("SELECT")]) == 1


def test_a_data_folder_of_the_first_version_is_brought_forward(tmp_path: Path) -> None:
    path = tmp_path / "bisectum.sqlite"
    command.upgrade(alembic_config(path), "0002")
    old = json.loads((DOCUMENTS / "version-1.json").read_text())
    connection = sqlite3.connect(path)
    for number, document in enumerate([old | {"name": f"Kettle {k}"} for k in range(3)] + [{"version": 1, "name": "Lost"}], 1):
        job = 1 if number < 4 else 2
        connection.execute("insert or ignore into job values (?, ?, '2026-01-01', '2026-01-02', null, null, null)", (job, "x"))
        connection.execute("insert into revision values (?, ?, ?, '2026-01-01', 'x', '{}', ?)",
                           (number, job, number - 1 if 1 < number < 4 else None, json.dumps(document)))
    connection.execute("update job set head_id = 2, tip_id = 3, name = 'Kettle 1' where id = 1")
    connection.execute("update job set head_id = 4, tip_id = 4, name = 'Lost' where id = 2")
    connection.commit()
    connection.close()
    jobs = Jobs(Database(path))
    job = jobs.get(1)
    assert job.document.name == "Kettle 1" and job.document.make.layers.build == "lapped"
    assert [change.done for change in jobs.history(1)] == [True, True, False]
    assert jobs.redo(1, job.revision).document.name == "Kettle 2"
    assert jobs.undo(1, 3).document.name == "Kettle 1"
    changed = jobs.change(1, 2, named("Pot"), "renamed", {})
    assert changed.revision == 5 and changed.redo is None
    # One that cannot be read is on the shelf, said to be so, and can be taken out.
    shelf = {one.name: one for one in jobs.summaries()}
    assert shelf["Pot"].readable and not shelf["Lost"].readable
    with pytest.raises(DocumentError):
        jobs.get(2)
    packed([Packed(jobs.raw(2))], Blobs(Database(path), tmp_path / "blobs"), {}, file := io.BytesIO())
    with zipfile.ZipFile(file) as archive:
        assert json.loads(archive.read("job.json")) == {"version": 1, "name": "Lost"}


def broken(path: Path) -> None:
    path.write_bytes(b"no database at all" * 100)


def newer(path: Path) -> None:
    Database(path).close()
    connection = sqlite3.connect(path)
    connection.execute("update alembic_version set version_num = '9999'")
    connection.commit()


def a_folder(path: Path) -> None:
    path.mkdir()


@pytest.mark.parametrize(("spoil", "code"), [(broken, "data_damaged"), (newer, "data_newer"), (a_folder, "data_folder")])
def test_a_data_folder_that_cannot_be_used_says_why(tmp_path: Path, spoil: Callable[[Path], None], code: str) -> None:
    spoil(tmp_path / "bisectum.sqlite")
    with pytest.raises(StorageError) as refused:
        Database(tmp_path / "bisectum.sqlite")
    assert refused.value.code == code and refused.value.message.endswith(".")


def test_a_full_disk_is_told_and_leaves_nothing_half(database: Database, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    blobs = Blobs(database, tmp_path / "blobs")

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(StorageError) as refused:
        blobs.put(b"picture")
    assert refused.value.code == "disk_full"
    assert [path for path in (tmp_path / "blobs").rglob("*") if path.is_file()] == []
    monkeypatch.undo()
    with database.engine.connect() as connection:
        pages = connection.exec_driver_sql("pragma page_count").scalar()
    jobs = Jobs(database)
    with database.engine.connect() as connection:  # the pool hands the same connection out again
        connection.exec_driver_sql(f"pragma max_page_count = {pages}")
    with pytest.raises(StorageError) as refused:
        for number in range(200):
            jobs.create([DOCUMENT.renamed("x" * 70 + str(number))], "brought_in", [{}])
    assert refused.value.code == "disk_full"


# One server at a time

HOLDER = """import sys, time
from pathlib import Path
from bisectum.main import make_bench
make_bench(Path(sys.argv[1]), address="http://127.0.0.1:8765/")
print("held", flush=True)
time.sleep(60)
"""


def test_a_folder_in_use_is_refused_with_the_address_and_free_when_its_process_dies(tmp_path: Path) -> None:
    holder = subprocess.Popen([sys.executable, "-c", HOLDER, str(tmp_path)], stdout=subprocess.PIPE, text=True)
    try:
        assert holder.stdout is not None and holder.stdout.readline() == "held\n"
        with pytest.raises(InputError, match=r"http://127\.0\.0\.1:8765/") as refused:
            make_bench(tmp_path)
        assert refused.value.code == "folder_in_use"
    finally:
        holder.kill()
        holder.wait()
    make_bench(tmp_path).bench.results.close()
