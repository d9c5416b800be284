"""The pocket file of a database, for the command line."""

from __future__ import annotations

import datetime as dt

from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import find_selected_setup
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.rooms.field.page import field_book
from welotrope.web.rooms.field.pocket import pocket_file


def pocket_html(uow: UnitOfWork, now: dt.datetime, look: str, unit: Unit) -> str:
    """Return the field page of all set-ups as one HTML file; '' when there is no set-up yet."""
    book = field_book(uow, now, find_selected_setup(uow), unit)
    return pocket_file(book, look) if book["hands"] else ""
