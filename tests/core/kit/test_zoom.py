"""A zoom keeps the distances of its ring; what lies behind it does not, and its depth goes with its focal length."""

from dataclasses import replace

import pytest
from scipy.optimize import brentq, fsolve

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.known_ring import RingRecords
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import STANDARD_MOUNTS, Mount
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.zoom import Zoom, parse_focals
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial

M42 = STANDARD_MOUNTS[0]
LENS = Lens(
    name="Lindmere 35-70", focal_mm=70, stops=(3.5, 4, 5.6, 8, 11, 16), closest_mm=800, throw_deg=150, mount=M42,
    zoom=Zoom(focals_mm=(35, 50, 70), widest_long=4.5),
)  # fmt: skip
BODY = Body("Ostrel 6", ImageFormat(36, 24, 6000), ())
SETUP = Setup(body=BODY, lens=LENS)
HERE = (800, 1_000, 2_500, 8_000, 40_000, float("inf"))


@pytest.mark.parametrize(
    ("text", "read"),
    [("35-70", (35, 70)), ("35 50 70", (35, 50, 70)), ("70, 35 mm", (35, 70)), ("28.5 to 85", (28.5, 85))],
)
def test_focal_lengths_are_read(text, read):
    assert parse_focals(text) == read


@pytest.mark.parametrize(("text", "says"), [("70-35", "long to short"), ("x", "focal"), ("1 " * 40, "focal")])
def test_what_is_no_list_of_focal_lengths_is_refused(text, says):
    with pytest.raises(WelotropeError, match=says):
        Zoom(focals_mm=parse_focals(text if text != "1 " * 40 else " ".join(map(str, range(10, 50)))))
    with pytest.raises(WelotropeError, match="at least two"):
        Zoom(focals_mm=(50,))


@pytest.mark.parametrize("focal", [35, 42, 50, 69.9])
def test_the_ring_keeps_its_distances(focal):
    long, here = SETUP.ring(), SETUP.zoomed(focal).ring()
    for distance in HERE:
        angle = long.angle_at_distance(distance)
        assert here.angle_at_distance(distance) == pytest.approx(angle, abs=0.02)
        if distance < 1e5:
            assert here.distance_at_angle(angle) == pytest.approx(distance, rel=2e-4)


FRONT, VARIATOR, RELAY, FILM = 100.0, -30.0, 35.0, 175.0


def _through(f, at, z):
    """Place of the image of an object at ``z`` by a thin lens at ``at``, and its magnification."""
    u = at - z
    v = 1 / (1 / f - 1 / u)
    return at + v, -v / u


def _film_image(places, subject_mm, moved):
    """Where three thin groups, the front one ``moved`` forward, image a subject, and their magnification behind it."""
    first = -moved + 1 / (1 / FRONT - 1 / (subject_mm - moved))
    second, m2 = _through(VARIATOR, places[0], first)
    third, m3 = _through(RELAY, places[1], second)
    return third, m2 * m3


def _zoomed_to(focal):
    """Places of variator and relay at which the three groups have a focal length and image infinity on the film."""

    def off(places):
        image, m = _film_image(places, 1e12, 0.0)
        return image - FILM, abs(FRONT * m) - focal

    found = fsolve(off, (45.0, 110.0), xtol=1e-13)
    assert max(map(abs, off(found))) < 1e-6
    return found


def _focused(places, subject):
    """How far the front group must move for a subject to be imaged on the film."""
    return brentq(lambda moved: _film_image(places, subject, moved)[0] - FILM, 0, 12, xtol=1e-12)


def test_a_group_in_front_that_focuses_keeps_its_distances_by_ray_trace():
    short, long = _zoomed_to(35), _zoomed_to(70)
    for subject in (1_200.0, 4_000.0):
        moved = _focused(long, subject)
        assert _film_image(short, subject, moved)[0] == pytest.approx(FILM, abs=1e-4)
        # A slip of the ring moves the image at the short end by a quarter of what it does at the long.
        slips = [_film_image(places, subject, moved + 0.01)[0] - FILM for places in (short, long)]
        angle = SETUP.ring().angle_at_distance(subject)
        per_mm = [setup.ring().degrees_per_mm(angle) for setup in (SETUP.zoomed(35), SETUP)]
        assert slips[0] / slips[1] == pytest.approx(per_mm[1] / per_mm[0], rel=0.02)


