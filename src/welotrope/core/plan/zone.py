"""A zone from its nearest and farthest subject: where to focus, which stop, what is achieved.

Both ends are blurred alike when the vergence of the image is the mean of the ends', ``1/v = (1/v₁ + 1/v₂)/2``; the
stop that then just holds them is ``N = f·(v₁ − v₂)/(c·(v₁ + v₂))`` (similar triangles behind the lens; Ray, *Applied
Photographic Optics*, ch. 22). On the ring that is the middle of the zone to within ``1 + m``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import ConflictError
from welotrope.core.optics.blur import (
    airy_diameter,
    balanced_stop,
    defocus_blur,
    diffraction_limited_stop,
    total_blur,
)
from welotrope.core.optics.depth import BLUR_TOLERANCE, SharpLimits, check_blur, film_zone_extension, sharp_limits
from welotrope.core.optics.thin_lens import effective_stop, image_of_film_distance, magnification
from welotrope.core.units.distance import check_ends
from welotrope.core.units.exposure import MAX_STOP, MIN_STOP, next_marked_stop, nominal_stop

_ANYWHERE = (-math.inf, math.inf)


class ZoneVerdict(StrEnum):
    """Whether the zone can be held within the standard."""

    MET = "met"
    DIFFRACTION = "diffraction"
    NO_STOP = "no stop"


@dataclass(frozen=True, kw_only=True)
class ZonePlan:
    """The setting for a zone; extensions and blurs in mm.

    Parameters
    ----------
    near_x, far_x
        Extensions at which nearest and farthest subject are imaged.
    focus_x
        Extension to set.
    spread
        Extension between nearest and farthest subject, Δv.
    stop_exact
        The stop that just holds both ends.
    stop_marked
        The marked stop to use: the widest that holds both ends, or the smallest there is when none does.
    balanced_stop
        The marked stop that weighs defocus and diffraction alike.
    limits
        What ``stop_marked`` achieves at ``focus_x``.
    edge_blur, airy
        Defocus blur at the worse end of the zone at ``stop_marked``, and the Airy disc there.
    verdict
        Met; met by defocus but diffraction alone exceeds the standard; or no marked stop reaches.
    """

    near_x: float
    far_x: float
    focus_x: float
    spread: float
    stop_exact: float
    stop_marked: float
    balanced_stop: float
    limits: SharpLimits[float]
    edge_blur: float
    airy: float
    verdict: ZoneVerdict

    @property
    def total_blur(self) -> float:
        """Defocus at the worse end with diffraction, root of squares (an approximation), mm."""
        return total_blur(self.edge_blur, self.airy)


def middle_extension(near_x: float, far_x: float, f: float) -> float:
    """Return the extension at which both ends are blurred alike: ``1/v`` is the mean of ``1/v₁`` and ``1/v₂``.

    Parameters
    ----------
    near_x
        Extension in mm of the near limit.
    far_x
        Extension in mm of the far limit.
    f
        Focal length in mm, 1 to 5000.

    Examples
    --------
    >>> near, far = (100**2 / (s - 100) for s in (300, 310))
    >>> round(100 + 100**2 / middle_extension(near, far, 100), 2)  # mm from the lens
    304.92
    """
    near_v, far_v = f + near_x, f + far_x
    return 2 * near_v * far_v / (near_v + far_v) - f


def plan_zone(
    near_x: float,
    far_x: float,
    f: float,
    c: float,
    marked: Sequence[float],
    *,
    travel: tuple[float, float] = _ANYWHERE,
) -> ZonePlan:
    """Plan a zone between two extensions.

    Parameters
    ----------
    near_x, far_x
        Extensions in mm at which the nearest and farthest subject are imaged; ``near_x > far_x ≥ 0`` (0 is infinity).
    f, c
        Focal length and acceptable blur, mm.
    marked
        The lens's marked stops.
    travel
        Least and greatest extension the ring gives; the focus is kept within.

    Raises
    ------
    ConflictError
        When near is not nearer than far.

    Examples
    --------
    >>> near, far = (100**2 / (s - 100) for s in (300, 310))
    >>> round(plan_zone(near, far, 100, 0.029, [22, 32]).stop_exact, 2)
    27.59
    """
    if near_x <= far_x:
        raise ConflictError(
            "near and far", "near at or beyond far", "a zone has depth",
            "Give a near distance smaller than the far one",
        )  # fmt: skip
    focus_x = min(max(middle_extension(near_x, far_x, f), travel[0]), travel[1])
    spread = near_x - far_x
    exact = _worst_blur(near_x, far_x, focus_x, f, 1.0) / check_blur(c)
    stop = next_marked_stop(exact, marked, tolerance=BLUR_TOLERANCE)
    chosen = max(marked) if stop is None else stop
    m = magnification(max(focus_x, 0.0), f)
    airy = airy_diameter(effective_stop(chosen, m))
    verdict = ZoneVerdict.NO_STOP if stop is None else ZoneVerdict.DIFFRACTION if airy > c else ZoneVerdict.MET
    return ZonePlan(
        near_x=near_x, far_x=far_x, focus_x=focus_x, spread=spread, stop_exact=exact, stop_marked=chosen,
        balanced_stop=balanced_stop(spread, m=m), limits=sharp_limits(focus_x, f, chosen, c),
        edge_blur=_worst_blur(near_x, far_x, focus_x, f, chosen), airy=airy, verdict=verdict,
    )  # fmt: skip


def plan_film_zone(
    near_mm: float,
    far_mm: float,
    f: float,
    c: float,
    marked: Sequence[float],
    *,
    h: float = 0.0,
    beyond: bool = False,
    travel: tuple[float, float] = _ANYWHERE,
) -> ZonePlan:
    """Plan a zone between two distances, mm from the film plane; the far one may be infinite.

    The lens moves as it is focused and the subjects do not: where they are imaged depends on the setting, which is
    solved for. Errors as :func:`plan_zone` and ``optics.thin_lens``.

    Parameters
    ----------
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    f
        Focal length in mm, 1 to 5000.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.
    marked
        F-numbers marked on the lens, widest first.
    h
        Separation of the principal planes in mm; 0 for a thin lens, negative where they cross.
    beyond
        Whether the solution above life size is wanted.
    travel
        Least and greatest extension of the ring in mm.

    Examples
    --------
    >>> plan = plan_film_zone(1200, 1500, 50, 0.03, [5.6, 8, 11])
    >>> round(plan.stop_exact, 3), plan.stop_marked
    (7.826, 8)
    """
    check_ends(near_mm, far_mm)
    focus_x = film_zone_extension(near_mm, far_mm, f, h=h, beyond=beyond)
    stands = min(max(focus_x, travel[0]), travel[1])
    near_x, far_x = (float(image_of_film_distance(mm, stands, f, h=h)) for mm in (near_mm, far_mm))
    return plan_zone(near_x, far_x, f, c, marked, travel=(stands, stands))


def clearest_stop(plan: ZonePlan, f: float, marked: Sequence[float]) -> tuple[float, float]:
    """Return the marked stop with the least total blur at the zone's worse end, and that blur in mm.

    Parameters
    ----------
    plan
        Plan of the zone.
    f
        Focal length in mm, 1 to 5000.
    marked
        F-numbers marked on the lens, widest first.

    Examples
    --------
    >>> plan = plan_film_zone(1200, 1500, 50, 0.03, [5.6, 8, 11, 16])
    >>> clearest_stop(plan, 50, [5.6, 8, 11, 16])[0]
    11
    """
    m = magnification(max(plan.focus_x, 0.0), f)

    def worst(stop: float) -> float:
        edge = _worst_blur(plan.near_x, plan.far_x, plan.focus_x, f, stop)
        return total_blur(edge, airy_diameter(effective_stop(stop, m)))

    best = min(marked, key=worst)
    return best, worst(best)


def _worst_blur(near_x: float, far_x: float, focus_x: float, f: float, stop: float) -> float:
    return max(defocus_blur(x, focus_x, f, stop) for x in (near_x, far_x))


@dataclass(frozen=True)
class StopOutcome:
    """What one stop achieves at a fixed focus; ``diffraction_limited`` when the Airy disc exceeds the standard."""

    stop: float
    limits: SharpLimits[float]
    diffraction_limited: bool


def neighbouring_stops(focus_x: float, stop: float, f: float, c: float) -> tuple[StopOutcome, ...]:
    """Return what one stop wider, the stop itself and one stop smaller achieve at extension ``focus_x``.

    Neighbours are full steps (×√2) under their engraved names, left out beyond f/0.5 and f/128.

    Parameters
    ----------
    focus_x
        Extension in mm of the focus.
    stop
        F-number, 0.5 to 128.
    f
        Focal length in mm, 1 to 5000.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.

    Examples
    --------
    >>> [outcome.stop for outcome in neighbouring_stops(1.0, 8, 50, 0.03)]
    [5.6, 8, 11.0]
    """
    stops = (nominal_stop(stop / 2**0.5), stop, nominal_stop(stop * 2**0.5))
    return tuple(stop_outcome(focus_x, N, f, c) for N in stops if MIN_STOP <= N <= MAX_STOP and f / N > c)


def stop_outcome(focus_x: float, stop: float, f: float, c: float) -> StopOutcome:
    """Return what ``stop`` achieves at extension ``focus_x``.

    Parameters
    ----------
    focus_x
        Extension in mm of the focus.
    stop
        F-number, 0.5 to 128.
    f
        Focal length in mm, 1 to 5000.
    c
        Acceptable blur diameter in mm, 0.0001 to 2.

    Examples
    --------
    >>> outcome = stop_outcome(50.0, 16, 100, 0.03)
    >>> outcome.stop, outcome.diffraction_limited
    (16, True)
    """
    limit = diffraction_limited_stop(c) / (1 + magnification(max(focus_x, 0.0), f))
    return StopOutcome(stop, sharp_limits(focus_x, f, stop, c), stop > limit)
