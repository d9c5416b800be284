"""How near, how big, how deep: close-up lenses and extension on a main lens.

A close-up lens of ``G`` dioptres, thin, shows the main lens an object at ``w`` as if it stood at ``s``:
``1/w = 1/s + G/1000`` (both from the close-up lens); a tube adds to the extension (Ray, *Applied Photographic Optics*,
ch. 29). What the main lens focuses on runs from its closest focus to infinity.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.optics.thin_lens import check_focal, object_distance_at_extension

MOST_POWER, MOST_EXTENSION_MM = 40.0, 1000.0


@dataclass(frozen=True, kw_only=True)
class CloseSetting:
    """What is in focus at one place of the ring.

    Parameters
    ----------
    extension_mm
        Of the main lens, tubes counted in.
    working_mm
        From the attachment's front, or from the principal plane without a close-up lens; may be infinite.
    magnification
        There.
    main_mm
        What the main lens is focused on, from its principal plane; may be infinite.
    """

    extension_mm: float
    working_mm: float
    magnification: float
    main_mm: float


def close_setting(f: float, extension_mm: float, *, power: float = 0.0, gap_mm: float = 0.0) -> CloseSetting:
    """Return what is in focus behind ``power`` dioptres with the main lens at an extension; lengths in mm.

    ``gap_mm`` lies between the close-up lens and the principal plane, negative where that plane lies before it.

    Parameters
    ----------
    f
        Focal length in mm, 1 to 5000.
    extension_mm
        Extension in mm from the infinity position.
    power
        Power of the close-up lens in dioptres; 0 for none.
    gap_mm
        Distance in mm from the principal plane to the close-up lens; negative where that plane lies before it.

    Raises
    ------
    OutOfRangeError
        When power, gap or extension is out of range.
    ConflictError
        When nothing is in focus there: the main lens would have to look into the attachment.

    Examples
    --------
    >>> one = close_setting(100, 12.7017, power=2)
    >>> round(one.working_mm, 1), round(one.magnification, 4)
    (319.8, 0.3524)
    """
    check_focal(f)
    for name, value, least, most in (
        ("close-up power", power, 0.0, MOST_POWER), ("gap", gap_mm, -MOST_EXTENSION_MM, MOST_EXTENSION_MM),
        ("extension", extension_mm, 0.0, MOST_EXTENSION_MM),
    ):  # fmt: skip
        if not least <= value <= most:
            raise OutOfRangeError(name, f"{value:g}", "out of range", f"Write {least:g} to {most:g}")
    s = float(object_distance_at_extension(extension_mm, f))
    seen = s - gap_mm if power > 0 else s
    if seen <= 0:
        raise ConflictError(
            "gap", f"{gap_mm:g} mm", "the attachment would stand where the lens is focused",
            "Bring it nearer to the lens, or use less extension",
        )  # fmt: skip
    vergence = (0.0 if math.isinf(seen) else 1 / seen) + power / 1000
    working = math.inf if vergence == 0 else 1 / vergence
    if math.isinf(working):
        return CloseSetting(extension_mm=extension_mm, working_mm=working, magnification=0.0, main_mm=s)
    m = f / working if math.isinf(seen) else extension_mm / f * seen / working
    return CloseSetting(extension_mm=extension_mm, working_mm=working, magnification=m, main_mm=s)


@dataclass(frozen=True)
class CloseRange:
    """From the nearest to the farthest setting."""

    near: CloseSetting
    far: CloseSetting


def close_range(
    f: float, most_x: float, *, power: float = 0.0, tube_mm: float = 0.0, gap_mm: float = 0.0, least_x: float = 0.0
) -> CloseRange:
    """Return the working range of a main lens with close-up lenses or tubes.

    Parameters
    ----------
    f
        Focal length, mm.
    most_x, least_x
        Extensions of the ring itself at closest focus and at infinity, mm.
    power, tube_mm, gap_mm
        Dioptres in all, extension in all, mm, and gap between close-up lens and principal plane, mm.

    Raises
    ------
    OutOfRangeError, ConflictError
        As :func:`close_setting`.

    Examples
    --------
    >>> found = close_range(100, 12.7017, power=2)
    >>> round(found.near.working_mm, 1), found.far.working_mm, found.far.magnification
    (319.8, 500.0, 0.2)
    """
    least = max(least_x, 0.0)
    return CloseRange(
        close_setting(f, tube_mm + most_x, power=power, gap_mm=gap_mm),
        close_setting(f, tube_mm + least, power=power, gap_mm=gap_mm),
    )
