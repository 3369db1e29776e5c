"""Runs the migrations against the address in the configuration."""

from __future__ import annotations

from alembic import context
from sqlalchemy import create_engine

from bisectum.store.tables import Base

engine = create_engine(context.config.get_main_option("sqlalchemy.url") or "")
with engine.begin() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
