"""The best of a pass from made-up blurs: its interval covers, also where what frames are compared with was renewed."""

import math

import numpy as np

from welotrope.core.live.passing import Looked, Passes, State, best_of

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


def test_one_estimate_of_softness_that_is_fooled_makes_no_best():
    """Far out of focus a block's edge passes for detail: its frame seems all but sharp, and the next rise by a little."""
    passes = Passes(1.0)
    falling = [30.0 - number for number in range(12)]
    for number, blur in enumerate(falling):
        passes.add(Looked(number=number, place=float(number), blur=blur, error=0.1), softness=blur)
    for number in range(12, 18):
        rise = 0.3 + 0.1 * (number - 12)
        frame = Looked(number=number, place=float(number), blur=falling[-1] + rise, error=0.1)
        passes.add(frame, softness=0.5)
        assert passes.state is not State.PAST


def test_a_rise_near_the_best_is_past_within_a_few_frames():
    """The same rise where the frames before had told that little blur is left."""
    passes = Passes(1.0)
    for number in range(12):
        blur = 0.03 * (11 - number) ** 2
        passes.add(Looked(number=number, place=float(number), blur=blur - 30, error=0.05), softness=blur)
    for number in range(12, 18):
        blur = 0.03 * (number - 11) ** 2 - 30
        passes.add(Looked(number=number, place=float(number), blur=blur, error=0.05), softness=0.0)
    assert passes.state is State.PAST
    assert passes.best_frame == 11


def told(blocks):
    """What is said of a sharpest frame six frames ago, whose compression shows so far in each frame."""
    passes = Passes(1.0)
    for number in range(18):
        blur = 0.03 * (number - 11) ** 2
        frame = Looked(number=number, place=float(number), blur=blur, error=0.05, blocks=blocks(number))
        passes.add(frame, softness=blur)
    return passes.state


def test_no_best_is_past_while_blocks_of_compression_show_ever_less():
    """Far out of focus the steps between blocks pass for detail; what drowns them is the subject's own, still growing."""
    assert told(lambda number: 4 - number / 10) is not State.PAST
    assert told(lambda number: 2 + abs(number - 11) / 10) is State.PAST
    assert told(lambda number: 1 - number / 100) is State.PAST  # too faint to pass for anything
