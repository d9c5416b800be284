"""The set-up a frame was taken with, as it stood then."""

from __future__ import annotations

from dataclasses import replace

from welotrope.core.review.frame import NewFrame
from welotrope.store.queries import kit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.unit_of_work import UnitOfWork


def taken_with(uow: UnitOfWork, frame: NewFrame) -> StoredSetup | None:
    """Return the set-up of a frame, a zoom at the focal length it had then; None when it is gone or not known."""
    stored = None if frame.setup_id is None else kit.find_setup(uow, frame.setup_id)
    return None if stored is None else at_focal_of(stored, frame)


def at_focal_of(stored: StoredSetup, frame: NewFrame) -> StoredSetup:
    """Return a set-up at the focal length of a frame, where that is known."""
    if frame.focal_mm is None:
        return stored
    return replace(stored, setup=stored.setup.at_focal(frame.focal_mm))
