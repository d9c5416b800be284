"""The Log room."""

from __future__ import annotations

from welotrope.web.room import Room, Section
from welotrope.web.rooms.log import routes

ROOM = Room(
    key="log",
    label="Log",
    sections=(Section(router=routes.router, path="/log"),),
    needs_setup=False,
)
