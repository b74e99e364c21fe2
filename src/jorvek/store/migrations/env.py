"""Alembic environment: runs on the connection that the program hands over."""

from __future__ import annotations

from alembic import context

from jorvek.store.tables import metadata

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=metadata)
with context.begin_transaction():
    context.run_migrations()
connection.commit()
