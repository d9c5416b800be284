import dataclasses
import itertools
import math

import pytest

from welotrope.core.errors import ConflictError, OutOfRangeError, TooCloseError, WelotropeError
from welotrope.core.kit.aids.magnified import MagnifiedView
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.peaking import Peaking, PeakingLevel
from welotrope.core.kit.aids.split_image import SplitImage
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import ASSUMED_THROW_DEG, Lens, RingReading, RingSource
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import ImageFormat

FILM = ImageFormat(36, 24)


def lens(**changes):
    return Lens(**{"name": "n", "focal_mm": 50, "stops": (2, 16), "closest_mm": 500.0} | changes)


def test_ring_comes_from_the_best_that_is_known():
    assert lens().ring_source is RingSource.ASSUMED
    assert lens().helicoid().throw_deg == ASSUMED_THROW_DEG
    reading = RingReading(30, 2000)
    read = lens(reading=reading)
    assert read.ring_source is RingSource.READING
    assert read.helicoid().distance_at_angle(30.0) == pytest.approx(2000)
    assert read.helicoid().closest_mm == pytest.approx(500)
    measured = lens(reading=reading, throw_deg=270)
    assert measured.ring_source is RingSource.MEASURED
    assert measured.helicoid().throw_deg == 270


def test_ring_surface_is_unknown_without_a_diameter():
    assert lens().mm_per_degree is None
    assert lens(ring_diameter_mm=60).mm_per_degree == pytest.approx(math.pi / 6)


@pytest.mark.parametrize(
    ("changes", "error", "words"),
    [
        ({"closest_mm": 199.0, "h_mm": 0.0}, TooCloseError, "needs at least 0.2 m"),
        ({"closest_mm": math.inf}, OutOfRangeError, "nearer than that"),
        ({"stops": ()}, ConflictError, "at least one stop"),
        ({"stops": (0,)}, OutOfRangeError, "Marked stops"),
        ({"focal_mm": 0}, OutOfRangeError, "Focal length"),
        ({"throw_deg": 1}, OutOfRangeError, "Throw"),
        ({"ring_diameter_mm": 1}, OutOfRangeError, "Ring diameter"),
        ({"engraved_m": (0.3,)}, ConflictError, "in metres"),
        ({"engraved_ft": (1.2,)}, ConflictError, "in feet"),
        ({"reading": RingReading(0, 2000)}, OutOfRangeError, "Ring reading"),
    ],
)
def test_contradictions_are_refused(changes, error, words):
    with pytest.raises(error, match=words):
        lens(**changes)


@pytest.mark.parametrize(
    "aid",
    [
        MatteScreen(5),
        MatteScreen(0.9, 99),
        SplitImage(0.9, 0),
        MagnifiedView(1, (5,)),
        MagnifiedView(720, (0,)),
        MagnifiedView(720, ()),
        Peaking(720, ()),
    ],
)
def test_impossible_aids_are_refused(aid):
    with pytest.raises(WelotropeError, match="out of range"):
        Body("b", ImageFormat(36, 24, 6000), (aid,))


@pytest.mark.parametrize("aid", [MagnifiedView(720, (5,)), Peaking(720, (PeakingLevel("low", 0.2),))])
def test_film_gives_no_live_picture(aid):
    with pytest.raises(ConflictError, match="no live picture"):
        Body("b", FILM, (aid,))


def test_setup_has_a_blur_and_a_name():
    setup = Setup(body=Body("Kyrstad Reflex", FILM), lens=lens(name="Norrvik 50"))
    assert setup.name == "Norrvik 50 on Kyrstad Reflex"
    assert setup.blur_mm == pytest.approx(0.02884, abs=1e-5)


def test_the_blur_of_the_lens_itself_falls_to_nothing_at_its_sharpest_stop():
    made = Lens(
        name="x", focal_mm=50, stops=(1.4, 2, 2.8, 4, 5.6, 8), closest_mm=450, best_stop=4, corner_stop=8,
        wide_blur_mm=0.02, corner_blur_mm=0.06,
    )  # fmt: skip
    for corner, widest, sharpest in ((False, 0.02, 4), (True, 0.06, 8)):
        blurs = [made.own_blur_mm(stop, corner=corner) for stop in made.stops]
        assert blurs[0] == pytest.approx(widest)
        assert all(a >= b for a, b in itertools.pairwise(blurs))
        assert [blur == 0 for blur in blurs] == [stop >= sharpest for stop in made.stops]
    behind = made.through(2.0)  # a converter shows the same fault twice as large, at stops twice as small
    assert behind.own_blur_mm(2.8, corner=True) == pytest.approx(0.12)
    assert behind.own_blur_mm(16, corner=True) == 0
    assert dataclasses.replace(made, corner_blur_mm=None).own_blur_mm(1.4, corner=True) is None
