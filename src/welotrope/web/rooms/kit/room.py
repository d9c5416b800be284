"""The Kit room."""

from __future__ import annotations

from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.kit.backups import section as backups
from welotrope.web.rooms.kit.craft import CRAFT
from welotrope.web.rooms.kit.files import section as files
from welotrope.web.rooms.kit.setup import routes as setup
from welotrope.web.rooms.kit.sheet import section as sheet
from welotrope.web.rooms.kit.shelf import section as shelf
from welotrope.web.rooms.kit.slots import section as slots
from welotrope.web.rooms.kit.start import routes as start
from welotrope.web.rooms.kit.things import routes as things

ROOM = Room(
    key="kit",
    label="Kit",
    sections=(
        Section(router=sheet.router),
        Section(router=slots.router),
        Section(router=files.router),
        Section(router=backups.router, path="/kit/backups", jump="Backups, and everything as one file"),
        Section(router=setup.router),
        Section(router=things.router),
        Section(router=shelf.router, path="/kit"),
        Section(router=start.router),
    ),
    needs_setup=False,
    craft=CRAFT,
)
