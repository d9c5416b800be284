"""The Log room."""

from __future__ import annotations

from welotrope.web.rooms.log.craft import CRAFT
from welotrope.web.rooms.log.frame import routes as frame
from welotrope.web.rooms.log.outing import routes as outing
from welotrope.web.rooms.log.typing import routes as typing
from welotrope.web.shell.room import Room, Section

ROOM = Room(
    key="log",
    label="Log",
    sections=(
        Section(router=typing.router, path="/log/type", jump="Type in what was pencilled"),
        Section(router=frame.router),
        Section(router=outing.router, path="/log"),
    ),
    needs_setup=False,
    craft=CRAFT,
)
