"""What film does that a sensor does not: it fixes the ISO, may be pushed, and loses speed in long exposures."""

from __future__ import annotations

from welotrope.core.errors import OutOfRangeError

LEAST_EXPONENT, MOST_EXPONENT = 1.0, 2.0


def check_exponent(exponent: float) -> float:
    """Return a reciprocity exponent when it lies in 1 to 2, else raise OutOfRangeError."""
    if not LEAST_EXPONENT <= exponent <= MOST_EXPONENT:
        raise OutOfRangeError(
            "reciprocity exponent", f"{exponent:g}", "no film sheet gives that",
            "Write the exponent of the film’s data sheet, 1 to 2, or leave it empty",
        )  # fmt: skip
    return exponent


def long_exposure(metered_s: float, exponent: float) -> float:
    """Return the time film needs, s: ``t^p`` beyond one second, with ``p`` from the film's data sheet.

    Examples
    --------
    >>> round(long_exposure(10, 1.3), 2), long_exposure(0.5, 1.3)
    (19.95, 0.5)
    """
    return metered_s if metered_s <= 1 else float(metered_s ** check_exponent(exponent))


def metered_for(exposed_s: float, exponent: float) -> float:
    """Return the metered time, s, that makes film need ``exposed_s``: the way back of :func:`long_exposure`.

    Examples
    --------
    >>> round(metered_for(long_exposure(10, 1.3), 1.3), 9)
    10.0
    """
    return exposed_s if exposed_s <= 1 else float(exposed_s ** (1 / check_exponent(exponent)))
