"""The craft behind Plan, for its help page."""

from __future__ import annotations

from welotrope.web.shell.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Set and shoot: zones",
        why=(
            "A zone set beforehand needs no focusing: one remembered far, one for conversation. What stands "
            "in it is sharp."
        ),
        when="Wide lenses, good light, people who move.",
        cost=("Light: the ISO climbs, the shutter slows; nothing is sharp to the pixel; useless for shallow depth."),
    ),
    Craft(
        title="Place the plane",
        why=(
            "Open wide and put the plane exactly on an eye, a star, lettering. Depth does not move the plane;"
            " stopping down only hides a miss."
        ),
        when="Dim light, portraits, anything that must be crisp.",
        cost="Time for every frame, and a still subject or a lean.",
    ),
    Craft(
        title="Can I afford the stop?",
        why="Small stops and fast shutters use up daylight quickly, and a cloud uses up the rest.",
        when="Before choosing f/11 for a zone.",
        cost="Something has to give: zone, ISO, shutter, or the school.",
    ),
    Craft(
        title="Trap, never chase",
        why=(
            "Focus where the subject will be, wait, press early by your reaction and the shutter’s lag, set "
            "nearer, wait again."
        ),
        when="Whatever comes towards you: boats, bicycles, people.",
        cost="Few frames, but sharp ones.",
    ),
    Craft(
        title="Lean with the sitter",
        why=("Near, the window is narrower than two people sway. Moving your head is faster than turning the ring."),
        when="Portraits wide open, macro by hand.",
        cost="Practice; a support is better still.",
    ),
    Craft(
        title="Closer",
        why="Close-up lenses bend the range nearer, tubes move it nearer; both trade room for size.",
        when="When closest focus is not near enough.",
        cost="Strong lenses smear edges, tubes take light, and depth is millimetres.",
    ),
    Craft(
        title="Stars",
        why=(
            "The infinity stop is not trusted: magnify a bright star, turn until it is smallest, pass it and come back."
        ),
        when="Every clear night, and again when it cools.",
        cost="Test frames; the foreground may need a frame of its own.",
    ),
)
