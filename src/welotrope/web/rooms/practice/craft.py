"""The craft behind Practice, for its help page."""

from __future__ import annotations

from welotrope.web.request.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Tape on the ring",
        why="How far the line is from the index shows your focusing error, and for which f-stops it is good enough.",
        when="Before you use a lens wide open; a few minutes, defocusing in both directions.",
        cost="Ten minutes. A line you set yourself shows scatter, not bias.",
    ),
    Craft(
        title="Estimate, then measure",
        why="Zones only work with good distance estimates.",
        when="On any walk, mostly at distances where your zones begin.",
        cost="None. Arm lengths and paces replace a tape measure.",
    ),
    Craft(
        title="Five a day with one routine",
        why="One routine at mixed distances becomes a habit; its hit rate shows how good it is.",
        when="Daily, five minutes.",
        cost="None.",
    ),
    Craft(
        title="Practise with one aid",
        why="Hand and eye improve; the record shows by how much, with an interval.",
        when="A few minutes a day until your results are steady.",
        cost="None; but practice on a screen does not replace the real ring.",
    ),
)
