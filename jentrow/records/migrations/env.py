"""Runs migrations on the connection that the program hands over."""

from alembic import context

from jentrow.records.models import Base

connection = context.config.attributes["connection"]
context.configure(
    connection=connection,
    target_metadata=Base.metadata,
    render_as_batch=True,  # SQLite alters a table by copying it
    compare_type=True,
)
with context.begin_transaction():
    context.run_migrations()
