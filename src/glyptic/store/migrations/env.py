"""Alembic's entry: runs on the connection the store hands over."""

from alembic import context

from glyptic.store.tables import Table

context.configure(
    connection=context.config.attributes["connection"], target_metadata=Table.metadata, render_as_batch=True
)
with context.begin_transaction():
    context.run_migrations()
