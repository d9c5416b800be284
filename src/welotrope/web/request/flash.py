"""The flash message: one line at the foot of the page that follows a change, with its undo."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.store.queries import history
from welotrope.store.unit_of_work import UnitOfWork


@dataclass(frozen=True)
class FlashMessage:
    """What was done, and the key of the change to undo; None where it cannot be undone any more."""

    text: str
    undo_id: int | None


def flash_message(uow: UnitOfWork, done: str) -> FlashMessage | None:
    """Return the message on a change by its key as the address writes it; None for anything else."""
    if not (done.isascii() and done.isdigit()) or len(done) > 9:
        return None
    try:
        entry = history.get_change(uow, int(done))
    except LookupError:
        return None
    return FlashMessage(entry.label, None if entry.undone or entry.retired else entry.id)
