"""The Aids room: its sections, and the craft behind it."""

from __future__ import annotations

from welotrope.web.request.room import Craft, Room, Section
from welotrope.web.rooms.aids import advice, constants, live

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Which aid is precise enough",
        why=(
            "Each aid has its limits. A split image needs a line across it and blacks out with slow"
            " lenses. Peaking marks only hard edges. A screen shows more depth of field than the picture."
        ),
        when="Whenever depth of field is shallow.",
        cost="The magnified view is the most certain, and the slowest.",
    ),
    Craft(
        title="Live on the computer",
        why=(
            "Many cameras send their live picture to a computer, as a webcam by USB cable or through an HDMI capture"
            " stick. Every picture is compared with the sharpest of the sweep; you hear or see when the best is past."
        ),
        when="On a tripod, with a still subject: still life, copying, close-ups, stars through a long lens.",
        cost="A cable and a minute. Magnify the camera’s own view where the picture is coarser than the criterion.",
    ),
    Craft(
        title="Past sharp and back",
        why=(
            "Start at infinity, turn past the sharpest point and come back to it. The eye"
            " sees a change better than a single state."
        ),
        when="With a screen, a magnifier or peaking.",
        cost="Two seconds per frame.",
    ),
    Craft(
        title="Focus open or stopped down",
        why="Wide open, focus is easiest to see; at the taking aperture, focus shift is visible too.",
        when="Wide open with a lens without focus shift; at the taking aperture with one that has it.",
        cost="Stopped down, the finder is dark and prisms black out.",
    ),
)


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
