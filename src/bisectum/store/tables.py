"""The tables, private to the store."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, String
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    pass


class JobRow(Base):
    """A job. head_id: the revision it stands at; tip_id: the end of what redo reaches."""

    __tablename__ = "job"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime]
    changed_at: Mapped[datetime]
    head_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id", use_alter=True, name="fk_job_head"))
    tip_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id", use_alter=True, name="fk_job_tip"))
    thumbnail: Mapped[str | None] = mapped_column(String(64))


class RevisionRow(Base):
    """A state of a job as a whole document. what: the code of the change that led to it, with its values."""

    __tablename__ = "revision"
    __table_args__ = (Index("ix_revision_job", "job_id", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id", ondelete="CASCADE"))
    made_at: Mapped[datetime]
    what: Mapped[str] = mapped_column(String(40))
    what_values: Mapped[dict[str, Any]] = mapped_column(JSON)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)


class StockRow(Base):
    """A material in the drawer. place: its line in the table."""

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


class BlobRow(Base):
    """A file kept beside the database under its SHA-256."""

    __tablename__ = "blob"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    size: Mapped[int]
    kept_at: Mapped[datetime]
