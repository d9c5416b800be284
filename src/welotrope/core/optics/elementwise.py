"""Let one formula serve floats and NumPy arrays, returning what it was given."""

from __future__ import annotations

from typing import Any, TypeVar, cast

import numpy as np
from numpy.typing import ArrayLike, NDArray

FloatArray = NDArray[np.float64]
AnyArray = NDArray[Any]  # of any kind of number
Values = TypeVar("Values", float, FloatArray)


def as_given(result: ArrayLike, like: Values) -> Values:
    """Return ``result`` as a float when ``like`` is a scalar, else as an array of its shape; same unit.

    Parameters
    ----------
    result
        What was computed, scalar or array.
    like
        What it was computed from.
    """
    if isinstance(like, np.ndarray):
        return cast(Values, np.asarray(result, dtype=np.float64))
    return float(cast(float, result))


def divide(numerator: ArrayLike, denominator: ArrayLike) -> FloatArray:
    """Divide with IEEE rules (x/0 is infinite), without warnings; a ratio, of any shape.

    Parameters
    ----------
    numerator
        What is divided, of any shape.
    denominator
        What it is divided by, of a shape that goes with it.
    """
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        return np.asarray(np.divide(numerator, denominator), dtype=np.float64)
