"""A sweep against simulated frames whose best is known: where it is, when it is said, and what is not said."""

import itertools
from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.core.live.sweeps import SweepSettings, frames_of
from welotrope.core.errors import OutOfRangeError
from welotrope.core.live.gauges import DetailGauge
from welotrope.core.live.passing import State
from welotrope.core.live.spot import blocks_in
from welotrope.core.live.sweep import Change, Sweep

SMALL = SweepSettings(side=256, frames=44, peak=0.5)
CASES = {
    "usual": SMALL,
    "noisy": replace(SMALL, noise=10, contrast=0.8, seed=2),
    "flat light": replace(SMALL, contrast=0.15, noise=2, seed=3),
    "fast": replace(SMALL, per_window=4, seed=4),
    "slow": replace(SMALL, per_window=22, peak=0.45, seed=5),
    "shaken": replace(SMALL, shake_px=2, breathing=0.002, subject=3, seed=6),
    "flickering": replace(SMALL, flicker=0.1, seed=7),
    "coarse": replace(SMALL, sharp_px=8, subject=5, seed=8),
}


def swept(settings, *, back=False):
    """Return the places and the readings of a sweep, and of the way back."""
    sweep = Sweep(DetailGauge(), sharp_px=settings.sharp_px)
    frames = list(frames_of(settings))
    if back:
        random = np.random.default_rng(9)
        frames += [(place, _grained(grey, random)) for place, grey in reversed(frames[:-1])]
    return [place for place, _ in frames], [sweep.add(grey) for _, grey in frames]


def _grained(grey, random):
    """The same view once more, with other noise."""
    return np.clip(grey + np.rint(random.normal(0, 1, grey.shape)), 0, 255).astype(np.uint8)


def first(readings, state):
    return next(index for index, one in enumerate(readings) if one.state is state)


@pytest.mark.parametrize("name", CASES)
def test_the_best_is_found_and_said_soon_after(name):
    places, readings = swept(CASES[name])
    said = first(readings, State.PAST)
    best = readings[said]
    spacing = max(np.diff(places))
    assert abs(places[best.best_frame]) <= max(0.5, spacing / 2)
    assert places[said] > 0
    assert places[said] <= max(0.8, 4 * spacing)
    at = np.interp([best.best_low, best.best_high], range(len(places)), places)
    assert at[0] - spacing <= 0 <= at[1] + spacing


def test_on_the_way_back_it_says_where_to_stop_and_when_that_is_passed():
    places, readings = swept(CASES["usual"], back=True)
    turned = len(places) // 2 + 1
    assert all(one.state is not State.AT_BEST for one in readings[: first(readings, State.PAST)])
    stop = next(index for index in range(turned, len(places)) if readings[index].state is State.AT_BEST)
    assert abs(places[stop]) <= 0.75
    assert any(one.state is State.RISING for one in readings[turned:stop])
    assert readings[-1].state is State.PAST
    assert readings[-1].share < 0.2


def test_half_the_best_is_a_blur_as_large_as_the_standard_allows():
    places, readings = swept(replace(SMALL, noise=1, quality=95, contrast=0.8, own_px=0.6))
    after = first(readings, State.PAST)
    shares = [readings[index].share for index in range(after, len(places))]
    edge = float(np.interp(1.0, places[after:], shares)) if places[after] < 1 else shares[0]
    assert 0.35 < edge < 0.65
    assert all(a >= b - 0.15 for a, b in itertools.pairwise(shares))


def test_the_interval_of_the_share_holds_what_the_ring_says():
    held = []
    for seed in range(4):
        places, readings = swept(replace(SMALL, noise=6, seed=20 + seed, subject=seed))
        for place, one in zip(places, readings, strict=True):
            if one.best_frame is not None and abs(place) < 1.2 and readings[-1].best_frame is not None:
                truth = 2 ** -(place**2) / 2 ** -(min(abs(p) for p in places[: one.frame + 1]) ** 2)
                held.append(one.low - 0.1 <= truth <= one.high + 0.1)
    assert len(held) > 40
    assert np.mean(held) > 0.9


def test_the_same_picture_again_counts_once_and_is_said_to_stand_still():
    _, grey = next(frames_of(SMALL))
    sweep = Sweep(DetailGauge())
    readings = [sweep.add(grey) for _ in range(30)]
    assert {one.frame for one in readings} == {0}
    assert readings[5].change is Change.NONE
    assert readings[-1].change is Change.STILL


@pytest.mark.parametrize(("grey", "change"), [(0, Change.BLACK), (255, Change.WHITE)])
def test_black_and_white_are_said(grey, change):
    assert Sweep(DetailGauge()).add(np.full((128, 128), grey, np.uint8)).change is change


def test_noise_alone_is_said_to_hold_nothing():
    random = np.random.default_rng(1)
    sweep = Sweep(DetailGauge())
    readings = [
        sweep.add(np.clip(np.rint(random.normal(90, 4, (256, 256))), 0, 255).astype(np.uint8)) for _ in range(20)
    ]
    assert all(one.state is State.SEARCHING for one in readings)
    assert readings[-1].change is Change.PLAIN


CHANGES = {
    Change.LIGHT: lambda grey, _other: np.clip(grey.astype(float) * 1.6, 0, 255).astype(np.uint8),
    Change.MOVED: lambda _grey, other: other,
    Change.BUMPED: lambda grey, _other: np.roll(grey, 12, axis=1),
    Change.SIZE: lambda grey, _other: grey[:200, :200],
}


