"""Zones that leave no gap: windows that lie side by side in image space.

With the pupil ``A = f/N`` a window reaches from ``v·A/(A+c)`` to ``v·A/(A−c)`` behind the lens, so each is
``q = (A+c)/(A−c)`` times as far behind it at its near limit as at its far one, and ``n`` of them span ``qⁿ``.

From the film plane they lie side by side in front of the lens: it moves between the settings, and the subject stays.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from dataclasses import dataclass
from functools import partial

import numpy as np

from welotrope.core.errors import OutOfRangeError
from welotrope.core.optics.datum import Datum, distance_at, distance_of_image, extension_at
from welotrope.core.optics.depth import SharpLimits, check_blur, extension_with_limit, sharp_limits
from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.optics.thin_lens import image_of_film_distance
from welotrope.core.units.distance import check_ends
from welotrope.core.units.stops import check_stop

MOST_ZONES, MOST_OVERLAP, MOST_FRAMES = 20, 0.9, 1000


def check_overlap(overlap: float) -> float:
    """Return a share of a window when it lies in 0 to 0.9, else raise OutOfRangeError."""
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
        return float(distance_at(x, self.f, self.datum, self.h))

    def distance_of(self, x_image: float, x: float) -> float:
        """Distance of what is imaged at ``x_image`` with the lens at ``x``, mm; infinite past infinity."""
        return math.inf if x_image <= 0 else float(distance_of_image(x_image, x, self.f, self.datum, self.h))

    def extension_with(self, distance_mm: float, *, far: bool) -> float:
        """Extension in mm whose far (or near) limit falls on a distance, mm."""
        if self.datum is Datum.FILM:
            return extension_with_limit(distance_mm, self.f, self.N, self.c, far=far, h=self.h, beyond=self.beyond)
        A = self.f / check_stop(self.N)
        v = self.f + float(extension_at(distance_mm, self.f, self.datum))
        return v * (A + check_blur(self.c) * (1 if far else -1)) / A - self.f

    def images(self, distances_mm: FloatArray, x: FloatArray) -> FloatArray:
        """Extensions at which distances (mm) are imaged, each with the lens at its own ``x``; shape as given."""
        if self.datum is Datum.PRINCIPAL:
            return np.asarray(extension_at(distances_mm, self.f, self.datum))
        pairs = zip(distances_mm, x, strict=True)
        return np.array([image_of_film_distance(float(mm), float(at), self.f, self.h) for mm, at in pairs])


@dataclass(frozen=True)
class Window:
    """A window: the extension to set and those of its limits, and plane, near and far limit as distances; all mm."""

    focus_x: float
    limits: SharpLimits[float]
    focus_mm: float
    near_mm: float
    far_mm: float


def window_at(lens: LensAt, x: float) -> Window:
    """Return the window of a lens at extension ``x``, mm."""
    limits = lens.limits(x)
    near, far = lens.distance_of(limits.near_x, x), lens.distance_of(limits.far_x, x)
    return Window(x, limits, lens.distance(x), near, far)


def windows_inwards(lens: LensAt, far_mm: float, count: int, overlap: float = 0.0) -> tuple[Window, ...]:
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
    """A stack: its windows, nearest first, and the step of extension between them, mm."""

    frames: tuple[Window, ...]
    step_mm: float


def frame_stack(lens: LensAt, near_mm: float, far_mm: float, overlap: float = 0.2) -> FrameStack:
    """Return the fewest frames, evenly spaced in extension, whose windows cover two distances.

    The first one's near limit is ``near_mm`` and the last one's far limit ``far_mm``; each overlaps the one before by
    at least ``overlap`` of a window. From the film plane the lens draws back as it is focused farther, which takes
    back part of the step: near life size a ring hardly moves the plane at all.

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
    check_overlap(overlap)
    check_ends(near_mm, far_mm)
    first, last = lens.extension_with(near_mm, far=False), lens.extension_with(far_mm, far=True)
    if (last >= first) != lens.beyond:
        return FrameStack((window_at(lens, first),), 0.0)
    fits = partial(_overlaps, lens, first, last, overlap=overlap)
    enough = 2
    while enough < MOST_FRAMES and not fits(enough):
        enough = min(2 * enough, MOST_FRAMES)
    if not fits(enough):
        raise OutOfRangeError(
            "frames", f"over {MOST_FRAMES}", "nobody takes so many",
            "Choose a smaller stop, less depth or less overlap",
        )  # fmt: skip
    count = bisect_left(range(enough + 1), True, lo=2, key=fits)
    xs = np.linspace(first, last, count)
    return FrameStack(tuple(window_at(lens, float(x)) for x in xs), abs(first - last) / (count - 1))


def _overlaps(lens: LensAt, first: float, last: float, count: int, overlap: float) -> bool:
    """Whether every frame of a stack overlaps the one before by enough."""
    xs = np.linspace(first, last, count)
    limits = sharp_limits(xs, lens.f, lens.N, lens.c)
    ends = np.array([lens.distance_of(float(far), float(x)) for far, x in zip(limits.far_x[:-1], xs[:-1], strict=True)])
    shared = limits.near_x[1:] - lens.images(ends, xs[1:])
    return bool(np.all(shared >= overlap * limits.spread[1:] * (1 - 1e-9)))
