"""The Aids room."""

from __future__ import annotations

from welotrope.web.room import Room, Section
from welotrope.web.rooms.aids import routes
from welotrope.web.rooms.aids.constants import routes as constants

ROOM = Room(
    key="aids",
    label="Aids",
    sections=(
        Section(router=routes.router, path="/aids"),
        Section(router=constants.router, path="/aids/constants", jump="Constants of the aids"),
    ),
)
