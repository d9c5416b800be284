"""The Aids room."""

from __future__ import annotations

from welotrope.web.rooms.aids.advice import routes as advice
from welotrope.web.rooms.aids.constants import routes as constants
from welotrope.web.rooms.aids.craft import CRAFT
from welotrope.web.shell.room import Room, Section

ROOM = Room(
    key="aids",
    label="Aids",
    sections=(
        Section(router=advice.router, path="/aids"),
        Section(router=constants.router, path="/aids/constants", jump="Constants of the aids"),
    ),
    first_sight=(
        "Every aid of your body is judged for this very setting: the bar is how far off it may leave you,"
        " the bracket the window that is sharp. A bar inside its bracket resolves what you want."
    ),
    craft=CRAFT,
)
