"""When a series may end: what the pictures left out would have told is simulated, and does not change the answer."""

from dataclasses import replace

import numpy as np
import pytest

from tests.core.kit.test_camera_kind import LENS, camera
from welotrope.core.kit.camera_kind import CameraKindId
from welotrope.core.kit.setup import Setup
from welotrope.core.testshot.series_record import SeriesCurve, SeriesPoint, SeriesRecord
from welotrope.core.testshot.series_words import PLANE, SeriesKind
from welotrope.core.testshot.settled import is_settled
from welotrope.core.testshot.stop_series import compared

SETUP = Setup(body=camera(CameraKindId.MIRRORLESS), lens=replace(LENS, mount=None, stops=(1.4, 2, 2.8, 4, 5.6, 8, 11)))
STOPS = (1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0, 16.0)


def stops_record(stops, **parts):
    curves = []
    for part, logs in parts.items():
        scores, best = compared(stops, logs)
        points = tuple(SeriesPoint(at=one.stop, score=one.score, low=one.low, high=one.high) for one in scores)
        curves.append(SeriesCurve(part=part, points=points, best=best))
    return SeriesRecord(pictures=tuple("abcdefgh"[: len(stops)]), curves=tuple(curves))


def sharpness(random, best, noise, tiles=40):
    """Logarithms of the share of fine detail at each stop, tile by tile, best at one of them."""
    fall = np.array([0.12 * abs(best - index) ** 1.2 for index in range(len(STOPS))])
    return -fall[:, None] + random.normal(0, noise, (len(STOPS), tiles))


def test_stops_that_are_left_out_would_not_have_been_the_sharpest():
    random, ended, wrong = np.random.default_rng(4), [], 0
    for _ in range(300):
        centre, corner = sorted(random.integers(1, 5, 2))
        logs = {"centre": sharpness(random, centre, 0.1), "corner": sharpness(random, corner, 0.1)}
        whole = stops_record(STOPS, **logs)
        for count in range(5, len(STOPS)):
            so_far = stops_record(STOPS[:count], **{part: one[:count] for part, one in logs.items()})
            if is_settled(SeriesKind.STOPS, so_far, SETUP):
                ended.append(count)
                wrong += any(
                    abs(STOPS.index(so_far.curve(part).best) - STOPS.index(whole.curve(part).best or 1.4)) > 1
                    for part in logs
                )
                break
    assert len(ended) > 250  # most series need not be taken to their end
    assert np.mean(ended) < 7
    assert wrong <= 3


@pytest.mark.parametrize(
    ("beyond", "settled"),
    [((0.8, 0.9), True), ((0.9,), False), ((1.05, 0.9), False), ((None, 0.9), False)],  # the highest it may be
)
def test_two_stops_beyond_the_sharpest_are_surely_less_sharp(beyond, settled):
    highs = (0.9, 1.0, *beyond)
    points = tuple(
        SeriesPoint(at=stop, score=0.7, low=0.5, high=high) for stop, high in zip(STOPS, highs, strict=False)
    )
    curves = tuple(SeriesCurve(part=part, points=points, best=2.0) for part in ("centre", "corner"))
    assert is_settled(SeriesKind.STOPS, SeriesRecord(pictures=("a",) * 4, curves=curves), SETUP) is settled


def shifted(stops, *, most_mm, wide_mm, distance_mm=1000.0):
    """Focus shift of a lens with spherical aberration alone: it grows with the share of the aperture stopped down."""
    points = tuple(
        SeriesPoint(at=stop, score=(shift := most_mm * (1 - (1.4 / stop) ** 2)), low=shift - wide_mm, high=shift + wide_mm)
        for stop in stops
    )  # fmt: skip
    return SeriesRecord(
        pictures=("a",) * len(stops), curves=(SeriesCurve(part=PLANE, points=points),), distance_mm=distance_mm
    )


@pytest.mark.parametrize("most_mm", [0.0, 2.0, -8.0, 40.0])
def test_what_focus_still_shifts_after_the_end_is_hidden_by_depth_of_field(most_mm):
    for count in range(3, len(STOPS) + 1):
        if is_settled(SeriesKind.SHIFT, shifted(STOPS[:count], most_mm=most_mm, wide_mm=0.3), SETUP):
            break
    last = STOPS[count - 1]
    to_come = abs(most_mm) * (1.4 / last) ** 2
    half_depth = last * SETUP.blur_mm * (1000 / 50) ** 2
    assert to_come < half_depth / 2
    assert count == 3 or abs(most_mm) > 5


@pytest.mark.parametrize(("shift_mm", "settled"), [(0.01, True), (0.2, False)])
def test_at_life_size_the_depth_is_that_of_life_size(shift_mm, settled):
    """At 1:1 and f/2.8 some 0.33 mm are sharp, 2·N·c·(1 + m)/m²: what shifts by 0.2 mm from stop to stop goes on."""
    points = tuple(
        SeriesPoint(at=stop, score=shift_mm * k, low=shift_mm * k - 0.002, high=shift_mm * k + 0.002)
        for k, stop in enumerate((1.4, 2.0, 2.8))
    )
    record = SeriesRecord(
        pictures=("a", "b", "c"), curves=(SeriesCurve(part=PLANE, points=points),), distance_mm=200.1,
    )  # fmt: skip
    assert is_settled(SeriesKind.SHIFT, record, SETUP) is settled


def test_wide_intervals_or_an_unknown_distance_settle_nothing():
    assert not is_settled(SeriesKind.SHIFT, shifted(STOPS[:4], most_mm=0, wide_mm=30.0), SETUP)
    unknown = replace(shifted(STOPS, most_mm=0, wide_mm=0.1), distance_mm=None)
    assert not is_settled(SeriesKind.SHIFT, unknown, SETUP)


@pytest.mark.parametrize(
    ("places", "low", "high", "settled"),
    [
        ((0, 1, 2, 3, 4), 1.9, 2.1, True),
        ((0, 1, 2, 3), 1.9, 2.1, False),  # only one beyond it
        ((0, 1, 2, 3, 4), 1.6, 2.4, False),  # known too badly
        ((0, 1, 2, 3, 4), 0.4, 0.6, False),  # only one before it
    ],
)
def test_a_ring_is_known_from_both_sides(places, low, high, settled):
    points = tuple(SeriesPoint(at=at, score=0.5) for at in places)
    curve = SeriesCurve(part="middle", points=points, best=(low + high) / 2, low=low, high=high)
    record = SeriesRecord(pictures=("a",) * len(places), curves=(curve,))
    assert is_settled(SeriesKind.RING, record, SETUP) is settled


def test_level_takes_both_of_its_pictures():
    assert not is_settled(SeriesKind.LEVEL, SeriesRecord(pictures=("a",)), SETUP)
