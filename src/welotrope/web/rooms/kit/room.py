"""The Kit room."""

from __future__ import annotations

from welotrope.web.room import Room, Section
from welotrope.web.rooms.kit import import_routes, routes, sheet_routes
from welotrope.web.rooms.kit.start import routes as start

ROOM = Room(
    key="kit",
    label="Kit",
    sections=(
        Section(router=sheet_routes.router),
        Section(router=import_routes.router),
        Section(router=routes.router, path="/kit"),
        Section(router=start.router),
    ),
    needs_setup=False,
)
