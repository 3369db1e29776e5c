"""The drawer of materials."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "stock",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("place", sa.Integer, nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("kind", sa.String(30), nullable=False),
        sa.Column("colour", sa.String(7), nullable=False),
        sa.Column("width_mm", sa.Double, nullable=False),
        sa.Column("height_mm", sa.Double, nullable=False),
        sa.Column("on_hand", sa.Boolean, nullable=False),
        sa.Column("finish", sa.String(80), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("stock")
