"""The tables, private to the store."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, LargeBinary, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    pass


class JobRow(Base):
    """A job. head_id: the revision it stands at; moves: how often it has moved, by changes, undo or redo. Numbers of jobs and
    revisions never come again, so an old page of a deleted job can do nothing to a new one. tags: words of the person's own;
    width_mm, height_mm, layers: of its last full result, 0 before there is one; thrown_at: when it was taken off the shelf;
    pictures: how many it has, none where that was last written by a version that did not say so."""

    __tablename__ = "job"
    __table_args__ = ({"sqlite_autoincrement": True},)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime]
    changed_at: Mapped[datetime]
    head_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id", use_alter=True, name="fk_job_head"))
    thumbnail: Mapped[str | None] = mapped_column(String(64))
    moves: Mapped[int] = mapped_column(default=0)
    tags: Mapped[list[str]] = mapped_column(JSON, default=list)
    width_mm: Mapped[float] = mapped_column(default=0.0)
    height_mm: Mapped[float] = mapped_column(default=0.0)
    layers: Mapped[int] = mapped_column(default=0)
    thrown_at: Mapped[datetime | None]
    pictures: Mapped[int | None]


class RevisionRow(Base):
    """A state of a job. what: the code of the change that led to it, with a summary of its values. document: the root of the
    document, which names the other parts by their digest. next_id: where redo leads from here. ticket: of the request that
    made it, by which one that was sent twice is told."""

    __tablename__ = "revision"
    __table_args__ = (
        Index("ix_revision_job", "job_id", "id"), Index("ix_revision_ticket", "job_id", "ticket"), {"sqlite_autoincrement": True},
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id", ondelete="CASCADE"))
    next_id: Mapped[int | None]
    made_at: Mapped[datetime]
    what: Mapped[str] = mapped_column(String(40))
    what_values: Mapped[dict[str, Any]] = mapped_column(JSON)
    document: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True)
    ticket: Mapped[str | None] = mapped_column(String(40))


class PartRow(Base):
    """A part of documents, kept once under the digest of its text."""

    __tablename__ = "part"
    __table_args__ = ({"sqlite_with_rowid": False},)

    digest: Mapped[bytes] = mapped_column(LargeBinary(16), primary_key=True)
    text: Mapped[str] = mapped_column(Text)


class StockRow(Base):
    """A material in the drawer. place: its line in the table; code: its id, which jobs know it by."""

    __tablename__ = "stock"

    id: Mapped[int] = mapped_column(primary_key=True)
    place: Mapped[int]
    name: Mapped[str] = mapped_column(String(80))
    kind: Mapped[str] = mapped_column(String(30))
    colour: Mapped[str] = mapped_column(String(7))
    width_mm: Mapped[float]
    height_mm: Mapped[float]
    on_hand: Mapped[bool]
    finish: Mapped[str] = mapped_column(String(80))
    code: Mapped[str] = mapped_column(String(20))
    patterned: Mapped[bool] = mapped_column(default=False)


class CarrierRow(Base):
    """A mat, roll or card of the person's own. place: its line in the table."""

    __tablename__ = "carrier"

    id: Mapped[int] = mapped_column(primary_key=True)
    place: Mapped[int]
    name: Mapped[str] = mapped_column(String(80))
    kind: Mapped[str] = mapped_column(String(10))
    width_mm: Mapped[float]
    height_mm: Mapped[float]
    usable_width_mm: Mapped[float]
    usable_height_mm: Mapped[float]


class UsageRow(Base):
    """What of a stock one state of a job took. stock: its id. It outlives the job: what is used is used."""

    __tablename__ = "usage"

    stock: Mapped[str] = mapped_column(String(20), primary_key=True)
    job: Mapped[int] = mapped_column(primary_key=True)
    state: Mapped[str] = mapped_column(String(64), primary_key=True)
    taken_mm2: Mapped[float]
    at: Mapped[datetime]


class LeftRow(Base):
    """A file of a job that was taken along. state: names what it was made from."""

    __tablename__ = "left"
    __table_args__ = (Index("ix_left_job", "job", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    job: Mapped[int]
    name: Mapped[str] = mapped_column(String(200))
    state: Mapped[str] = mapped_column(String(64))
    at: Mapped[datetime]


class FontRow(Base):
    """A font of the person's own, kept as a file under its SHA-256."""

    __tablename__ = "font"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))


class BlobRow(Base):
    """A file kept beside the database under its SHA-256."""

    __tablename__ = "blob"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    size: Mapped[int]
    kept_at: Mapped[datetime]


class FlagRow(Base):
    """Something that was done once and for all, such as laying out the demo."""

    __tablename__ = "flag"

    name: Mapped[str] = mapped_column(String(40), primary_key=True)
