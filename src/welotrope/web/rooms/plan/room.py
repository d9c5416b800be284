"""The Plan room."""

from __future__ import annotations

from welotrope.web.rooms.plan.presets import routes as presets
from welotrope.web.rooms.plan.scene import routes as scene
from welotrope.web.shell.room import Room, Section

ROOM = Room(
    key="plan",
    label="Plan",
    sections=(Section(router=presets.router), Section(router=scene.router, path="/plan")),
)
