"""Where something stops holding, found by halving."""

from __future__ import annotations

from collections.abc import Callable

_HALVINGS = 80  # more than a double can tell apart


def where_it_ends(holds: Callable[[float], bool], low: float, high: float) -> float:
    """Return the value up to which ``holds`` is true, in the unit of its argument.

    It must hold from ``low`` up to one place and not beyond; without such a place between them an end is returned.

    Parameters
    ----------
    holds
        Tells of a value whether it still holds.
    low
        Least value looked at, in the unit of the argument.
    high
        Greatest value looked at, in the unit of the argument.

    Examples
    --------
    >>> round(where_it_ends(lambda value: value * value < 2, 0, 4), 6)
    1.414214
    """
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        if holds(middle):
            low = middle
        else:
            high = middle
    return low
