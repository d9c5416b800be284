"""The craft behind Aids, for its help page."""

from __future__ import annotations

from welotrope.web.shell.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Which aid shows the plane",
        why=(
            "Each has a limit and a failure: a split needs a line across it and goes dark with slow lenses; "
            "peaking lights only hard edges; a screen shows more depth than the picture has."
        ),
        when="Whenever depth is thin.",
        cost="The most certain, magnified live view, is the slowest.",
    ),
    Craft(
        title="Through sharp and back",
        why=(
            "Start at infinity, turn nearer until sharp and beyond, come back to the sharpest: the eye knows "
            "a turning point better than a place."
        ),
        when="With a screen, a magnifier or peaking.",
        cost="Two seconds a frame.",
    ),
    Craft(
        title="Focus open or stopped down",
        why="Open, the plane is thin and easy to see; at the taking stop any focus shift is seen.",
        when="Open with a lens that does not shift; at the taking stop with one that does.",
        cost="Stopped down the finder is dark and prisms black out.",
    ),
)
