"""The Aids room."""

from __future__ import annotations

from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.aids.advice import routes as advice
from welotrope.web.rooms.aids.constants import section as constants
from welotrope.web.rooms.aids.craft import CRAFT
from welotrope.web.rooms.aids.live import routes as live

ROOM = Room(
    key="aids",
    label="Aids",
    sections=(
        Section(router=advice.router, path="/aids", tab="Which aid"),
        Section(
            router=live.router,
            path="/aids/live",
            tab="Live",
            jump="Live: measure the camera’s picture",
            suits=lambda camera: camera.can_have("live"),
        ),
        Section(router=constants.router, path="/aids/constants", jump="Constants of the aids"),
    ),
    keys=(
        ("arrows", "in Live: move the spot"),
        ("1 2 3 4", "in Live: whole picture, 1:1, 6×, 12×"),
        ("n", "in Live: the next step; begin a new sweep"),
        ("o", "in Live: outline what is sharp"),
    ),
    first_sight=(
        "How precisely each focusing aid of your camera works for this setting. The bar"
        " is its error, the bracket the window; a bar inside the bracket is precise enough."
    ),
    craft=CRAFT,
)
