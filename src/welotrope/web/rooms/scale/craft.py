"""The craft behind Scale, for its help page."""

from __future__ import annotations

from welotrope.web.request.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Hyperfocal: infinity on the far mark",
        why=(
            "The near mark then shows the near limit and the index the hyperfocal distance:"
            " the most depth of field with a sharp horizon."
        ),
        when="Landscapes, crowds, streets, with a wide lens stopped down.",
        cost="The horizon itself is only just sharp.",
    ),
    Craft(
        title="Measure the throw",
        why=("The focus throw shows how many degrees, or millimetres along the ring, the window covers."),
        when="Once for each lens; the numbers are then measured and not assumed.",
        cost="Half an hour with a paper collar and a tape measure.",
    ),
    Craft(
        title="Infinity not at its mark",
        why="Many adapters and lenses put infinity before or past its mark; then all distances are wrong.",
        when="When stars are soft at the mark, or distant subjects are sharp before it.",
        cost="A few checks on a distant subject; shimming is a job for a technician.",
    ),
    Craft(
        title="Focus shift",
        why="Some lenses change their focus distance when stopped down.",
        when="When a frame focused wide open is soft only when stopped down.",
        cost="A few trials for each f-stop; then all pages include it.",
    ),
)
