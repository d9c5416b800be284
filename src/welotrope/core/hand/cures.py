"""What cures each cause, in the photographer's words, and where in the application that is done."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from welotrope.core.hand.causes import Cure
from welotrope.core.hand.diagnosis import FocusPattern

# What may be changed so that focus lands better, by key: its words.
CHANGES = (
    ("screen", "focusing screen"), ("eyepiece", "eyepiece correction"), ("rangefinder", "rangefinder adjusted"),
    ("adapter", "adapter"), ("infinity", "infinity marked again"), ("shift", "focus shift correction entered"),
    ("aid", "another aid"), ("technique", "another technique"), ("other", "something else"),
)  # fmt: skip
# The aids that a change bears on, by key: without any of them it cannot be made.
_CHANGES_AIDS = {"screen": ("matte",), "rangefinder": ("rangefinder",)}
CHANGE_WORDS: Mapping[str, str] = dict(CHANGES)


def changes_of(can_have: Callable[[str], bool], *, has_mount: bool) -> tuple[tuple[str, str], ...]:
    """Return what may be changed on a camera, by key and words: by its aids, and whether lenses go on and off.

    Parameters
    ----------
    can_have
        Tells of the tag of an aid whether the camera can have it.
    has_mount
        Whether lenses go on and off.
    """
    return tuple(
        (key, words)
        for key, words in CHANGES
        if all(can_have(tag) for tag in _CHANGES_AIDS.get(key, ())) and (has_mount or key != "adapter")
    )


VERDICT_CURES: Mapping[FocusPattern, Cure] = {
    FocusPattern.SCATTERED: Cure(
        called="it scatters to both sides", sign="as many in front as behind",
        do="Practise with this aid, take a finer one, or a smaller stop.", link="/practice/tape",
        link_words="Tape drill", change="aid",
    ),
    FocusPattern.WINDOW: Cure(
        called="the window is smaller than this aid can show", sign="even used perfectly it would miss as often",
        do="No practice helps: take a finer aid, or a smaller stop.", link="/aids", link_words="Aids", change="aid",
    ),
}  # fmt: skip
