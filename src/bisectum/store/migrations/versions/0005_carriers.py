"""Stocks have an id that jobs know them by; mats, rolls and cards of one's own."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    with op.batch_alter_table("stock") as table:
        table.add_column(sa.Column("code", sa.String(20), nullable=False, server_default=""))
        table.add_column(sa.Column("patterned", sa.Boolean, nullable=False, server_default=sa.false()))
    op.execute("UPDATE stock SET code = 'stock-' || id")
    op.create_table(
        "carrier",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("place", sa.Integer, nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("kind", sa.String(10), nullable=False),
        sa.Column("width_mm", sa.Double, nullable=False),
        sa.Column("height_mm", sa.Double, nullable=False),
        sa.Column("usable_width_mm", sa.Double, nullable=False),
        sa.Column("usable_height_mm", sa.Double, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("carrier")
    with op.batch_alter_table("stock") as table:
        table.drop_column("patterned")
        table.drop_column("code")
