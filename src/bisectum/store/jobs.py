"""Jobs and their revisions. Every change is a revision; undo and redo move along them, nothing is ever overwritten."""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from bisectum.core.errors import BisectumError, ConflictError, NotFoundError
from bisectum.core.job import JobDocument
from bisectum.core.older import read_document
from bisectum.core.text import one_line
from bisectum.store.database import Database
from bisectum.store.parts import AT_ONCE, Parts, digests_in, named_by, unpacked
from bisectum.store.tables import FontRow, JobRow, LeftRow, PartRow, RevisionRow

MOST_DOCUMENTS = 40  # kept in memory as they were read; those of one job share nearly all of their parts
MOST_COUNTED, UNREADABLE = 20_000, -1  # revisions whose pictures have been counted; of one that cannot be read
LONGEST_VALUE = 80

Edit = Callable[[JobDocument], JobDocument]


@dataclass(frozen=True, slots=True)
class Job:
    """A job as it stands. revision: what it stands at; moves: how often it has moved there, back and forth; undo, redo: the
    change that either would take back or make. base: the revision before it, 0 for the first."""

    id: int
    revision: int
    moves: int
    document: JobDocument
    created_at: datetime
    changed_at: datetime
    undo: Change | None
    redo: Change | None
    thumbnail: str | None
    base: int


@dataclass(frozen=True, slots=True)
class JobSummary:
    """A job as the shelf shows it. pictures: how many it has; readable: whether it can be opened; width_mm, height_mm,
    layers: of its last full result, 0 before there is one; thrown_at: when it was taken off the shelf."""

    id: int
    name: str
    changed_at: datetime
    thumbnail: str | None
    pictures: int
    readable: bool
    tags: tuple[str, ...] = ()
    width_mm: float = 0.0
    height_mm: float = 0.0
    layers: int = 0
    thrown_at: datetime | None = None


@dataclass(slots=True)
class _Kept:
    """What a transaction has written so far."""

    parts: list[bytes]
    documents: dict[int, JobDocument]


@dataclass(frozen=True, slots=True)
class Change:
    """What a revision did: a code with a summary of its values, and when. done: whether the job stands at it or after it."""

    revision: int
    what: str
    values: dict[str, object]
    made_at: datetime
    done: bool


def _now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


