"""Every cause of misses to one side: its shapes, its name in JSON, what cures it and how it is checked, in one record.

A new cause is a member of :class:`Cause` and a record here.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from welotrope.core.hand.evidence import Settings, ShownBy
from welotrope.core.optics.elementwise import FloatArray

_NONE = 1e-9


class Cause(StrEnum):
    """What may leave focus off to one side."""

    RANGEFINDER = "rangefinder"
    INFINITY = "infinity mark or adapter"
    SCREEN = "height of the screen"
    SHIFT = "focus shift"
    GUESSING = "guessing"
    LEAN = "lean or movement"
    HABIT = "habit"
    UNKNOWN = "none of these"


@dataclass(frozen=True, kw_only=True, eq=False)
class CauseShape:
    """A shape that a cause may have, how likely beforehand among causes, and by what it can be shown; None for any.

    A cause acts only where it can: an adapter that is off cannot show in a picture of the sensor, and a distance is
    misjudged only where it was judged. An aid of an unknown kind may be touched, unless it is ``only`` these.
    """

    cause: Cause
    share: float
    shape: Callable[[Settings], FloatArray]
    by: frozenset[ShownBy] | None = None
    only: bool = False

    def over(self, settings: Settings) -> FloatArray:
        """Return its error at some settings, mm of extension in a size of its own; 0 where it does not show."""
        found: FloatArray = self.shape(settings) * np.array([self._touches(by) for by in settings.by], dtype=float)
        return found

    def _touches(self, by: ShownBy) -> bool:
        return self.by is None or by in self.by or (by is ShownBy.OTHER and not self.only)


def nearness(settings: Settings) -> FloatArray:
    """Return how much more a step in ``1/s`` moves the image than far away: ``(s/(s − f))²``.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    s = settings.objects
    with np.errstate(invalid="ignore"):
        return np.where(np.isinf(s), 1.0, (s / (s - settings.focal_mm)) ** 2)


def extension(settings: Settings) -> FloatArray:
    """Return the same mm of extension everywhere.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    return np.ones(len(settings.stops))


def aberration(settings: Settings) -> FloatArray:
    """Return mm of extension, none wide open, and as third-order aberration once stopped down, ``1 − (N₀/N)²``.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    return 1 - (settings.widest / settings.stops) ** 2


def by_stop(settings: Settings) -> FloatArray:
    """Return mm of extension, none wide open, and as much again for every stop closed.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    found: FloatArray = 2 * np.log2(settings.stops / settings.widest)
    return found


def relative(settings: Settings) -> FloatArray:
    """Return it in proportion to the distance: a fraction of ``s`` in mm of extension.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    found: FloatArray = nearness(settings) * settings.focal_mm / settings.objects
    return found


def in_the_scene(settings: Settings) -> FloatArray:
    """Return the same mm before the camera, as mm of extension.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    found: FloatArray = nearness(settings) * (settings.focal_mm / settings.objects) ** 2
    return found


def of_the_aid(settings: Settings) -> FloatArray:
    """Return a fraction of what the aid shows, mm of extension.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    return settings.defocus


