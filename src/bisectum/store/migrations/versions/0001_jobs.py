"""Jobs, their revisions, and the files they come from."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "blob",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("kept_at", sa.DateTime, nullable=False),
    )
    op.create_table(
        "job",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("created_at", sa.DateTime, nullable=False),
        sa.Column("changed_at", sa.DateTime, nullable=False),
        sa.Column("head_id", sa.Integer, sa.ForeignKey("revision.id", name="fk_job_head"), nullable=True),
        sa.Column("tip_id", sa.Integer, sa.ForeignKey("revision.id", name="fk_job_tip"), nullable=True),
        sa.Column("thumbnail", sa.String(64), nullable=True),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("job_id", sa.Integer, sa.ForeignKey("job.id", ondelete="CASCADE"), nullable=False),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("revision.id", ondelete="CASCADE"), nullable=True),
        sa.Column("made_at", sa.DateTime, nullable=False),
        sa.Column("what", sa.String(40), nullable=False),
        sa.Column("what_values", sa.JSON, nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
    )
    op.create_index("ix_revision_job", "revision", ["job_id", "id"])


def downgrade() -> None:
    for table in ("revision", "job", "blob"):
        op.drop_table(table)