class Jobs:
    def __init__(self, database: Database) -> None:
        self._database, self._parts = database, Parts()
        self._documents: OrderedDict[int, JobDocument] = OrderedDict()
        self._pictures: dict[int, int] = {}  # how many a revision has
        self._lock = threading.Lock()

    def create(self, documents: Sequence[JobDocument], what: str, values: Sequence[dict[str, object]]) -> list[Job]:
        """New jobs, all of them or none. values: of the first change of each."""
        with self._kept() as kept, self._database.writing() as session:
            jobs = []
            for document, own in zip(documents, values, strict=True):
                row = JobRow(name=document.name, created_at=_now(), changed_at=_now(), moves=0)
                session.add(row)
                session.flush()
                self._append(session, row, document, what, own, kept)
                jobs.append(self._job(session, row, document))
            return jobs

    def summaries(self, thrown: bool = False) -> list[JobSummary]:
        """Newest change first. A job that cannot be read is among them, and said to be so. thrown: those off the shelf."""
        with self._database.reading() as session:
            wanted = JobRow.thrown_at.is_not(None) if thrown else JobRow.thrown_at.is_(None)
            newest = select(JobRow).where(wanted).order_by(JobRow.changed_at.desc(), JobRow.id.desc())
            return [self._summary(session, row) for row in session.scalars(newest)]

    def throw(self, job_ids: Sequence[int], thrown: bool) -> None:
        """Take jobs off the shelf, or put them back. Raises: NotFoundError; then all are where they were."""
        with self._database.writing() as session:
            for job_id in job_ids:
                _row(session, job_id).thrown_at = _now() if thrown else None

    def thrown_before(self, moment: datetime) -> list[int]:
        """Jobs that were taken off the shelf before a moment (UTC)."""
        with self._database.reading() as session:
            return list(session.scalars(select(JobRow.id).where(JobRow.thrown_at < moment.replace(tzinfo=None))))

    def tag(self, job_ids: Sequence[int], add: Sequence[str], take_off: Sequence[str]) -> None:
        """Add words to jobs, and take others off. Raises: NotFoundError; then all are as they were."""
        with self._database.writing() as session:
            for job_id in job_ids:
                row = _row(session, job_id)
                left = [tag for tag in _tags(row) if tag not in take_off]
                row.tags = [*left, *(tag for tag in add if tag not in left)]

    def get(self, job_id: int) -> Job:
        """Raises: NotFoundError; DocumentError where it cannot be read."""
        with self._database.reading() as session:
            return self._job(session, _row(session, job_id))

    def thumbnail(self, job_id: int) -> str | None:
        """The file of the job's small picture. Raises: NotFoundError."""
        with self._database.reading() as session:
            return _row(session, job_id).thumbnail

    def raw(self, job_id: int) -> dict[str, Any]:
        """The document as it is kept, whatever its form. Raises: NotFoundError."""
        with self._database.reading() as session:
            return unpacked(session, _revision(session, _row(session, job_id).head_id).document)

    def change(
        self, job_id: int, expected: int, edit: Edit, what: str, values: dict[str, object], ticket: str | None = None
    ) -> Job:
        """Add a revision. expected: the revision the change was begun on. ticket: of the request; one that was made already
        is not made again. A change that leaves all as it was adds none: to undo it would show nothing.

        Where the job has moved on since, the change is made on what it is now, if it touches other fields.
        Raises: NotFoundError; ConflictError where it touches the same; what `edit` raises.
        """
        with self._kept() as kept, self._database.writing() as session:
            row = _row(session, job_id)
            if ticket is not None and _is_made(session, row, ticket):
                return self._job(session, row)
            before = self._document(session, _revision(session, row.head_id))
            document = edit(before) if row.head_id == expected else self._rebased(session, row, expected, edit)
            if document == before:
                return self._job(session, row, before)
            self._append(session, row, document, what, values, kept, ticket)
            return self._job(session, row, document)

    def undo(self, job_id: int, expected: int) -> Job:
        """Step back from a revision; at the beginning nothing happens, and nothing where the job was stepped back from there
        already: an answer may have got lost. Raises: NotFoundError; ConflictError where the job stands elsewhere."""
        with self._database.writing() as session:
            row = _row(session, job_id)
            if _revision(session, row.head_id).next_id == expected:
                return self._job(session, row)
            head = self._expected(session, row, expected)
            if head.parent_id is not None:
                self._step(session, row, head.parent_id)
            return self._job(session, row)

    def redo(self, job_id: int, expected: int) -> Job:
        """Step forward again; at the end nothing happens, and nothing where it was done already. Raises: as undo."""
        with self._database.writing() as session:
            row = _row(session, job_id)
            if _revision(session, row.head_id).parent_id == expected:
                return self._job(session, row)
            head = self._expected(session, row, expected)
            if head.next_id is not None:
                self._step(session, row, head.next_id)
            return self._job(session, row)

    def history(self, job_id: int) -> list[Change]:
        """All changes from the first to the last that redo reaches. Raises: NotFoundError."""
        with self._database.reading() as session:
            row = _row(session, job_id)
            all_of_it = {r.id: r for r in session.scalars(select(RevisionRow).where(RevisionRow.job_id == row.id))}
            before = [_revision(session, row.head_id)]
            place = before[0].parent_id
            while place in all_of_it:
                before.append(all_of_it[place])
                place = all_of_it[place].parent_id
            after, place = [], before[0].next_id
            while place in all_of_it:
                after.append(all_of_it[place])
                place = all_of_it[place].next_id
            return [_change(one, True) for one in before[::-1]] + [_change(one, False) for one in after]

    def delete(self, job_id: int) -> None:
        """Raises: NotFoundError."""
        with self._database.writing() as session:
            row = _row(session, job_id)
            session.execute(update(JobRow).where(JobRow.id == row.id).values(head_id=None))
            session.execute(delete(RevisionRow).where(RevisionRow.job_id == row.id))
            session.execute(delete(LeftRow).where(LeftRow.job == row.id))
            session.execute(delete(JobRow).where(JobRow.id == row.id))

    def set_looks(self, job_id: int, thumbnail: str, width_mm: float, height_mm: float, layers: int) -> None:
        """What the shelf shows of a job's last full result. thumbnail: the file of its small picture. Raises: NotFoundError."""
        looks = thumbnail, width_mm, height_mm, layers
        with self._database.reading() as session:
            row = _row(session, job_id)
            if (row.thumbnail, row.width_mm, row.height_mm, row.layers) == looks:
                return
        with self._database.writing() as session:
            row = _row(session, job_id)
            row.thumbnail, row.width_mm, row.height_mm, row.layers = looks

    def blobs_in_use(self) -> set[str]:
        """The files that any revision, thumbnail or font names. Parts that no revision names count, until they are dropped."""
        with self._database.reading() as session:
            used = {name for name in session.scalars(select(JobRow.thumbnail)) if name}
            used |= set(session.scalars(select(FontRow.sha256)))
            for (root,) in session.execute(select(RevisionRow.document)):
                used |= _sources_in(root.get("items")) if isinstance(root, dict) else set()
            for text in session.scalars(select(PartRow.text).where(PartRow.text.contains('"source":"'))):
                used |= _sources_in([json.loads(text)])
            return used

    def drop_unused_parts(self) -> int:
        """Take out the parts that no revision names. Returns how many."""
        with self._database.writing() as session:
            used: set[str] = set()
            wanted: set[str] = set()
            for (root,) in session.execute(select(RevisionRow.document)):
                wanted |= digests_in(root)
            while wanted:
                used |= wanted
                wanted = named_by(session, wanted) - used
            gone = [digest for digest in session.scalars(select(PartRow.digest)) if digest.hex() not in used]
            for start in range(0, len(gone), AT_ONCE):
                session.execute(delete(PartRow).where(PartRow.digest.in_(gone[start : start + AT_ONCE])))
            self._parts.forget()
            return len(gone)

    # Within a transaction

    def _expected(self, session: Session, row: JobRow, expected: int) -> RevisionRow:
        if row.head_id != expected:
            raise _moved_on(row)
        return _revision(session, row.head_id)

    def _rebased(self, session: Session, row: JobRow, expected: int, edit: Edit) -> JobDocument:
        """A change that was begun on an older state, made on the present one. Raises: ConflictError."""
        begun = session.get(RevisionRow, expected)
        if begun is None or begun.job_id != row.id:
            raise _moved_on(row)
        before, now = self._document(session, begun), self._document(session, _revision(session, row.head_id))
        try:
            wanted = edit(before).changed_since(before)
            if wanted & now.changed_since(before):
                raise _moved_on(row)
            return edit(now)
        except NotFoundError as gone:  # the item it is about has been taken out meanwhile
            raise _moved_on(row) from gone

    def _append(
        self, session: Session, row: JobRow, document: JobDocument, what: str, values: dict[str, object], kept: _Kept,
        ticket: str | None = None,
    ) -> None:
        root, parts = self._parts.put(session, document)
        revision = RevisionRow(job_id=row.id, parent_id=row.head_id, made_at=_now(), what=what, what_values=_summary_of(values),
                               document=root, ticket=ticket)
        session.add(revision)
        session.flush()
        if row.head_id is not None:
            _revision(session, row.head_id).next_id = revision.id
        self._move(row, revision, document)
        kept.parts += parts
        kept.documents[revision.id] = document

    def _step(self, session: Session, row: JobRow, revision_id: int) -> None:
        revision = _revision(session, revision_id)
        self._move(row, revision, self._document(session, revision))

    @contextmanager
    def _kept(self) -> Iterator[_Kept]:
        """What a transaction writes, remembered once it is on the disk and not before: it may still be rolled back."""
        kept = _Kept([], {})
        yield kept
        self._parts.kept(kept.parts)
        for revision, document in kept.documents.items():
            self._remember(revision, document)

    @staticmethod
    def _move(row: JobRow, revision: RevisionRow, document: JobDocument) -> None:
        row.head_id, row.name, row.changed_at = revision.id, document.name, _now()
        row.moves += 1
        row.pictures = len(document.pictures)

    def _document(self, session: Session, revision: RevisionRow) -> JobDocument:
        """Raises: DocumentError, NotFoundError."""
        with self._lock:
            if revision.id in self._documents:
                self._documents.move_to_end(revision.id)
                return self._documents[revision.id]
        document = read_document(self._parts.read(session, revision.document))
        self._parts.remember(document)
        self._remember(revision.id, document)
        return document

    def _remember(self, revision: int, document: JobDocument) -> None:
        with self._lock:
            self._documents[revision] = document
            while len(self._documents) > MOST_DOCUMENTS:
                self._documents.popitem(last=False)

    def _job(self, session: Session, row: JobRow, document: JobDocument | None = None) -> Job:
        head = _revision(session, row.head_id)
        following = session.get(RevisionRow, head.next_id) if head.next_id is not None else None
        return Job(
            id=row.id, revision=head.id, moves=row.moves, document=document or self._document(session, head),
            created_at=row.created_at, changed_at=row.changed_at,
            undo=_change(head, True) if head.parent_id is not None else None,
            redo=_change(following, False) if following is not None else None, thumbnail=row.thumbnail,
            base=head.parent_id or 0,
        )

    def _summary(self, session: Session, row: JobRow) -> JobSummary:
        """Nothing is read for it but what older versions wrote: of that no long lists, and each state once only."""
        pictures = row.pictures if row.pictures is not None else self._pictures.get(row.head_id or 0)
        if pictures is None:
            try:
                pictures = len(read_document(unpacked(session, _revision(session, row.head_id).document, lists=False)).pictures)
            except BisectumError:
                pictures = UNREADABLE
            if len(self._pictures) > MOST_COUNTED:
                self._pictures.clear()
            self._pictures[row.head_id or 0] = pictures
        return JobSummary(row.id, row.name, row.changed_at, row.thumbnail, max(0, pictures), pictures != UNREADABLE,
                          _tags(row), row.width_mm, row.height_mm, row.layers, row.thrown_at)


