"""The craft behind Scale, for its help page."""

from __future__ import annotations

from welotrope.web.shell.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Infinity on the far mark",
        why=(
            "The near mark then reads the nearest sharp distance, and the index the hyperfocal distance: the "
            "deepest zone that still holds the horizon."
        ),
        when="Landscapes, crowds, streets, with a wide lens stopped down.",
        cost="The horizon itself is only just sharp.",
    ),
    Craft(
        title="Measure the throw",
        why=(
            "The travel from infinity to closest focus tells how many degrees, or millimetres of rubber, the "
            "window spans."
        ),
        when="Once for each lens; with it the numbers are yours and not assumed.",
        cost="Half an hour with a paper collar and a tape.",
    ),
    Craft(
        title="Infinity in the wrong place",
        why="Cheap adapters and lenses put infinity before or past its mark; every distance is off by it.",
        when="When stars are soft at the mark, or far things are sharp before it.",
        cost="A few sightings of something far; shimming is a technician’s job.",
    ),
    Craft(
        title="Focus shift",
        why="Some lenses move their sharpest plane as they stop down.",
        when="When a frame focused wide open is soft only when stopped down.",
        cost="A few trials for each stop; then it is put in everywhere.",
    ),
)
