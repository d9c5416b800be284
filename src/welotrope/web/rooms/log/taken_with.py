"""The set-up a frame was taken with, as it stood then."""

from __future__ import annotations

from dataclasses import replace

from welotrope.core.review.frame import NewFrame
from welotrope.store.book import Book
from welotrope.store.queries import kit
from welotrope.store.queries.kit import StoredSetup


def taken_with(book: Book, frame: NewFrame) -> StoredSetup | None:
    """Return the set-up of a frame, a zoom at the focal length it had then; None when it is gone or not known."""
    stored = None if frame.setup_id is None else kit.find_setup(book, frame.setup_id)
    return None if stored is None else at_focal_of(stored, frame)


def at_focal_of(stored: StoredSetup, frame: NewFrame) -> StoredSetup:
    """Return a set-up at the focal length of a frame, where that is known."""
    if frame.focal_mm is None:
        return stored
    return replace(stored, setup=stored.setup.at_focal(frame.focal_mm))
