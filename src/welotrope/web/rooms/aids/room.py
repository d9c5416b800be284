"""The Aids room."""

from __future__ import annotations

from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.aids.advice import routes as advice
from welotrope.web.rooms.aids.constants import routes as constants
from welotrope.web.rooms.aids.craft import CRAFT

ROOM = Room(
    key="aids",
    label="Aids",
    sections=(
        Section(router=advice.router, path="/aids"),
        Section(router=constants.router, path="/aids/constants", jump="Constants of the aids"),
    ),
    first_sight=(
        "How precisely each focusing aid of your camera works for this setting. The bar"
        " is its error, the bracket the window; a bar inside the bracket is precise enough."
    ),
    craft=CRAFT,
)
