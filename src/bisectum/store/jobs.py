"""Jobs and their revisions. Every change is a revision; undo and redo move along them, nothing is ever overwritten."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from bisectum.core.errors import ConflictError, NotFoundError
from bisectum.core.job import JobDocument
from bisectum.store.database import Database
from bisectum.store.tables import JobRow, RevisionRow


@dataclass(frozen=True, slots=True)
class Job:
    """A job as it stands. revision: what it stands at; undo, redo: the change that either would take back or make."""

    id: int
    revision: int
    document: JobDocument
    created_at: datetime
    changed_at: datetime
    undo: Change | None
    redo: Change | None
    thumbnail: str | None


@dataclass(frozen=True, slots=True)
class Change:
    """What a revision did: a code with its values, and when. done: whether the job stands at it or after it."""

    revision: int
    what: str
    values: dict[str, object]
    made_at: datetime
    done: bool


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


class Jobs:
    def __init__(self, database: Database) -> None:
        self._database = database

    def create(self, documents: Sequence[JobDocument], what: str, values: Sequence[dict[str, object]]) -> list[Job]:
        """New jobs, all of them or none. values: of the first change of each."""
        with self._database.writing() as session:
            return [_new(session, document, what, own) for document, own in zip(documents, values, strict=True)]

    def all(self) -> list[Job]:
        """Newest change first."""
        with self._database.reading() as session:
            newest = select(JobRow).order_by(JobRow.changed_at.desc(), JobRow.id.desc())
            return [_job(session, row) for row in session.scalars(newest)]

    def get(self, job_id: int) -> Job:
        """Raises: NotFoundError."""
        with self._database.reading() as session:
            return _job(session, _row(session, job_id))

    def change(self, job_id: int, expected: int, document: JobDocument, what: str, values: dict[str, object]) -> Job:
        """Add a revision after `expected`. Raises: NotFoundError; ConflictError where the job stands elsewhere."""
        with self._database.writing() as session:
            row = _row(session, job_id)
            if row.head_id != expected:
                raise ConflictError("This job has been changed in another window; it is shown anew.", code="job_moved_on",
                                    revision=row.head_id)
            _append(session, row, document, what, values)
            return _job(session, row)

    def undo(self, job_id: int) -> Job:
        """Step back; at the beginning nothing happens. Raises: NotFoundError."""
        with self._database.writing() as session:
            row = _row(session, job_id)
            head = _revision(session, row.head_id)
            if head.parent_id is not None:
                _move(row, _revision(session, head.parent_id))
            return _job(session, row)

    def redo(self, job_id: int) -> Job:
        """Step forward again; at the end nothing happens. Raises: NotFoundError."""
        with self._database.writing() as session:
            row = _row(session, job_id)
            following = _after_head(session, row)
            if following is not None:
                _move(row, following)
            return _job(session, row)

    def history(self, job_id: int) -> list[Change]:
        """All changes from the first to the last that redo reaches. Raises: NotFoundError."""
        with self._database.reading() as session:
            row = _row(session, job_id)
            line = _line(session, row)
            place = next(i for i, revision in enumerate(line) if revision.id == row.head_id)
            return [_change(revision, i <= place) for i, revision in enumerate(line)]

    def delete(self, job_id: int) -> None:
        """Raises: NotFoundError."""
        with self._database.writing() as session:
            row = _row(session, job_id)
            session.execute(update(JobRow).where(JobRow.id == row.id).values(head_id=None, tip_id=None))
            session.execute(delete(RevisionRow).where(RevisionRow.job_id == row.id))
            session.execute(delete(JobRow).where(JobRow.id == row.id))

    def set_thumbnail(self, job_id: int, blob: str) -> None:
        """Raises: NotFoundError."""
        with self._database.writing() as session:
            _row(session, job_id).thumbnail = blob


def _new(session: Session, document: JobDocument, what: str, values: dict[str, object]) -> Job:
    row = JobRow(name=document.name, created_at=_now(), changed_at=_now())
    session.add(row)
    session.flush()
    _append(session, row, document, what, values)
    return _job(session, row)


def _row(session: Session, job_id: int) -> JobRow:
    row = session.get(JobRow, job_id)
    if row is None:
        raise NotFoundError("This job is no longer on the shelf.", code="job_missing", job=job_id)
    return row


def _revision(session: Session, revision_id: int | None) -> RevisionRow:
    row = session.get(RevisionRow, revision_id) if revision_id is not None else None
    if row is None:
        raise NotFoundError("This state of the job is not kept.", code="revision_missing")
    return row


def _append(session: Session, row: JobRow, document: JobDocument, what: str, values: dict[str, object]) -> None:
    revision = RevisionRow(job_id=row.id, parent_id=row.head_id, made_at=_now(), what=what, what_values=values,
                           document=document.model_dump(mode="json"))
    session.add(revision)
    session.flush()
    _move(row, revision)
    row.tip_id = revision.id


def _move(row: JobRow, revision: RevisionRow) -> None:
    row.head_id = revision.id
    row.name = str(revision.document["name"])
    row.changed_at = _now()


def _line(session: Session, row: JobRow) -> list[RevisionRow]:
    """The revisions from the first to the tip."""
    revisions = {r.id: r for r in session.scalars(select(RevisionRow).where(RevisionRow.job_id == row.id))}
    line: list[RevisionRow] = []
    place = row.tip_id
    while place is not None:
        line.append(revisions[place])
        place = revisions[place].parent_id
    return line[::-1]


def _after_head(session: Session, row: JobRow) -> RevisionRow | None:
    """The revision that redo leads to."""
    place = row.tip_id
    while place is not None and place != row.head_id:
        revision = _revision(session, place)
        if revision.parent_id == row.head_id:
            return revision
        place = revision.parent_id
    return None


def _change(revision: RevisionRow, done: bool) -> Change:
    return Change(revision.id, revision.what, revision.what_values, revision.made_at, done)


def _job(session: Session, row: JobRow) -> Job:
    head = _revision(session, row.head_id)
    following = _after_head(session, row)
    return Job(
        id=row.id, revision=head.id, document=JobDocument.model_validate(head.document), created_at=row.created_at,
        changed_at=row.changed_at, undo=_change(head, True) if head.parent_id is not None else None,
        redo=_change(following, False) if following is not None else None, thumbnail=row.thumbnail,
    )
