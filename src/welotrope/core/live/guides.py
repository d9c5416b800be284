"""Guided ways to use the live picture, step by step, and the words in which a frame is told."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.fields import GUIDE, STEP_BLUR
from welotrope.core.live.outline import Outlined
from welotrope.core.live.passing import State
from welotrope.core.live.sweep import Change, LiveReading

DETAIL, STARS = "detail", "stars"
# A frame has surely drifted once defocus, at the least, is half of what the standard allows on its side.
DRIFTED_SHARE = 2**-0.25
MOST_STEPS_OF_STACK = 60
STATE_WORDS = {
    State.SEARCHING: "Turn the ring slowly through focus",
    State.RISING: "Getting sharper: keep turning",
    State.PAST: "Past the best: turn back",
    State.AT_BEST: "At the best: stop here",
    State.RESTARTED: "Started again: turn through focus once more",
}
CHANGE_WORDS = {
    Change.NONE: "",
    Change.LIGHT: "The light changed.",
    Change.MOVED: "The subject in the spot changed.",
    Change.BUMPED: "The camera or the subject moved.",
    Change.SIZE: "The picture changed its size.",
    Change.BLACK: "The spot is black. Open the aperture, take the cap off, or move the spot.",
    Change.WHITE: "The spot is overexposed. Darken the picture or move the spot.",
    Change.STILL: "The same picture comes again and again. Is the camera sending a still or a test card?",
    Change.PLAIN: "There is too little detail in the spot. Move it to an edge, a texture or a star.",
}
_LEAST_JUDGED_PX = 4.0  # a blur that edges tell


@dataclass(frozen=True, kw_only=True)
class GuideStep:
    """A step.

    Parameters
    ----------
    says
        What to do.
    until
        The states of a frame that end it; without any it ends when one says so.
    below
        The share of the best sharpness that a frame must have fallen to for it to end, and surely below the best; 0 for
        none.
    watches
        Whether it goes on for good, and warns when focus drifts.
    fresh
        Whether a sweep begins with it: other detail is looked at from here on.
    """

    says: str
    until: frozenset[State] = frozenset()
    below: float = 0.0
    watches: bool = False
    fresh: bool = False

    @property
    def by_hand(self) -> bool:
        """Whether it ends when one says so."""
        return not self.until and not self.below and not self.watches


@dataclass(frozen=True, kw_only=True)
class Guide:
    """A guided use: its key, name, what is measured in the spot, and its steps; the last one is where it ends."""

    key: str
    label: str
    measures: str = DETAIL
    steps: tuple[GuideStep, ...]


_PAST, _AT_BEST = frozenset({State.PAST}), frozenset({State.AT_BEST})
FREE = Guide(key="free", label="Measure freely", steps=(GuideStep(says="Turn the ring and watch the needle."),))
PLANE = Guide(
    key="plane", label="Place the plane",
    steps=(
        GuideStep(says="Put the spot on the subject. Turn slowly through focus until it says past.", until=_PAST),
        GuideStep(says="Magnify the camera’s view, if it can, and put the spot on the detail again. Then press Next.",
                  fresh=True),
        GuideStep(says="Turn slowly through focus once more, until it says past.", until=_PAST),
        GuideStep(says="Turn back slowly until it says at the best.", until=_AT_BEST),
        GuideStep(says="Check it: turn a little past, and return to the best.", until=_PAST),
        GuideStep(says="Return to the best.", until=_AT_BEST),
        GuideStep(says="Placed. The plane is at the best this picture can show."),
    ),
)  # fmt: skip
LIMITS = Guide(
    key="limits", label="Check near and far",
    steps=(
        GuideStep(says="Set the focus. Then put the spot on the nearest part that must be sharp, and press Next."),
        GuideStep(says="Read whether the near part is sharp. Put the spot on the farthest. Press Next.", fresh=True),
        GuideStep(says="Read whether the far part is sharp. If not, stop down or move the plane.", fresh=True),
    ),
)  # fmt: skip
STAR = Guide(
    key="stars", label="Stars", measures=STARS,
    steps=(
        GuideStep(says="Put the spot on one bright star. Turn through focus until it says past.", until=_PAST),
        GuideStep(says="Turn back until it says at the best.", until=_AT_BEST),
        GuideStep(says="The star is as small as it gets. Tape the ring, and look again after half an hour."),
    ),
)  # fmt: skip
DRIFT = Guide(
    key="drift", label="Watch for drift",
    steps=(
        GuideStep(says="Turn through focus once, until it says past.", until=_PAST),
        GuideStep(says="Turn back until it says at the best.", until=_AT_BEST),
        GuideStep(says="Hands off. A warning comes when focus has drifted, as a lens cools.", watches=True),
    ),
)  # fmt: skip
GUIDES = (FREE, PLANE, LIMITS, STAR, DRIFT)


def stack_guide(frames: int, step_px: float, sharp_px: float) -> Guide:
    """Return the guide through a focus stack by the ring.

    Parameters
    ----------
    frames
        How many pictures, 2 to 60.
    step_px
        Diameter of the blur, pixels, that one step of the ring makes of what was sharp before.
    sharp_px
        Diameter that the standard allows, pixels.

    Raises
    ------
    OutOfRangeError
        When there are too few or too many, or the step is too fine to be seen or too coarse to be measured.
    """
    if not 2 <= frames <= MOST_STEPS_OF_STACK:
        raise OutOfRangeError(GUIDE, frames, "a stack has 2 pictures at least", f"Write 2 to {MOST_STEPS_OF_STACK}")
    if not 0.3 * sharp_px <= step_px <= 3 * sharp_px:
        raise OutOfRangeError(
            STEP_BLUR, f"{step_px:.1f} px", "a step cannot be told by the blur it makes",
            "Take one of a third to three times the blur allowed",
        )  # fmt: skip
    share = 2.0 ** -((step_px / sharp_px) ** 2)
    begun = GuideStep(says="Put the spot on the nearest detail. Turn through focus until it says past.", until=_PAST)
    steps = [begun, GuideStep(says="Turn back until it says at the best. That is picture 1.", until=_AT_BEST)]
    for number in range(2, frames + 1):
        turn = f"Take picture {number - 1}. Then turn farther until the needle falls to the mark, for picture {number}."
        steps.append(GuideStep(says=turn, below=share))
        if number < frames:
            again = f"At picture {number}. Put the spot on what is sharp now, and press Next."
            steps.append(GuideStep(says=again, fresh=True))
    steps.append(GuideStep(says=f"Take picture {frames}. The stack is complete."))
    return Guide(key="stack", label="Focus stack", steps=tuple(steps))


def guide_called(key: str) -> Guide:
    """Return a guide by its key.

    Parameters
    ----------
    key
        Key of what is looked for.

    Raises
    ------
    UnreadableError
        When there is none.
    """
    for guide in GUIDES:
        if guide.key == key:
            return guide
    known = ", ".join(guide.key for guide in GUIDES)
    raise UnreadableError(GUIDE, key, "there is none of that name", f"Choose from {known}")


def next_step(guide: Guide, step: int, reading: LiveReading) -> int:
    """Return the step that a frame leads to, from 0; the same one where it does not lead on.

    Parameters
    ----------
    guide
        The guide.
    step
        Number of the step, counted from 0.
    reading
        What was measured in the frame.
    """
    here = guide.steps[step]
    ended = reading.state in here.until or (
        here.below > 0 and reading.best_frame is not None and _fell_to(reading, here)
    )
    return min(step + 1, len(guide.steps) - 1) if ended else step


def has_drifted(reading: LiveReading) -> bool:
    """Whether focus has surely left the best by half of what the standard allows.

    Parameters
    ----------
    reading
        What was measured in the frame.
    """
    return reading.best_frame is not None and not reading.change and reading.high < DRIFTED_SHARE


def _fell_to(reading: LiveReading, step: GuideStep) -> bool:
    return not reading.change and reading.share <= step.below and reading.high < 1


def headline(reading: LiveReading) -> str:
    """Return what a frame means for the hand on the ring.

    Parameters
    ----------
    reading
        What was measured in the frame.
    """
    return STATE_WORDS[reading.state]


def reason(reading: LiveReading) -> str:
    """Return what changed or hinders, as a sentence; empty where nothing does.

    Parameters
    ----------
    reading
        What was measured in the frame.
    """
    return CHANGE_WORDS[reading.change]


def found(reading: LiveReading) -> str:
    """Return how sharp a frame is beside the best, with the interval; empty before that can be told.

    Parameters
    ----------
    reading
        What was measured in the frame.
    """
    if reading.best_frame is None or reading.change:
        return ""
    low, high = (round(100 * one) for one in (reading.low, reading.high))
    return f"{round(100 * reading.share)} % of the best sharpness, between {low} and {high} %"


def sharp_or_not(outlined: Outlined, limit_px: float) -> str:
    """Return whether a place is sharp by the largest blur allowed, the diameter of a disc in pixels, as a sentence.

    Parameters
    ----------
    outlined
        What of the live picture is sharp.
    limit_px
        Blur that the standard allows, a standard deviation in pixels of the live picture.
    """
    if math.isnan(outlined.blur_px):
        return "Nothing here can be judged: there is no clear edge. Move the spot."
    if limit_px < _LEAST_JUDGED_PX:
        return "This picture is too coarse to judge it by the standard. Magnify the camera’s own view."
    share = outlined.blur_px / limit_px
    if share <= 1:
        return f"Sharp by the standard: defocus is about {round(100 * share, -1)} % of what it allows."
    return f"Not sharp by the standard: defocus is about {share:.1f} times what it allows."
