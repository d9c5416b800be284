"""Alembic environment: runs on the connection it is handed."""

from alembic import context

from welotrope.store.models import Base


def _ours(name: str | None, kind: str, _parents: object) -> bool:
    """Leave out the index of words and what the database keeps behind it."""
    return kind != "table" or not str(name).startswith("frame_words")


context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    render_as_batch=True,
    include_name=_ours,
)
with context.begin_transaction():
    context.run_migrations()
