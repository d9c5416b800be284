"""The Practice room."""

from __future__ import annotations

from welotrope.web.rooms.practice.craft import CRAFT
from welotrope.web.rooms.practice.record import routes as record
from welotrope.web.rooms.practice.round import routes as round
from welotrope.web.rooms.practice.trial import routes as trial
from welotrope.web.shell.room import Room, Section

ROOM = Room(
    key="practice",
    label="Practice",
    sections=(
        Section(router=round.router),
        Section(router=trial.router),
        Section(router=record.router, path="/practice"),
    ),
    keys=(
        ("space", "in the finder: release"),
        ("m r d", "in the finder: magnify or look closer, turn the camera, mask"),
    ),
    first_sight=(
        "A made-up scene as this lens and aid would show it. Turn until the thing named is sharp, "
        "release, and see in degrees of ring where the plane fell. Your rounds then count in Aids."
    ),
    craft=CRAFT,
)
