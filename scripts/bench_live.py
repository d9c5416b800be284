"""Live sweeps: how often the best is found and said in time, and what a frame costs."""

from __future__ import annotations

import resource
import statistics
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from tests.core.live.sweeps import SweepSettings, drawn, frames_of

from welotrope.core.live.gauges import DetailGauge
from welotrope.core.live.passing import State
from welotrope.core.live.sweep import Sweep

SWEEPS = 500
_FIRST_SEED = 80_000  # those before chose the margins
_RATE = 15  # frames a second
_HALF_HOUR = 30 * 60 * _RATE


def accuracy(row: Callable[..., None], floor: Callable[..., None], sweeps: int = SWEEPS) -> None:
    """Print how many simulated sweeps keep what is asked of them."""
    with ProcessPoolExecutor() as pool:
        found = list(pool.map(_judged, range(_FIRST_SEED, _FIRST_SEED + sweeps), chunksize=4))
    said = [one for one in found if one is not None]

    def share(name: str) -> float:
        return 100 * sum(one[name] for one in said) / max(len(said), 1)

    floor(f"Live: sweeps of {sweeps} in which a best was said", 100 * len(said) / sweeps, "%", 95)
    floor("Live: the frame called best within a quarter of the window", share("near"), "%", 95)
    floor("Live: past said within two frames or a third of the window", 100 - share("late"), "%", 95)
    row("Live: past said before the best", share("early"), "%", 1)
    floor("Live: the place of the best within its interval of 95 %", share("held"), "%", 93)
    clear = [one for one in said if one["contrast"] > 0.15]
    in_time = 100 - 100 * sum(one["late"] for one in clear) / max(len(clear), 1)
    floor("Live: the same where contrast is above 0.15", in_time, "%", 95)
    row("Live: blur left at the best, in 9 of 10", float(np.quantile([one["left"] for one in said], 0.9)), "px", 1.1)


def _judged(seed: int) -> dict[str, float] | None:
    """Follow a sweep until it says past; None where it never does."""
    settings = drawn(seed)
    sweep, places = Sweep(DetailGauge(), sharp_px=settings.sharp_px), []
    frames = list(frames_of(settings))
    ring = [place for place, _ in frames]
    for number, (place, grey) in enumerate(frames):
        places.append(place)
        one = sweep.add(grey)
        if one.state is not State.PAST or one.best_frame is None:
            continue
        passed = int(np.argmax(np.array(ring) > 0))
        # A turn so fast that no frame lies within a quarter of the window can only be told to the nearest.
        nearest = max(0.5, max(abs(ring[passed] - ring[passed - 1]) / 2, 0) if passed else 0.5)
        low, high = np.interp([one.best_low or 0, one.best_high or 0], range(len(ring)), ring)
        return {
            "early": float(place < 0), "late": float(number - passed > 2 and place > 2 / 3),
            "near": float(abs(ring[one.best_frame]) <= nearest), "held": float(low <= 0 <= high),
            "left": abs(ring[one.best_frame]) * settings.sharp_px, "contrast": settings.contrast,
        }  # fmt: skip
    return None


def speed(row: Callable[..., None]) -> None:
    """Print what a frame of 512 × 512 pixels costs, and whether half an hour of them needs more and more memory."""
    settings = SweepSettings(frames=45)
    frames = [grey for _, grey in frames_of(settings)]
    sweep, times = Sweep(DetailGauge(), sharp_px=settings.sharp_px), []
    for grey in [*frames, *frames[::-1], *frames]:
        start = time.perf_counter()
        sweep.add(grey)
        times.append(1000 * (time.perf_counter() - start))
    row("Live: one frame of 512 × 512 pixels", statistics.median(times), "ms", 8)
    row(f"Live: share of a core at {_RATE} frames a second", 100 * _RATE * sum(times) / len(times) / 1000, "%", 60)
    small = [np.ascontiguousarray(grey[:128, :128]) for grey in frames]
    sweep = Sweep(DetailGauge(), sharp_px=settings.sharp_px)
    for number in range(_HALF_HOUR // 10):
        sweep.add(small[number % len(small)])
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    for number in range(_HALF_HOUR):
        sweep.add(small[number % len(small)])
    grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    row("Live: memory grown over half an hour of frames", grown, "MB", 2)
