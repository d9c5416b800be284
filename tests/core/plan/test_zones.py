import math

import numpy as np
import pytest

from tests.core.plan.ray_trace import blur_on_film
from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.optics.thin_lens import Datum
from welotrope.core.plan.zones import LensAt, frame_stack, stop_that_spans, windows_inwards

CASES = [
    (35, 8, 0.03, 0.0, math.inf, 3), (8, 4, 0.005, 0.0, math.inf, 2), (600, 5.6, 0.03, 0.0, 60_000.0, 4),
    (50, 0.95, 0.03, 0.0, 4_000.0, 5), (100, 16, 0.02, 20.0, 520.0, 3), (150, 22, 0.1, -8.0, math.inf, 2),
]  # fmt: skip


def film_blur(lens, x, distance):
    """Blur of a thing ``distance`` from the film with the lens at ``x``, traced."""
    return blur_on_film(distance - lens.f - x - lens.h, lens.f + x, lens.f, lens.N)


@pytest.mark.parametrize("case", CASES, ids=str)
def test_zones_leave_no_gap_and_end_where_blur_says(case):
    f, N, c, h, far, count = case
    lens = LensAt(f=f, N=N, c=c, h=h)
    zones = windows_inwards(lens, far, count)
    assert zones[0].far_mm == pytest.approx(far) or (math.isinf(far) and zones[0].far_mm > 1e8)
    for zone in zones:
        assert film_blur(lens, zone.focus_x, zone.near_mm) == pytest.approx(c, rel=1e-6)
        assert film_blur(lens, zone.focus_x, zone.focus_mm) == pytest.approx(0, abs=1e-9)
    everywhere = np.geomspace(zones[-1].near_mm * 1.0001, min(far, 1e6) * 0.9999, 4000)
    best = [min(film_blur(lens, zone.focus_x, mm) for zone in zones) for mm in everywhere]
    assert max(best) <= c * 1.0001


@pytest.mark.parametrize("overlap", [0.1, 0.5])
def test_overlapping_zones_share_that_much_of_a_window(overlap):
    lens = LensAt(f=35, N=8, c=0.03, datum=Datum.PRINCIPAL)
    first, second = windows_inwards(lens, math.inf, 2, overlap=overlap)
    shared = first.limits.near_x - (first.limits.near_x - overlap * first.limits.spread)
    v = [35 * mm / (mm - 35) for mm in (second.far_mm, first.near_mm)]
    assert v[1] - v[0] == pytest.approx(shared, rel=1e-6)


@pytest.mark.parametrize("count", [1, 2, 3])
def test_stop_that_spans_is_where_a_sweep_finds_it(count):
    near, far = (35**2 / (mm - 35) for mm in (900.0, 20_000.0))
    stops = np.linspace(1, 64, 20_000)

    def reach(stop):
        return windows_inwards(LensAt(f=35, N=stop, c=0.03, datum=Datum.PRINCIPAL), 20_000.0, count)[-1].near_mm

    swept = next(stop for stop in stops if reach(float(stop)) <= 900.0)
    assert stop_that_spans(near, far, 35, 0.03, count) == pytest.approx(swept, abs=0.01)


@pytest.mark.parametrize(("count", "overlap"), [(0, 0), (21, 0), (2, -0.1), (2, 0.95)])
def test_no_number_of_zones_and_no_share(count, overlap):
    with pytest.raises(OutOfRangeError):
        windows_inwards(LensAt(f=35, N=8, c=0.03), math.inf, count, overlap=overlap)


STACKS = [
    (100, 8, 0.02, 0.0, 410.0, 425.0, False), (60, 5.6, 0.02, 0.0, 260.0, 270.0, False),
    (35, 2.8, 0.03, 0.0, 1500.0, math.inf, False), (28, 4, 0.012, 15.0, 300.0, 420.0, False),
    (50, 11, 0.02, 0.0, 226.0, 229.0, True),
]  # fmt: skip


@pytest.mark.parametrize("case", STACKS, ids=str)
def test_a_stack_covers_and_is_the_fewest(case):
    f, N, c, h, near, far, beyond = case
    lens = LensAt(f=f, N=N, c=c, h=h, beyond=beyond)
    stack = frame_stack(lens, near, far, overlap=0.2)
    everywhere = np.linspace(near, min(far, 40_000.0), 3000)

    def worst(extensions):
        return max(min(film_blur(lens, x, mm) for x in extensions) for mm in everywhere)

    extensions = [frame.focus_x for frame in stack.frames]
    assert worst(extensions) <= c * 1.0005
    assert film_blur(lens, extensions[0], near) == pytest.approx(c, rel=1e-6)
    # With neither overlap nor gap it takes at least 0.8 of so many, less one for the ends.
    fewest = next(
        count for count in range(2, 400) if worst(np.linspace(extensions[0], extensions[-1], count)) <= c * 1.0005
    )
    assert 0.8 * (fewest - 1) <= len(extensions) <= (fewest - 1) / 0.8 + 2


def test_near_life_size_the_ring_hardly_moves_the_plane():
    lens = LensAt(f=100, N=8, c=0.02)
    plain = LensAt(f=100, N=8, c=0.02, datum=Datum.PRINCIPAL)
    assert frame_stack(lens, 401.0, 403.0).step_mm > 2.5 * frame_stack(plain, 201.0, 203.0).step_mm
    with pytest.raises(ConflictError, match="at or beyond far"):
        frame_stack(lens, 500.0, 450.0)
    with pytest.raises(OutOfRangeError, match="so many"):
        frame_stack(LensAt(f=300, N=1.4, c=0.001), 1300.0, math.inf)
