"""How many pictures a job has, so that a long shelf is told without reading every document."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    with op.batch_alter_table("job") as table:
        table.add_column(sa.Column("pictures", sa.Integer, nullable=True))


def downgrade() -> None:
    with op.batch_alter_table("job") as table:
        table.drop_column("pictures")
