"""The craft behind Practice, for its help page."""

from __future__ import annotations

from welotrope.web.shell.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Practise with one aid",
        why="Hand and eye improve; the record says by how much, with its interval.",
        when="A few minutes a day until the marks coincide.",
        cost="None; but a hand on a screen is not yet one on rubber.",
    ),
)
