"""What an adapter that is too thick or too thin does to infinity.

An adapter error ε (mm, positive too thick) adds to every extension: the true extension is ``x + ε``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.optics.datum import Datum, distance_at
from welotrope.core.optics.thin_lens import check_focal
from welotrope.core.ring.helicoid import check_lead, ring_mm_per_degree

MAX_ERROR_MM = 50.0


@dataclass(frozen=True)
class AdapterEffect:
    """Where infinity lies with an adapter of a certain error.

    Parameters
    ----------
    reaches_infinity
        Whether infinity is in focus anywhere within the travel: ε ≤ 0.
    farthest_mm
        Farthest distance in focus, mm from the datum asked for; infinite when infinity is reached.
    infinity_extension_mm
        Extension at which infinity is in focus, ``−ε``; None when not reached.
    infinity_deg, infinity_mm
        The same from the ring's own infinity stop, in degrees and in mm of ring surface; None when not
        reached or when lead or diameter is not known.
    """

    reaches_infinity: bool
    farthest_mm: float
    infinity_extension_mm: float | None
    infinity_deg: float | None
    infinity_mm: float | None


def adapter_effect(
    focal_mm: float,
    error_mm: float,
    *,
    datum: Datum = Datum.FILM,
    lead_mm: float | None = None,
    diameter_mm: float | None = None,
) -> AdapterEffect:
    """Return where infinity lies for an adapter error ε in mm, at most 50 either way.

    ε > 0: farthest object distance ``f + f²/ε``. ε < 0: infinity lies at extension ``−ε``, that is
    ``−ε·360/L`` degrees before the stop.

    Examples
    --------
    >>> from welotrope.core.optics.datum import Datum
    >>> adapter_effect(50, 0.10, datum=Datum.PRINCIPAL).farthest_mm
    25050.0
    """
    f = check_focal(focal_mm)
    if not abs(error_mm) <= MAX_ERROR_MM:
        raise OutOfRangeError(
            "adapter error", f"{error_mm:g} mm", "no adapter is that far off", "Write −50 to 50 mm, such as 0.1"
        )
    if error_mm > 0:
        return AdapterEffect(
            reaches_infinity=False, farthest_mm=distance_at(error_mm, f, datum), infinity_extension_mm=None,
            infinity_deg=None, infinity_mm=None,
        )  # fmt: skip
    extension = abs(error_mm)
    degrees = None if lead_mm is None else extension * 360 / check_lead(lead_mm)
    known = degrees is not None and diameter_mm is not None
    surface = degrees * ring_mm_per_degree(diameter_mm) if known and degrees is not None and diameter_mm else None
    return AdapterEffect(
        reaches_infinity=True, farthest_mm=math.inf, infinity_extension_mm=extension, infinity_deg=degrees,
        infinity_mm=surface,
    )  # fmt: skip
