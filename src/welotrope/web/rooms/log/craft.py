"""The craft behind Log, for its help page."""

from __future__ import annotations

from welotrope.web.shell.room import Craft

CRAFT: tuple[Craft, ...] = (
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
        title="What is sharp instead?",
        why=(
            "Something else being sharp is the evidence: one-sided misses are a fault, scattered ones want "
            "practice or a finer aid."
        ),
        when="Looking at the pictures large.",
        cost="A look before and behind, for every miss.",
    ),
)
