"""Made-up frames with one lens, of whose errors the cause is known."""

import math

import numpy as np

from welotrope.core.hand.diagnosis import diagnose
from welotrope.core.hand.evidence import FocusSample, settings_of
from welotrope.core.hand.skill_trial import MissSide
from welotrope.core.kit.aids.registry import shown_by

F, BLUR, STOPS = 50.0, 0.03, (1.4, 2, 2.8, 4, 5.6)
# What an aid shows, mm of extension, at a stop.
SHOWS = {"magnified": 0.012, "split_image": 0.024, "matte": 0.045, "rangefinder": 0.022, "scale": 0.06, "peaking": 0.1}
SHAPES = {
    "none": lambda stop, s, aid: 0.0,
    "extension": lambda stop, s, aid: 1.0,
    "rangefinder": lambda stop, s, aid: (s / (s - F)) ** 2 if aid == "rangefinder" else 0.0,
    "shift": lambda stop, s, aid: 1.6 * (1 - (1.4 / stop) ** 2),
    "guessing": lambda stop, s, aid: 1800 / s if aid == "scale" else 0.0,
    "window": lambda stop, s, aid: stop / 2.4,
}


def shots(cause, aids, rng, count=30, size=2.0, scatter=1.0, by_side=False):
    """``size`` in half windows at f/2.4, ``scatter`` in what the aid shows."""
    found = []
    for _ in range(count):
        aid, stop = str(rng.choice(aids)), float(rng.choice(STOPS))
        s = float(np.exp(rng.uniform(math.log(700), math.log(6000))))
        half, shown = stop * BLUR, SHOWS[aid]
        error = size * 2.4 * BLUR * SHAPES[cause](stop, s, aid) + float(rng.normal(0, scatter * shown))
        side = MissSide.FRONT if error < -half else MissSide.BEHIND if error > half else MissSide.HIT
        found.append(
            FocusSample(aid=aid, by=shown_by(aid), stop=stop, object_mm=s, half_mm=half, defocus_mm=shown, side=side,
                 error_mm=None if by_side else error)
        )  # fmt: skip
    return found


def told(made):
    settings = settings_of(made, F)
    return diagnose(settings, sum(shot.side is MissSide.HIT for shot in made)), settings
