"""What the shelf tells of a job: tags, its size and layers; and a way back for those that were taken off it."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    with op.batch_alter_table("job") as table:
        table.add_column(sa.Column("tags", sa.JSON, nullable=False, server_default="[]"))
        table.add_column(sa.Column("width_mm", sa.Double, nullable=False, server_default="0"))
        table.add_column(sa.Column("height_mm", sa.Double, nullable=False, server_default="0"))
        table.add_column(sa.Column("layers", sa.Integer, nullable=False, server_default="0"))
        table.add_column(sa.Column("thrown_at", sa.DateTime, nullable=True))


def downgrade() -> None:
    with op.batch_alter_table("job") as table:
        for name in ("thrown_at", "layers", "height_mm", "width_mm", "tags"):
            table.drop_column(name)
