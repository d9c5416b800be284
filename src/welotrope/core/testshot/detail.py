"""The detail printed on a sheet: black and white cells, as much of it at every scale from 0.13 to 8 mm.

What is printed must stay measurable for ever, so the cells come from a hash of their place and not from the random
numbers of a library, which may change with its version.
"""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

Cells = NDArray[np.uint8]
CELL_MM = 25.4 / 200  # three dots of a printer with 600 to the inch
OCTAVES = 7


@cache
def detail(number: int, rows: int, columns: int) -> Cells:
    """Return the cells of a patch of detail, 0 for black and 1 for white, shape (rows, columns).

    Each octave holds squares twice as large as the one before, each as light as its hash says; what is lighter than
    the middle of all is white.
    """
    total = np.zeros((rows, columns), dtype=np.int32)
    for octave in range(OCTAVES):
        side = 1 << octave
        light = _hashed(number, octave, -(-rows // side), -(-columns // side))
        total += light.repeat(side, axis=0).repeat(side, axis=1)[:rows, :columns]
    found = (total > 0).astype(np.uint8)
    found.flags.writeable = False
    return found


def _hashed(number: int, octave: int, rows: int, columns: int) -> NDArray[np.int32]:
    """Return a number from -128 to 127 for each square, by the finaliser of the SplitMix64 generator."""
    row, column = np.indices((rows, columns), dtype=np.uint64)
    key = (np.uint64(number * OCTAVES + octave) << np.uint64(40)) + (row << np.uint64(20)) + column
    with np.errstate(over="ignore"):
        key = key * np.uint64(0x9E3779B97F4A7C15)
        key = (key ^ (key >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        key = (key ^ (key >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        key ^= key >> np.uint64(31)
    return (key >> np.uint64(56)).astype(np.int32) - 128
