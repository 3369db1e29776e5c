"""Which files of a job were taken along."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "left",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("job", sa.Integer, nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("state", sa.String(64), nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )
    op.create_index("ix_left_job", "left", ["job", "id"])


def downgrade() -> None:
    op.drop_table("left")
