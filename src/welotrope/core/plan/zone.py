"""A zone from its nearest and farthest subject: where to focus, which stop, what is achieved.

All in image space (extensions): the focus goes to the *mean image distance*, which is the middle on the
ring, and the stop needed is ``N = Δv/(2c)`` (Ray, *Applied Photographic Optics*, ch. 22).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import ConflictError
from welotrope.core.optics.blur import defocus_blur
from welotrope.core.optics.depth import SharpLimits, check_blur, sharp_limits
from welotrope.core.optics.diffraction import airy_diameter, balanced_stop, diffraction_limited_stop, total_blur
from welotrope.core.optics.thin_lens import effective_stop, magnification
from welotrope.core.units.stops import MAX_STOP, MIN_STOP, next_marked_stop, nominal_stop


class ZoneVerdict(StrEnum):
    """Whether the zone can be held within the standard."""

    MET = "met"
    DIFFRACTION = "diffraction"
    NO_STOP = "no stop"


@dataclass(frozen=True)
class ZonePlan:
    """The setting for a zone; extensions and blurs in mm.

    Parameters
    ----------
    focus_x
        Extension to set: the mean of the ends.
    spread
        Extension between nearest and farthest subject, Δv.
    stop_exact
        The stop that just holds both ends, ``Δv/(2c)``.
    stop_marked
        The marked stop to use: the next at or beyond ``stop_exact``, or the smallest there is when none reaches.
    balanced_stop
        The stop that weighs defocus and diffraction alike.
    limits
        What ``stop_marked`` achieves at ``focus_x``.
    edge_blur, airy
        Defocus blur at the worse end of the zone at ``stop_marked``, and the Airy disc there.
    verdict
        Met; met by defocus but diffraction alone exceeds the standard; or no marked stop reaches.
    """

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


def plan_zone(near_x: float, far_x: float, f: float, c: float, marked: Sequence[float]) -> ZonePlan:
    """Plan a zone between two extensions.

    Parameters
    ----------
    near_x, far_x
        Extensions in mm of the nearest and farthest subject; ``near_x > far_x ≥ 0`` (0 is infinity).
    f, c
        Focal length and acceptable blur, mm.
    marked
        The lens's marked stops.

    Raises
    ------
    ConflictError
        When near is not nearer than far.
    """
    if near_x <= far_x:
        raise ConflictError(
            "near and far", "near at or beyond far", "a zone has depth",
            "Give a near distance smaller than the far one",
        )  # fmt: skip
    focus_x = (near_x + far_x) / 2
    spread = near_x - far_x
    exact = spread / (2 * check_blur(c))
    stop = next_marked_stop(exact, marked)
    reached = stop is not None
    chosen = stop if stop is not None else max(marked)
    edge = max(defocus_blur(x, focus_x, f, chosen) for x in (near_x, far_x))
    airy = airy_diameter(effective_stop(chosen, magnification(focus_x, f)))
    verdict = ZoneVerdict.MET if reached else ZoneVerdict.NO_STOP
    if reached and airy > c:
        verdict = ZoneVerdict.DIFFRACTION
    return ZonePlan(
        focus_x, spread, exact, chosen, balanced_stop(spread), sharp_limits(focus_x, f, chosen, c), edge,
        airy, verdict,
    )  # fmt: skip


def clearest_stop(near_x: float, far_x: float, f: float, marked: Sequence[float]) -> tuple[float, float]:
    """Return the marked stop with the least total blur at the zone's worse end, and that blur in mm."""
    focus_x = (near_x + far_x) / 2
    m = magnification(focus_x, f)

    def worst(stop: float) -> float:
        edge = max(defocus_blur(x, focus_x, f, stop) for x in (near_x, far_x))
        return total_blur(edge, airy_diameter(effective_stop(stop, m)))

    best = min(marked, key=worst)
    return best, worst(best)


@dataclass(frozen=True)
class StopOutcome:
    """What one stop achieves at a fixed focus; ``diffraction_limited`` when the Airy disc exceeds the standard."""

    stop: float
    limits: SharpLimits[float]
    diffraction_limited: bool


def neighbouring_stops(focus_x: float, stop: float, f: float, c: float) -> tuple[StopOutcome, ...]:
    """Return what one stop wider, the stop itself and one stop smaller achieve at extension ``focus_x``.

    Neighbours are full steps (×√2) under their engraved names, left out beyond f/0.5 and f/128.
    """
    stops = (nominal_stop(stop / 2**0.5), stop, nominal_stop(stop * 2**0.5))
    return tuple(stop_outcome(focus_x, N, f, c) for N in stops if MIN_STOP <= N <= MAX_STOP and f / N > c)


def stop_outcome(focus_x: float, stop: float, f: float, c: float) -> StopOutcome:
    """Return what ``stop`` achieves at extension ``focus_x``."""
    limit = diffraction_limited_stop(c) / (1 + magnification(focus_x, f))
    return StopOutcome(stop, sharp_limits(focus_x, f, stop, c), stop > limit)
