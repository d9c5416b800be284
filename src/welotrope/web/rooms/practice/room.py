"""The Practice room."""

from __future__ import annotations

from welotrope.web.room import Room, Section
from welotrope.web.rooms.practice import routes

ROOM = Room(
    key="practice",
    label="Practice",
    sections=(Section(router=routes.router, path="/practice"),),
    keys=(
        ("space", "in the finder: release"),
        ("m r d", "in the finder: magnify or look closer, turn the camera, mask"),
    ),
)
