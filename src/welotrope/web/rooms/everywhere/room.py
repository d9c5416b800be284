"""What every page shares, as a room."""

from __future__ import annotations

from welotrope.web.room import Room, Section
from welotrope.web.rooms.everywhere import routes
from welotrope.web.rooms.everywhere.jobs import routes as jobs

ROOM = Room(
    key="",
    label="",
    sections=(
        Section(router=jobs.router, path="/jobs", jump="Long work"),
        Section(router=routes.router, path="/help", jump="Keys and help"),
    ),
    needs_setup=False,
    keys=(
        ("k", "switch set-up"),
        ("u", "swap metres and feet"),
        ("t", "next look: Bench, Room, Sun, Night"),
        ("/", "jump to anything"),
        ("?", "this page"),
    ),
)
