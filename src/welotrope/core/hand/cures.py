"""What cures each cause, in the photographer's words, and where in the application that is done."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from welotrope.core.hand.causes import Cause
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
    """Return what may be changed on a camera, by key and words: by its aids, and whether lenses go on and off."""
    return tuple(
        (key, words)
        for key, words in CHANGES
        if all(can_have(tag) for tag in _CHANGES_AIDS.get(key, ())) and (has_mount or key != "adapter")
    )


@dataclass(frozen=True, kw_only=True)
class Cure:
    """What to do about a cause.

    Parameters
    ----------
    called
        The cause as a photographer would say it.
    sign
        What shows it.
    do
        What to do.
    link, link_words
        Where that is done here, and what the way there is called; empty where it is done elsewhere.
    until
        When to correct by hand until it is cured: “when the two pictures meet”; empty where that is no help.
    change
        Key under which it is noted once it is done.
    caution
        What to mind.
    """

    called: str
    sign: str
    do: str
    link: str = ""
    link_words: str = ""
    until: str = ""
    change: str = "other"
    caution: str = ""


CURES: Mapping[Cause, Cure] = {
    Cause.RANGEFINDER: Cure(
        called="the rangefinder is misaligned", sign="the same at every distance and f-stop, only with the rangefinder",
        do="Have it adjusted, or focus with another aid.", until="when the two pictures meet",
        change="rangefinder", caution="Adjusting it is a repairer’s job, unless you know how.",
    ),
    Cause.INFINITY: Cure(
        called="infinity is not at its mark", sign="the same ring error at every distance and f-stop",
        do="Check infinity and mark it; the scale is put right for this set-up.", until="when set by the scale",
        link="/scale/infinity",
        link_words="Infinity", change="infinity", caution="Never point a finder or a long lens at the sun.",
    ),
    Cause.SCREEN: Cure(
        called="the screen or mirror is not aligned with the film plane",
        sign="the same ring error at every distance and f-stop, with what is judged on the screen only",
        do="Check it against the film plane: a ground glass at the film gate, or the live picture.",
        until="when the screen shows it sharp",
        change="screen", caution="Shimming a screen or a mirror is a repairer’s job, unless you know how.",
    ),
    Cause.SHIFT: Cure(
        called="the lens has focus shift", sign="none wide open, more at smaller apertures",
        do="Try each stop and put the correction in, or focus at the taking stop.", link="/scale/shift",
        link_words="Focus shift", change="shift",
    ),
    Cause.GUESSING: Cure(
        called="distances are over- or underestimated by the same percentage", sign="larger on the ring at"
        " close distances",
        do="Guess and measure a few minutes a day; zones reckon with what is found.", link="/practice/guess",
        link_words="Estimate a distance", change="technique",
    ),
    Cause.LEAN: Cure(
        called="someone moves after focusing", sign="the same centimetres at every distance, so it matters most"
        " close up",
        do="Lean with the sitter and release as the eye is sharpest, or lean on something; sway against the window is"
        " reckoned.",
        link="/plan/sitter", link_words="Sitter", change="technique",
    ),
    Cause.UNKNOWN: Cure(
        called="focus is off to one side for an unknown reason",
        sign="the same in mm of extension, judged in the picture of the sensor itself",
        do="Check that the stop is the same for focusing and for the picture, that nothing moves in between, and that"
        " the lens sits firmly; then take the test.",
        change="other",
    ),
    Cause.HABIT: Cure(
        called="you stop at one edge of what looks sharp",
        sign="always on the side you come from; larger with a coarser aid",
        do="Turn through sharp and back, and stop in the middle; enter a lit band always from the same side.",
        link="/practice", link_words="Through focus, in the finder", change="technique",
    ),
}  # fmt: skip

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
