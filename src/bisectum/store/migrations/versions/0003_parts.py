"""Documents in parts by digest, numbers that never come again, redo as a stored pointer, flags."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "part", sa.Column("digest", sa.LargeBinary(16), primary_key=True), sa.Column("text", sa.Text, nullable=False),
        sqlite_with_rowid=False,
    )
    op.create_table("flag", sa.Column("name", sa.String(40), primary_key=True))
    bind = op.get_bind()
    # SQLite cannot add AUTOINCREMENT to a table; both are made anew and filled. The tables' words for each other stay.
    bind.execute(sa.text("PRAGMA legacy_alter_table = ON"))
    for name, columns in (("job", _JOB), ("revision", _REVISION)):
        op.rename_table(name, f"old_{name}")
        if name == "revision":
            op.drop_index("ix_revision_job", "old_revision")
        op.create_table(name, *[column.copy() for column in columns], sqlite_autoincrement=True)
    bind.execute(sa.text("PRAGMA legacy_alter_table = OFF"))
    op.create_index("ix_revision_job", "revision", ["job_id", "id"])
    op.create_index("ix_revision_ticket", "revision", ["job_id", "ticket"])
    bind.execute(sa.text(
        "INSERT INTO revision (id, job_id, parent_id, next_id, made_at, what, what_values, document) "
        "SELECT id, job_id, parent_id, NULL, made_at, what, what_values, document FROM old_revision"))
    bind.execute(sa.text(
        "INSERT INTO job (id, name, created_at, changed_at, head_id, thumbnail, moves) "
        "SELECT id, name, created_at, changed_at, head_id, thumbnail, 0 FROM old_job"))
    _point_to_what_follows(bind)
    op.drop_table("old_revision")
    op.drop_table("old_job")


def downgrade() -> None:
    raise NotImplementedError("An older Bisectum cannot read documents that are kept in parts.")


def _point_to_what_follows(bind: sa.Connection) -> None:
    """From the end of what redo reached back to the first revision, each is told which one follows."""
    for (tip,) in bind.execute(sa.text("SELECT tip_id FROM old_job WHERE tip_id IS NOT NULL")).all():
        place = tip
        while True:
            parent = bind.execute(sa.text("SELECT parent_id FROM revision WHERE id = :id"), {"id": place}).scalar()
            if parent is None:
                break
            bind.execute(sa.text("UPDATE revision SET next_id = :next WHERE id = :id"), {"next": place, "id": parent})
            place = parent


_JOB = (
    sa.Column("id", sa.Integer, primary_key=True),
    sa.Column("name", sa.String(80), nullable=False),
    sa.Column("created_at", sa.DateTime, nullable=False),
    sa.Column("changed_at", sa.DateTime, nullable=False),
    sa.Column("head_id", sa.Integer, sa.ForeignKey("revision.id", name="fk_job_head"), nullable=True),
    sa.Column("thumbnail", sa.String(64), nullable=True),
    sa.Column("moves", sa.Integer, nullable=False),
)
_REVISION = (
    sa.Column("id", sa.Integer, primary_key=True),
    sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False),
    sa.Column("parent_id", sa.Integer, sa.ForeignKey("revision.id", ondelete="CASCADE"), nullable=True),
    sa.Column("next_id", sa.Integer, nullable=True),
    sa.Column("made_at", sa.DateTime, nullable=False),
    sa.Column("what", sa.String(40), nullable=False),
    sa.Column("what_values", sa.JSON, nullable=False),
    sa.Column("document", sa.JSON, nullable=False),
    sa.Column("ticket", sa.String(40), nullable=True),
)
