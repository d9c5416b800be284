"""The craft behind Log, for its help page."""

from __future__ import annotations

from welotrope.web.request.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Find out why",
        why="Misses to one side point to a fault in the equipment; misses to both sides to practice or"
        " an imprecise aid.",
        when="After about thirty marked frames with a set-up, or when focus keeps missing.",
        cost="A few test frames; no cause is named before they support it.",
    ),
    Craft(
        title="Write it down",
        why=(
            "Pictures from adapted lenses lack lens data, and film has none. Without a log, lens,"
            " f-stop, distance, aid and result are lost."
        ),
        when="When the frame is taken; the result at home.",
        cost="One key, or one tap.",
    ),
    Craft(
        title="Set the clock before the pictures",
        why=(
            "A camera's clock drifts by minutes in months, and pictures are matched to frames by time."
            " Photograph this page's clock, or let the pictures show the error."
        ),
        when="Before an outing, or when its pictures come in.",
        cost="One picture per camera.",
    ),
    Craft(
        title="Check the intended spot at 1:1",
        why=(
            "A picture at screen size hides an error of a few pixels, and contrast looks like sharpness. The "
            "outline shows what is sharp by your criterion; the result is your decision."
        ),
        when="When reviewing an outing; look in front and behind too.",
        cost="One key per picture: the result moves on to the next, Undo moves back.",
    ),
    Craft(
        title="Give the data back",
        why=(
            "Other programs only see lens, f-stop and distance if they are stored with the picture. A sidecar"
            " file holds them in standard fields and does not change the picture."
        ),
        when="When an outing is matched and checked.",
        cost="One click; can be undone.",
    ),
    Craft(
        title="What is sharp instead?",
        why=(
            "What is sharp instead shows where focus was. One-sided misses point to a fault, scattered"
            " misses to practice or a more precise aid."
        ),
        when="Looking at the pictures large.",
        cost="A look in front and behind, for every miss.",
    ),
)
