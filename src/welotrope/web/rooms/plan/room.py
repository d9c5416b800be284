"""The Plan room."""

from __future__ import annotations

from welotrope.web.room import Room, Section
from welotrope.web.rooms.plan import routes

ROOM = Room(
    key="plan",
    label="Plan",
    sections=(Section(router=routes.router, path="/plan"),),
)
