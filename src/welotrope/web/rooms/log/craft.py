"""The craft behind Log, for its help page."""

from __future__ import annotations

from welotrope.web.shell.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Find out why",
        why="Misses to one side are a fault of the kit, to both sides one of practice or of too coarse an aid; each has"
        " its cure.",
        when="Once some thirty frames with a set-up are judged, or something keeps missing.",
        cost="A dozen test frames where the causes differ most; before that no cause is called.",
    ),
    Craft(
        title="Write it down",
        why=(
            "Adapted lenses leave empty fields and film leaves nothing: what lens, stop, distance, aid and "
            "result are lost unless logged."
        ),
        when="When the frame is taken; the result at home.",
        cost="One key, or one tap.",
    ),
    Craft(
        title="Set the clock before the pictures",
        why=(
            "A camera's clock runs off by minutes in months, and a picture finds its frame by time. Photograph the "
            "page's clock, or let the pictures tell how far it is off."
        ),
        when="Before an outing, or when its pictures come in.",
        cost="One picture a camera.",
    ),
    Craft(
        title="Look at 1:1, at the spot that was meant",
        why=(
            "A picture that fits the screen hides a miss of a few pixels, and contrast passes for sharpness. The "
            "outline shows what the standard in hand calls sharp; the verdict is yours."
        ),
        when="Looking through an outing; then in front and behind.",
        cost="A key a picture: the verdict leads on to the next, Undo leads back.",
    ),
    Craft(
        title="Give the data back",
        why=(
            "Lens, stop and distance are lost to every other program unless they stand beside the picture. A sidecar "
            "holds them in standard fields and leaves the picture as it is."
        ),
        when="When an outing is matched and checked.",
        cost="One press; undone as easily.",
    ),
    Craft(
        title="What is sharp instead?",
        why=(
            "Something else being sharp is the evidence: one-sided misses are a fault, scattered ones want "
            "practice or a finer aid."
        ),
        when="Looking at the pictures large.",
        cost="A look before and behind, for every miss.",
    ),
)
