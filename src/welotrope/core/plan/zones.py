"""Zones that leave no gap: windows that lie side by side in image space.

With the pupil ``A = f/N`` a window reaches from ``v·A/(A+c)`` to ``v·A/(A−c)`` behind the lens, so each is
``q = (A+c)/(A−c)`` times as far behind it at its near limit as at its far one, and ``n`` of them span ``qⁿ``.

From the film plane they lie side by side in front of the lens: it moves between the settings, and the subject stays.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Protocol

from welotrope.core.errors import OutOfRangeError
from welotrope.core.halving import where_it_ends
from welotrope.core.optics.depth import SharpLimits, check_blur, extension_imaging_at, sharp_limits, sharp_share
from welotrope.core.optics.thin_lens import Datum, distance_at, distance_of_image, extension_at
from welotrope.core.units.distance import check_ends

MOST_ZONES, MOST_OVERLAP, MOST_FRAMES = 20, 0.9, 1000
_SAME_MM = 1e-12


def check_overlap(overlap: float) -> float:
    """Return a share of a window when it lies in 0 to 0.9, else raise OutOfRangeError.

    Parameters
    ----------
    overlap
        Share of a window by which neighbours overlap, 0 to 0.9.
    """
    if not 0 <= overlap <= MOST_OVERLAP:
        raise OutOfRangeError(
            "overlap", f"{overlap:g}", "that is no share of a window", f"Give 0 to {MOST_OVERLAP:g}, such as 0.2"
        )
    return overlap


@dataclass(frozen=True, kw_only=True)
class LensAt:
    """A lens at a stop, and the plane its distances start from; lengths in mm."""

    f: float
    N: float
    c: float
    datum: Datum = Datum.FILM
    h: float = 0.0
    beyond: bool = False

    def limits(self, x: float) -> SharpLimits[float]:
        """Extensions of the limits at extension ``x``, mm."""
        return sharp_limits(x, self.f, self.N, self.c)

    def distance(self, x: float) -> float:
        """Distance in focus at extension ``x``, mm."""
        return float(distance_at(x, self.f, self.datum, h=self.h))

    def distance_of(self, x_image: float, x: float) -> float:
        """Distance of what is imaged at ``x_image`` with the lens at ``x``, mm; infinite past infinity."""
        return math.inf if x_image <= 0 else float(distance_of_image(x_image, x, self.f, self.datum, h=self.h))

    def extension_with(self, distance_mm: float, *, far: bool) -> float:
        """Extension in mm whose far (or near) limit falls on a distance, mm."""
        share = sharp_share(self.f, self.N, self.c)
        return self.extension_imaging(distance_mm, 1 / (1 + share) if far else 1 / (1 - share))

    def extension_imaging(self, distance_mm: float, q: float) -> float:
        """Extension at which a distance, mm, is imaged at ``q`` times the image distance of the focus."""
        if self.datum is Datum.FILM:
            return extension_imaging_at(distance_mm, q, self.f, h=self.h, beyond=self.beyond)
        return (self.f + float(extension_at(distance_mm, self.f, self.datum))) / q - self.f


@dataclass(frozen=True)
class Window:
    """A window: the extension to set and those of its limits, and plane, near and far limit as distances; all mm."""

    focus_x: float
    limits: SharpLimits[float]
    focus_mm: float
    near_mm: float
    far_mm: float


def window_at(lens: LensAt, x: float) -> Window:
    """Return the window of a lens at extension ``x``, mm.

    Parameters
    ----------
    lens
        The lens at a stop, with its acceptable blur.
    x
        Extension in mm from the infinity position; negative past it.
    """
    limits = lens.limits(x)
    near, far = lens.distance_of(limits.near_x, x), lens.distance_of(limits.far_x, x)
    return Window(x, limits, lens.distance(x), near, far)


def windows_inwards(lens: LensAt, far_mm: float, count: int, *, overlap: float = 0.0) -> tuple[Window, ...]:
    """Return windows side by side, farthest first, the first one's far limit at ``far_mm``.

    Parameters
    ----------
    lens
        At its stop.
    far_mm
        Farthest distance, mm; may be infinite.
    count
        1 to 20 windows.
    overlap
        Share of a window in image space by which each lies over the one before, 0 to 0.9.

    Raises
    ------
    OutOfRangeError
        When count or overlap is out of range.
    TooCloseError
        When no setting lies so near.

    Examples
    --------
    >>> lens = LensAt(f=35, N=8, c=0.03, datum=Datum.PRINCIPAL)
    >>> [round(one.focus_mm, 1) for one in windows_inwards(lens, math.inf, 2)]
    [5139.2, 1720.9]
    """
    if not 1 <= count <= MOST_ZONES:
        raise OutOfRangeError("count", count, "that is no number of zones", f"Give 1 to {MOST_ZONES}")
    check_overlap(overlap)
    found: list[Window] = []
    for _ in range(count):
        one = window_at(lens, lens.extension_with(far_mm, far=True))
        found.append(one)
        far_mm = lens.distance_of(one.limits.near_x - overlap * one.limits.spread, one.focus_x)
    return tuple(found)


def stop_that_spans(near_x: float, far_x: float, f: float, c: float, count: int) -> float:
    """Return the f-number at which ``count`` windows side by side just reach from extension ``far_x`` to ``near_x``.

    Extensions, focal length and blur in mm; ``A = c·(r + 1)/(r − 1)`` with ``rⁿ = v_near/v_far``.

    Parameters
    ----------
    near_x
        Extension in mm of the near limit.
    far_x
        Extension in mm of the far limit.
    f
        Focal length in mm, 1 to 5000.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.
    count
        How many.

    Examples
    --------
    >>> near, far = (35**2 / (s - 35) for s in (1293.6, 1e12))
    >>> round(stop_that_spans(near, far, 35, 0.03, 2), 2)
    8.0
    """
    ratio = float(((f + near_x) / (f + far_x)) ** (1 / count))
    return f * (ratio - 1) / (check_blur(c) * (ratio + 1))


@dataclass(frozen=True)
class FrameStack:
    """A stack: its windows, nearest first, and the mean step of extension between them, mm."""

    frames: tuple[Window, ...]
    step_mm: float


class Stacked(Protocol):
    """A lens whose windows can be laid side by side, before a film that stays or from its principal plane."""

    @property
    def f(self) -> float:
        """Focal length, mm."""

    @property
    def N(self) -> float:  # noqa: N802 - the symbol of an f-number
        """The stop."""

    @property
    def c(self) -> float:
        """Acceptable blur, mm."""

    @property
    def beyond(self) -> bool:
        """Whether it works beyond life size."""

    def distance_of(self, x_image: float, x: float) -> float:
        """Distance of what is imaged at ``x_image`` with the lens at ``x``, mm."""

    def extension_imaging(self, distance_mm: float, q: float) -> float:
        """Extension at which a distance, mm, is imaged at ``q`` times the image distance of the focus."""


def stack_extensions(lens: Stacked, near_mm: float, far_mm: float, overlap: float) -> tuple[float, ...]:
    """Return the fewest extensions, mm, nearest first, whose windows cover two distances; see :func:`frame_stack`.

    Parameters
    ----------
    lens
        The lens that the stack is taken with.
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    overlap
        Share of a window by which neighbours overlap, 0 to 0.9.
    """
    check_overlap(overlap)
    check_ends(near_mm, far_mm)
    share = sharp_share(lens.f, lens.N, lens.c)
    first = lens.extension_imaging(near_mm, 1 / (1 - share))
    last = lens.extension_imaging(far_mm, 1 / (1 + share))
    if (last >= first) != lens.beyond:
        return (first,)
    fewest = len(_laid(lens, first, last, share, overlap))
    # What is left over is shared out: the same number of frames, overlapping by as much more as just reaches the end.
    most = where_it_ends(lambda more: len(_laid(lens, first, last, share, more)) == fewest, overlap, MOST_OVERLAP)
    found = _laid(lens, first, last, share, most)
    return (*found[:-1], last)


def _laid(lens: Stacked, first: float, last: float, share: float, overlap: float) -> list[float]:
    """Return extensions from the first to one at or past the last, each window overlapping the one before."""
    place = (1 - overlap) / (1 - share) + overlap / (1 + share)  # of the window, where the one before ends
    found = [first]
    while (found[-1] > last) != lens.beyond and abs(found[-1] - last) > _SAME_MM:
        if len(found) == MOST_FRAMES:
            raise OutOfRangeError(
                "frames", f"over {MOST_FRAMES}", "nobody takes so many",
                "Choose a smaller stop, less depth or less overlap",
            )  # fmt: skip
        at = found[-1]
        ends = lens.distance_of((lens.f + at) / (1 + share) - lens.f, at)
        found.append(lens.extension_imaging(ends, place))
    return found


def frame_stack(lens: LensAt, near_mm: float, far_mm: float, *, overlap: float = 0.2) -> FrameStack:
    """Return the fewest frames whose windows cover two distances.

    The first one's near limit is ``near_mm`` and the last one's far limit ``far_mm``; each overlaps the one before by
    at least ``overlap`` of a window. From the film plane the lens draws back as it is focused farther, which takes
    back part of the step: near life size a ring hardly moves the plane at all, and steps are the wider.

    Parameters
    ----------
    lens
        At its stop.
    near_mm, far_mm
        Ends to cover, mm; the far one may be infinite.
    overlap
        0 to 0.9.

    Raises
    ------
    OutOfRangeError
        When it takes more than a thousand frames, the ends are the wrong way round, or the overlap is out of range.

    Examples
    --------
    >>> stack = frame_stack(LensAt(f=100, N=8, c=0.02, datum=Datum.PRINCIPAL), 300, 320)
    >>> len(stack.frames), round(stack.frames[0].focus_mm, 2)
    (12, 300.96)
    """
    xs = stack_extensions(lens, near_mm, far_mm, overlap)
    step = abs(xs[0] - xs[-1]) / (len(xs) - 1) if len(xs) > 1 else 0.0
    return FrameStack(tuple(window_at(lens, x) for x in xs), step)