@pytest.mark.parametrize("change", CHANGES)
def test_what_is_no_focus_begins_a_sweep_and_is_said(change):
    places, _ = zip(*frames_of(SMALL), strict=True)
    sharpest = int(np.abs(places).argmin())
    one, other = (list(frames_of(replace(SMALL, subject=subject)))[sharpest - 3 : sharpest + 4] for subject in (0, 4))
    sweep = Sweep(DetailGauge(), sharp_px=SMALL.sharp_px)
    for _, grey in one:
        sweep.add(grey)
    seen = [sweep.add(CHANGES[change](a, b)) for (_, a), (_, b) in zip(one, other, strict=True)]
    restarted = [reading for reading in seen if reading.state is State.RESTARTED]
    assert [reading.change for reading in restarted] == [change]


def test_places_may_fall_as_the_ring_turns_the_other_way():
    settings = CASES["usual"]
    sweep = Sweep(DetailGauge(), sharp_px=settings.sharp_px)
    readings = [sweep.add(grey, place=90 - 10 * place) for place, grey in frames_of(settings)]
    found = readings[first(readings, State.PAST)]
    assert found.best_place == pytest.approx(90, abs=5)
    assert found.best_low < found.best_place < found.best_high
    assert next(place for place, _ in sweep.curve) > [place for place, _ in sweep.curve][-1]


@pytest.mark.parametrize("shape", [(40, 400), (1200, 1200), (0, 0)])
def test_sizes_that_cannot_be_measured_are_refused(shape):
    with pytest.raises(OutOfRangeError, match="Send at least 64 pixels"):
        Sweep(DetailGauge()).add(np.zeros(shape, np.uint8))


def test_the_curve_shows_all_of_a_long_sweep():
    settings = CASES["usual"]
    sweep = Sweep(DetailGauge(), sharp_px=settings.sharp_px)
    frames = [grey for _, grey in frames_of(settings)]
    random = np.random.default_rng(3)
    for grey in frames:
        sweep.add(grey)
    for _ in range(150):
        sweep.add(_grained(frames[22], random))
    shares = [share for _, share in sweep.curve]
    assert len(shares) < 170
    assert min(shares[:20]) < 0.3
    assert sweep.curve[0][0] < 20


@pytest.mark.parametrize("name", ["slow", "noisy", "flat light"])
def test_which_way_the_ring_is_numbered_changes_nothing_of_when_it_is_said(name):
    settings, said = CASES[name], []
    for way in (1, -1):
        sweep = Sweep(DetailGauge(), sharp_px=settings.sharp_px)
        readings = [sweep.add(grey, place=way * index) for index, (_, grey) in enumerate(frames_of(settings))]
        said.append(first(readings, State.PAST))
    assert said[0] == said[1]


STOPPED = {
    "slowly": replace(SMALL, per_window=40, frames=60, sharp_px=2.5, noise=2, contrast=0.8, halt=0.42),
    "slowly in noise": replace(SMALL, per_window=30, frames=60, sharp_px=3.0, noise=6, contrast=0.6, seed=3, halt=0.6),
    "in noise again": replace(SMALL, per_window=30, frames=60, sharp_px=3.0, noise=6, contrast=0.6, seed=35, halt=0.6),
    "usual": replace(SMALL, halt=0.8),
}


@pytest.mark.parametrize("name", STOPPED)
def test_past_is_not_taken_back_where_the_hand_stops(name):
    _, readings = swept(STOPPED[name])
    after = [one.state for one in readings[first(readings, State.PAST) :]]
    assert len(after) > 8
    assert set(after) == {State.PAST}


def test_blocks_show_in_a_compressed_blur_and_not_in_detail_or_noise():
    """By pictures that a JPEG library compressed, cut off any corner: the blocks lie anywhere."""
    random = np.random.default_rng(3)
    slope = cv2.GaussianBlur(random.normal(0, 1, (400, 400)), (0, 0), 20)
    smooth = 128 + 12 * slope / slope.std()
    found = {}
    for name, picture in (("smooth", smooth), ("noisy", smooth + random.normal(0, 8, smooth.shape))):
        grey = np.clip(np.rint(picture), 0, 255).astype(np.uint8)
        packed = cv2.imdecode(cv2.imencode(".jpg", grey, [cv2.IMWRITE_JPEG_QUALITY, 60])[1], cv2.IMREAD_GRAYSCALE)
        found[name] = [blocks_in(packed[left:, 2 * left :]) for left in (0, 3, 5)]
        assert blocks_in(grey) < 0.1
    assert min(found["smooth"]) > 2
    assert max(found["noisy"]) < 0.7
    assert max(found["smooth"]) - min(found["smooth"]) < 0.3


@pytest.mark.parametrize("seed", [3, 17, 19, 36])
def test_steps_between_blocks_are_not_taken_for_detail(seed):
    """Flat light, little noise, strong compression: far out of focus the blocks are all that a frame shows."""
    settings = SweepSettings(
        side=192, frames=40, sharp_px=6.5, per_window=16, contrast=0.14, noise=1.5, quality=62, peak=0.65,
        seed=seed, subject=seed % 12,
    )  # fmt: skip
    sweep = Sweep(DetailGauge(), sharp_px=settings.sharp_px)
    past = [place for place, grey in frames_of(settings) if sweep.add(grey).state is State.PAST]
    assert 0 < past[0] < 1.5
