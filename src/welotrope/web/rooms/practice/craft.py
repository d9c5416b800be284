"""The craft behind Practice, for its help page."""

from __future__ import annotations

from welotrope.web.shell.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Tape on the ring",
        why="The line comes back to the index only when eye and hand do; how far off tells for which stops.",
        when="Before a lens is trusted wide open; a few minutes on end, the focus thrown off both ways.",
        cost="Ten minutes. A line that the same hand set tells scatter, not bias.",
    ),
    Craft(
        title="Guess, then measure",
        why="Zones stand or fall with distances judged without looking.",
        when="On any walk; most where your zones begin.",
        cost="None. Arm-lengths and paces do for a tape.",
    ),
    Craft(
        title="Five a day with one routine",
        why="One routine at mixed distances makes a habit; its hits show what the habit is worth.",
        when="Daily, five minutes.",
        cost="A day left out costs nothing but the habit.",
    ),
    Craft(
        title="Practise with one aid",
        why="Hand and eye improve; the record says by how much, with its interval.",
        when="A few minutes a day until the marks coincide.",
        cost="None; but a hand on a screen is not yet one on rubber.",
    ),
)
