"""The person's own fonts."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.create_table(
        "font",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("font")