def of_the_window(settings: Settings) -> FloatArray:
    """Return a fraction of half the window, mm of extension.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    return settings.half_windows


SCALE, RANGEFINDER = frozenset({ShownBy.SCALE}), frozenset({ShownBy.RANGEFINDER})
PICTURES = frozenset({ShownBy.PICTURE, ShownBy.PEAKS})
SCREENS, EDGES = frozenset({ShownBy.SCREEN, ShownBy.LAMP}), frozenset({ShownBy.PEAKS, ShownBy.LAMP})


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


@dataclass(frozen=True, kw_only=True)
class Check:
    """A check: what to do, what it tells, and where the answer is entered (a link and its words, or empty)."""

    do: str
    tells: str
    link: str = ""
    link_words: str = ""


@dataclass(frozen=True, kw_only=True)
class CauseRecord:
    """All that is known of a cause.

    Parameters
    ----------
    cause
        Which.
    json_name
        What it is called in answers of the API and the command line.
    shapes
        The shapes its error may have.
    cure
        What to do about it.
    checks
        What tells, in minutes and without film, whether it is this; none where nothing does.
    """

    cause: Cause
    json_name: str
    shapes: tuple[CauseShape, ...]
    cure: Cure
    checks: tuple[Check, ...]


_RECORDS = (
    CauseRecord(
        cause=Cause.RANGEFINDER,
        json_name="rangefinder",
        shapes=(CauseShape(cause=Cause.RANGEFINDER, share=0.30, shape=nearness, by=RANGEFINDER, only=True),),
        cure=Cure(
            called="the rangefinder is misaligned",
            sign="the same at every distance and f-stop, only with the rangefinder",
            do="Have it adjusted, or focus with another aid.",
            until="when the two pictures meet",
            change="rangefinder",
            caution="Adjusting it is a repairer’s job, unless you know how.",
        ),
        checks=(
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
    ),
    CauseRecord(
        cause=Cause.INFINITY,
        json_name="extension",
        shapes=(
            CauseShape(cause=Cause.INFINITY, share=0.10, shape=extension, by=SCALE),
            CauseShape(cause=Cause.INFINITY, share=0.02, shape=extension, by=SCALE | RANGEFINDER),
        ),
        cure=Cure(
            called="infinity is not at its mark",
            sign="the same ring error at every distance and f-stop",
            do="Check infinity and mark it; the scale is put right for this set-up.",
            until="when set by the scale",
            link="/scale/infinity",
            link_words="Infinity",
            change="infinity",
            caution="Never point a finder or a long lens at the sun.",
        ),
        checks=(
            Check(
                do="Set the ring to its ∞ mark at the widest aperture and view a light over 1 km away, on the sensor’s"
                " picture or a ground glass at the film gate.",
                tells="If it is sharper at another ring position, the mark or the adapter is off.",
                link="/scale/infinity",
                link_words="Check infinity",
            ),
        ),
    ),
    CauseRecord(
        cause=Cause.SCREEN,
        json_name="extension",
        shapes=(CauseShape(cause=Cause.SCREEN, share=0.15, shape=extension, by=SCREENS, only=True),),
        cure=Cure(
            called="the screen or mirror is not aligned with the film plane",
            sign="the same ring error at every distance and f-stop, with what is judged on the screen only",
            do="Check it against the film plane: a ground glass at the film gate, or the live picture.",
            until="when the screen shows it sharp",
            change="screen",
            caution="Shimming a screen or a mirror is a repairer’s job, unless you know how.",
        ),
        checks=(
            Check(
                do="Open the shutter on B, lay a ground glass where the film lies, and focus a line 1 to 2 m away on"
                " the screen.",
                tells="If the ground glass is not sharp then, screen or mirror does not lie where the film does.",
            ),
        ),
    ),
    CauseRecord(
        cause=Cause.SHIFT,
        json_name="focus shift",
        shapes=(
            CauseShape(cause=Cause.SHIFT, share=0.09, shape=aberration),
            CauseShape(cause=Cause.SHIFT, share=0.06, shape=by_stop),
        ),
        cure=Cure(
            called="the lens has focus shift",
            sign="none wide open, more at smaller apertures",
            do="Try each stop and put the correction in, or focus at the taking stop.",
            link="/scale/shift",
            link_words="Focus shift",
            change="shift",
        ),
        checks=(
            Check(
                do="On a tripod, focus a slanted ruler 1 to 2 m away at the widest stop; take it there, at two stops"
                " smaller and at f/8, the ring untouched.",
                tells="If the sharpest line moves from stop to stop, the lens shifts its focus.",
                link="/scale/shift",
                link_words="Focus shift",
            ),
        ),
    ),
    CauseRecord(
        cause=Cause.GUESSING,
        json_name="guessing",
        shapes=(CauseShape(cause=Cause.GUESSING, share=0.12, shape=relative, by=SCALE),),
        cure=Cure(
            called="distances are over- or underestimated by the same percentage",
            sign="larger on the ring at close distances",
            do="Guess and measure a few minutes a day; zones reckon with what is found.",
            link="/practice/guess",
            link_words="Estimate a distance",
            change="technique",
        ),
        checks=(
            Check(
                do="Guess five distances from 1 to 5 m aloud, then tape them.",
                tells="If all are guessed too long or too short by a like share, it is the guess.",
                link="/practice/guess",
                link_words="Estimate a distance",
            ),
        ),
    ),
    CauseRecord(
        cause=Cause.LEAN,
        json_name="lean",
        shapes=(CauseShape(cause=Cause.LEAN, share=0.08, shape=in_the_scene),),
        cure=Cure(
            called="someone moves after focusing",
            sign="the same centimetres at every distance, so it matters most close up",
            do="Lean with the sitter and release as the eye is sharpest, or lean on something; sway against the window"
            " is reckoned.",
            link="/plan/sitter",
            link_words="Sitter",
            change="technique",
        ),
        checks=(
            Check(
                do="Take three frames of a ruler from a tripod and three by hand, 1 to 1.5 m away.",
                tells="If only those by hand miss to one side, somebody moves between focusing and release.",
            ),
        ),
    ),
    CauseRecord(
        cause=Cause.HABIT,
        json_name="habit",
        shapes=(
            CauseShape(cause=Cause.HABIT, share=0.05, shape=of_the_aid, by=EDGES, only=True),
            CauseShape(cause=Cause.HABIT, share=0.01, shape=of_the_window),
        ),
        cure=Cure(
            called="you stop at one edge of what looks sharp",
            sign="always on the side you come from; larger with a coarser aid",
            do="Turn through sharp and back, and stop in the middle; enter a lit band always from the same side.",
            link="/practice",
            link_words="Through focus, in the finder",
            change="technique",
        ),
        checks=(
            Check(
                do="Focus the same line three times coming from infinity and three times from the close end.",
                tells="If the ring stops on two places, you stop on the edge you come from.",
                link="/practice/tape",
                link_words="Tape drill",
            ),
        ),
    ),
    CauseRecord(
        cause=Cause.UNKNOWN,
        json_name="unknown",
        shapes=(CauseShape(cause=Cause.UNKNOWN, share=0.03, shape=extension, by=PICTURES, only=True),),
        cure=Cure(
            called="focus is off to one side for an unknown reason",
            sign="the same in mm of extension, judged in the picture of the sensor itself",
            do="Check that the stop is the same for focusing and for the picture, that nothing moves in between, and"
            " that the lens sits firmly; then take the test.",
            change="other",
        ),
        checks=(),
    ),
)
CAUSES: Mapping[Cause, CauseRecord] = {record.cause: record for record in _RECORDS}
SHAPES = tuple(shape for record in _RECORDS for shape in record.shapes)


def possible(settings: Settings) -> list[tuple[CauseShape, float]]:
    """Return the shapes that could show at some settings, and the factor (a pure number) to make it half a window.

    Two of one cause that come out alike are one.

    Parameters
    ----------
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    found: list[tuple[CauseShape, float]] = []
    seen: list[tuple[Cause, FloatArray]] = []
    window = math.sqrt(float(np.mean(settings.half_windows**2)))
    for each in SHAPES:
        shape = each.over(settings)
        if not np.any(np.abs(shape) > _NONE):
            continue
        factor = window / math.sqrt(float(np.mean(shape[shape != 0] ** 2)))
        if not any(cause is each.cause and np.allclose(shape * factor, known) for cause, known in seen):
            seen.append((each.cause, shape * factor))
            found.append((each, factor))
    return found