def _tags(row: JobRow) -> tuple[str, ...]:
    """Whatever is kept as tags, those that are words."""
    return tuple(one_line(tag) for tag in row.tags if isinstance(tag, str)) if isinstance(row.tags, list) else ()


def _is_made(session: Session, row: JobRow, ticket: str) -> bool:
    made = select(RevisionRow.id).where(RevisionRow.job_id == row.id, RevisionRow.ticket == ticket)
    return session.scalar(made.limit(1)) is not None


def _moved_on(row: JobRow) -> ConflictError:
    return ConflictError("This was changed in another window meanwhile, so your change was not made. The job is shown as it is "
                         "now; make the change again if you still want it.", code="job_moved_on", revision=row.head_id)


def _summary_of(values: dict[str, object]) -> dict[str, object]:
    """Values short enough for a history: of lists and the like only how long they are."""
    def short(value: object) -> object:
        if isinstance(value, list | tuple | dict):
            return len(value)
        return value[:LONGEST_VALUE] if isinstance(value, str) else value

    return {name: short(value) for name, value in values.items()}


def _sources_in(items: object) -> set[str]:
    """The picture files that items of a document name."""
    there = items if isinstance(items, list) else []
    own = [item for item in there if isinstance(item, dict)]
    made = [item["made"] for item in own if isinstance(item.get("made"), dict)]  # of ready lines
    return {str(one["source"]) for one in (*own, *made) if "source" in one}


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


def _change(revision: RevisionRow, done: bool) -> Change:
    return Change(revision.id, revision.what, revision.what_values, revision.made_at, done)