def test_the_window_grows_as_the_square_of_the_focal_length():
    def window(setup):
        ring = setup.ring()
        angle = ring.angle_at_distance(3_000.0)
        x = setup.blur_mm * 8
        return 2 * x * ring.degrees_per_mm(angle)

    assert window(SETUP.zoomed(35)) / window(SETUP) == pytest.approx(4, rel=0.02)


def test_stops_go_with_the_focal_length_and_come_back():
    assert SETUP.lens.stops == (4.5, 5.6, 8, 11, 16)
    assert SETUP.zoomed(35).lens.stops == (3.5, 4, 5.6, 8, 11, 16)
    assert SETUP.zoomed(52.5).lens.widest == 4.0
    again = replace(SETUP.zoomed(70).zoomed(35), standard=SETUP.standard)
    assert again.lens.stops == LENS.stops
    assert again.zoomed(None).lens.stops == SETUP.lens.stops


def test_an_adapter_too_thin_moves_the_short_end_most():
    body = replace(BODY, mount=Mount(name="Ostrel bayonet", register_mm=18.0))
    adapter = Adapter(name="ring", lens_side=M42, body_side=body.mount, nominal_mm=27.46, measured_mm=27.36)
    setup = Setup(body=body, lens=replace(LENS), adapter=adapter)
    for focal in (35, 50):
        here = setup.zoomed(focal)
        angle = setup.ring().angle_at_distance(4_000.0)
        # Sharp at 70 mm, the image lies too far back by what the ring made good there, less its share here.
        left = -0.1 * (1 - (focal / 70) ** 2)
        wanted = float(here.ring().extension_at_distance(4_000.0))
        assert float(here.ring().extension_at_angle(angle)) - wanted == pytest.approx(left, abs=2e-3)


def test_a_trial_at_both_ends_is_met():
    zoom = replace(LENS.zoom, drift_from_mm=3_000, drift_to_mm=2_400)
    setup = Setup(body=BODY, lens=replace(LENS, zoom=zoom))
    short, angle = setup.zoomed(35), setup.ring().angle_at_distance(2_400)
    assert short.ring().distance_at_angle(angle) == pytest.approx(3_000, rel=1e-3)
    assert setup.ring().distance_at_angle(angle) == pytest.approx(2_400, rel=1e-6)
    nearer = setup.zoomed(60).ring().distance_at_angle(angle)
    assert 2_400 < nearer < 3_000


def test_focus_shift_is_known_where_it_was_tried():
    shift = FocusShift((ShiftTrial(4.5, 0.0), ShiftTrial(5.6, 2.0)))
    setup = replace(SETUP, records=RingRecords(shift=shift))
    assert setup.shift_deg(5.6) == pytest.approx(2.0)
    assert setup.zoomed(50).shift_deg(5.6) == 0.0


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"widest_long": 2.8}, "wider than the widest"),
        ({"drift_from_mm": 3_000}, "missing"),
        ({"drift_from_mm": 3_000, "drift_to_mm": 500}, "the ring stops at 0.8 m"),
        ({"focals_mm": (28, 50)}, "zooms from 28 to 50"),
    ],
)
def test_what_contradicts_the_lens_is_refused(change, says):
    with pytest.raises(WelotropeError, match=says):
        replace(LENS, zoom=replace(LENS.zoom, **change))


def test_a_focal_length_out_of_its_range_is_refused():
    with pytest.raises(WelotropeError, match="zooms from 35 to 70 mm"):
        SETUP.zoomed(105)


def test_glass_behind_it_makes_every_focal_length_longer():
    body = replace(BODY, mount=Mount(name="Ostrel bayonet", register_mm=18.0))
    glass = Adapter(name="doubler", lens_side=M42, body_side=body.mount, nominal_mm=27.46, optics=True, factor=2.0)
    setup = Setup(body=body, lens=LENS, adapter=glass)
    assert (setup.lens.focal_mm, setup.zoomed(35).lens.focal_mm) == (140, 70)
    assert setup.zoomed(35).lens.widest == 7.0


def test_another_lens_put_in_its_place_is_that_lens():
    """The whole lens a set-up remembers must not outlive it."""
    brighter = replace(LENS, stops=(2.8, 4, 5.6, 8))
    assert replace(SETUP, lens=brighter).zoomed(35).lens.widest == 2.8
    assert replace(SETUP.zoomed(35), lens=brighter).zoomed(35).lens.widest == 2.8
