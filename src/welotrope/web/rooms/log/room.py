"""The Log room."""

from __future__ import annotations

from welotrope.web.rooms.log.craft import CRAFT
from welotrope.web.rooms.log.frame import routes as frame
from welotrope.web.rooms.log.outing import routes as outing
from welotrope.web.rooms.log.rolls import routes as rolls
from welotrope.web.rooms.log.typing import routes as typing
from welotrope.web.shell.room import Room, Section

ROOM = Room(
    key="log",
    label="Log",
    sections=(
        Section(router=typing.router, path="/log/type", jump="Type in what was pencilled"),
        Section(router=frame.router),
        Section(router=rolls.router, path="/log/rolls", tab="Rolls", jump="Rolls of film"),
        Section(router=outing.router, path="/log", tab="Frames"),
    ),
    needs_setup=False,
    keys=(("/", "find frames"),),
    craft=CRAFT,
)
