"""The craft behind Aids, for its help page."""

from __future__ import annotations

from welotrope.web.request.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Which aid is precise enough",
        why=(
            "Each aid has its limits. A split image needs a line across it and blacks out with slow"
            " lenses. Peaking marks only hard edges. A screen shows more depth of field than the picture."
        ),
        when="Whenever depth of field is shallow.",
        cost="The most certain, magnified live view, is the slowest.",
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
