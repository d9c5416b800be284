"""The best of a pass from made-up blurs: its interval covers, also where what frames are compared with was renewed."""

import math

import numpy as np

from welotrope.core.live.passing import best_of

PASSES, FRAMES, ERROR, STEP = 400, 31, 0.05, 0.25


def made(random, *, renewed):
    """Blurs of a pass about a vertex, in steps wherever what they are compared with was renewed, and their errors."""
    places, vertex = np.arange(FRAMES, dtype=float), random.uniform(13, 18)
    blurs = ((places - vertex) / 6) ** 2 + random.normal(0, ERROR, FRAMES)
    aparts = np.zeros(FRAMES)
    for after in renewed:
        blurs[after:] += random.normal(0, STEP)
        aparts[:after] = np.hypot(aparts[:after], STEP)
    return vertex, places, blurs, np.full(FRAMES, ERROR), aparts


def covered(renewed):
    """The share of passes whose interval holds the vertex, and the middle of its width."""
    random, held, widths = np.random.default_rng(4), 0, []
    for _ in range(PASSES):
        vertex, places, blurs, errors, aparts = made(random, renewed=renewed)
        best = best_of(places, blurs, errors, aparts, sharp=1.0)
        held += best.low <= vertex <= best.high
        widths.append(best.high - best.low)
    return held / PASSES, float(np.median(widths))


def test_the_interval_of_the_best_covers_with_and_without_renewals():
    scatter = 3 * math.sqrt(0.95 * 0.05 / PASSES)
    still, narrow = covered(())
    renewed, wide = covered((10, 15, 19))
    assert still > 0.95 - scatter
    assert renewed > 0.95 - scatter
    assert narrow < wide < 6
