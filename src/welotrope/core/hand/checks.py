"""Checks of a cause that take minutes and no film: what to look at, and what it tells."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from welotrope.core.hand.causes import Cause


@dataclass(frozen=True, kw_only=True)
class Check:
    """A check: what to do, what it tells, and where the answer is entered (a link and its words, or empty)."""

    do: str
    tells: str
    link: str = ""
    link_words: str = ""


CHECKS: Mapping[Cause, tuple[Check, ...]] = {
    Cause.RANGEFINDER: (
        Check(
            do="Turn the ring to its infinity stop and look at something over 1 km away: a mast, the moon, a star.",
            tells="If the two pictures do not meet, the rangefinder is misaligned at infinity.",
        ),
        Check(
            do="Tape 2 m from the film plane mark to a vertical line and make the two pictures meet.",
            tells="If the scale does not read 2 m, enter what it reads as “Rangefinder: at 2 m it coincides on”.",
            link="/kit",
            link_words="The body’s page",
        ),
    ),
    Cause.INFINITY: (
        Check(
            do="Set the ring to its ∞ mark at the widest aperture and view a light over 1 km away, on the sensor’s"
            " picture or a ground glass at the film gate.",
            tells="If it is sharper at another ring position, the mark or the adapter is off.",
            link="/scale/infinity",
            link_words="Check infinity",
        ),
    ),
    Cause.SCREEN: (
        Check(
            do="Open the shutter on B, lay a ground glass where the film lies, and focus a line 1 to 2 m away on the"
            " screen.",
            tells="If the ground glass is not sharp then, screen or mirror does not lie where the film does.",
        ),
    ),
    Cause.SHIFT: (
        Check(
            do="On a tripod, focus a slanted ruler 1 to 2 m away at the widest stop; take it there, at two stops"
            " smaller and at f/8, the ring untouched.",
            tells="If the sharpest line moves from stop to stop, the lens shifts its focus.",
            link="/scale/shift",
            link_words="Focus shift",
        ),
    ),
    Cause.GUESSING: (
        Check(
            do="Guess five distances from 1 to 5 m aloud, then tape them.",
            tells="If all are guessed too long or too short by a like share, it is the guess.",
            link="/practice/guess",
            link_words="Estimate a distance",
        ),
    ),
    Cause.LEAN: (
        Check(
            do="Take three frames of a ruler from a tripod and three by hand, 1 to 1.5 m away.",
            tells="If only those by hand miss to one side, somebody moves between focusing and release.",
        ),
    ),
    Cause.HABIT: (
        Check(
            do="Focus the same line three times coming from infinity and three times from the close end.",
            tells="If the ring stops on two places, you stop on the edge you come from.",
            link="/practice/tape",
            link_words="Tape drill",
        ),
    ),
    Cause.UNKNOWN: (),
}
