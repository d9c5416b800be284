"""Amounts of turning as they are read: degrees of a ring, steps or per cent of a bar on a screen, mm of a bed."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class TurnUnit:
    """A unit in which the place of focus is set.

    Parameters
    ----------
    deg
        Degrees of the ring, as it is reckoned with, that one of it stands for.
    one, many
        What stands behind 1, and behind any other number: `` step``, `` steps``.
    words
        One of it in a sentence: ``One step of the indicator``.
    fine
        Whether small amounts are told to a hundredth.
    """

    deg: float
    one: str
    many: str
    words: str
    fine: bool = False


def steps_of(deg: float) -> TurnUnit:
    """Return the steps of a scale, so many degrees each.

    Parameters
    ----------
    deg
        Degrees of one step.
    """
    return TurnUnit(deg=deg, one=" step", many=" steps", words="One step of the indicator")


def percent_of(throw_deg: float) -> TurnUnit:
    """Return per cent of a bar that stands for so many degrees.

    Parameters
    ----------
    throw_deg
        Whole turn of the ring in degrees, 5 to 1080.
    """
    return TurnUnit(deg=throw_deg / 100, one=" %", many=" %", words="1 % of the bar")


def rail_of(deg_per_mm: float) -> TurnUnit:
    """Return millimetres that the lens moves on its bed, so many degrees each.

    Parameters
    ----------
    deg_per_mm
        Degrees of ring for one mm on the rail.
    """
    return TurnUnit(deg=deg_per_mm, one=" mm", many=" mm", words="1 mm on the bed", fine=True)


def turn_text(degrees: float, unit: TurnUnit | None) -> str:
    """Write an amount of turning, given in degrees, in its unit; in degrees without one.

    Parameters
    ----------
    degrees
        Amount of turning in degrees.
    unit
        Unit that turning is read in, or None for degrees.

    Examples
    --------
    >>> turn_text(12.34, None), turn_text(18, steps_of(9.0)), turn_text(9, steps_of(9.0)), turn_text(1.2, rail_of(4.0))
    ('12°', '2.0 steps', '1.0 step', '0.30 mm')
    """
    if unit is None:
        return f"{degrees:.1f}°" if degrees < 9.95 else f"{degrees:.0f}°"
    count = degrees / unit.deg
    if unit.fine and count < 0.95:
        return f"{count:.2f}{unit.many}"
    text = f"{count:.1f}"
    text = text.removesuffix(".0") if count > 9.95 else text
    return f"{text}{unit.one if text == '1.0' else unit.many}"
