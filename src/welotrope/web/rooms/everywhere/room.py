"""What every page shares, as a room."""

from __future__ import annotations

from welotrope.web.request.preferences import Appearance
from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.everywhere import common, devices, jobs

ROOM = Room(
    key="",
    label="",
    sections=(
        Section(router=jobs.router, path="/jobs", jump="Long work"),
        Section(router=devices.router, path="/devices", jump="Devices: let a phone in"),
        Section(router=common.router, path="/help", jump="Keys and help"),
    ),
    needs_setup=False,
    keys=(
        ("k", "switch set-up"),
        ("z", "zoom the selected lens to its next marked focal length"),
        ("u", "switch between metres and feet"),
        ("t", f"next look: {', '.join(look.label for look in Appearance)}"),
        ("/", "jump to anything"),
        ("?", "this page"),
    ),
)
