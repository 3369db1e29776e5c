"""What was used of each stock."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.create_table(
        "usage",
        sa.Column("stock", sa.String(20), primary_key=True),
        sa.Column("job", sa.Integer, primary_key=True),
        sa.Column("state", sa.String(64), primary_key=True),
        sa.Column("taken_mm2", sa.Double, nullable=False),
        sa.Column("at", sa.DateTime, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("usage")
