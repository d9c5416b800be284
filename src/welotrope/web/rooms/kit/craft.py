"""The craft behind Kit, for its help page."""

from __future__ import annotations

from welotrope.web.shell.room import Craft

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Does it fit together?",
        why=(
            "A lens that does not fit can break a mirror, a lever or its own rear. What is not known is never"
            " taken as safe."
        ),
        when="Before a lens is mounted for the first time, and after any change of adapter.",
        cost="A few measurements with a ruler; the maker’s data, or a repairer, for what cannot be measured.",
    ),
    Craft(
        title="Tell the camera",
        why=(
            "An adapted lens sends no data: manual focus, the release without a lens, focal length for the "
            "stabiliser and the magnifier’s button have to be told."
        ),
        when="Before the first frame of every outing; the set-up sheet lists it to tick off.",
        cost="A minute; forgetting it is the commonest stumble.",
    ),
    Craft(
        title="What counts as sharp",
        why=(
            "Every depth, window and chance rests on it: film and small prints forgive what a sensor seen "
            "large does not."
        ),
        when="Once for each set-up, and again when you print larger.",
        cost="A stricter standard shrinks every zone; a lenient one promises what the print does not hold.",
    ),
)
