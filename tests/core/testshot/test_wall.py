"""Sheets on a wall: how lens and film stand to one another, and what makes it untrustworthy."""

import functools
import math
from dataclasses import replace

import numpy as np
import pytest

from tests.core.testshot.facing_scenes import SIZE, wall_camera, wall_picture
from welotrope.core.testshot.slope import ShotSettings
from welotrope.core.testshot.wall_reading import (
    Told,
    WallReading,
    level_headline,
    level_sentences,
    look_at_wall,
    read_wall,
)

SETTINGS = ShotSettings(focal_mm=50.0, width_mm=36.0, stop=2.0)
ASKEW = {"film_tilt": 0.18, "film_tip": -0.12, "film_curve": 0.03}


@functools.cache
def look(farther, *, said_farther=None, **how):
    camera = wall_camera(farther=farther, **how)
    return look_at_wall(wall_picture(camera), SETTINGS, farther=farther if said_farther is None else said_farther)


def both(**how):
    return read_wall([look(False, **how), look(True, **how)], SETTINGS)


@pytest.mark.parametrize("how", [ASKEW, {"film_tilt": -0.25, "film_curve": -0.04, "noise": 5.0}, {}])
def test_tilt_and_curvature_are_found(how):
    found = both(**how)
    planted = [how.get(name, 0.0) for name in ("film_tilt", "film_tip", "film_curve")]
    told = [found.tilt_deg, found.tip_deg, found.curvature_mm]
    for one, true, close in zip(told, planted, (0.03, 0.04, 0.008), strict=True):
        assert one.value == pytest.approx(true, abs=close)
        assert abs(one.value - true) < one.high - one.low  # twice a 95 % interval
        assert one.high - one.low < 6 * close
    assert found.warnings == ()
    # On the film it shows larger by 1 + m, here of 50 mm at 0.95 m.
    assert found.across_mm.value == pytest.approx(36 * math.tan(math.radians(found.tilt_deg.value)) * 1.055, rel=0.005)
    assert found.upright_mm.value == pytest.approx(24 * math.tan(math.radians(found.tip_deg.value)) * 1.055, rel=0.005)


def test_soft_corners_are_not_taken_for_curvature():
    found = both(corner_blur_px=1.6)
    assert found.curvature_mm.low < 0 < found.curvature_mm.high
    assert abs(found.curvature_mm.value) < 0.006
    assert 0.7 < found.soft_px < 1.8  # the square root of 1.6² − 0.5²


def test_one_picture_alone_leaves_curvature_open():
    one = read_wall([look(False, **ASKEW)], SETTINGS)
    two = both(**ASKEW)
    assert any("second one focused farther" in words for words in one.warnings)
    assert one.curvature_mm.high - one.curvature_mm.low > two.curvature_mm.high - two.curvature_mm.low
    assert one.tilt_deg.value == pytest.approx(0.18, abs=0.06)


def test_pictures_the_wrong_way_round_are_noticed():
    shots = [look(False, said_farther=True, **ASKEW), look(True, said_farther=False, **ASKEW)]
    assert any("other way round" in words for words in read_wall(shots, SETTINGS).warnings)


def test_a_wall_in_focus_does_not_tell_sides():
    shots = [look(False, blur_px=0.5), look(True, blur_px=0.5)]
    assert any("nearly in focus" in words for words in read_wall(shots, SETTINGS).warnings)


def test_no_wall_is_said_so():
    assert "No wall sheet" in look_at_wall(np.full((900, 1200), 128, np.uint8), SETTINGS, farther=False)


def _lean_of_the_plane_of_focus(turn_deg, image_mm=90.0, focal_mm=85.0):
    """By rays: a thin lens turned about the upright axis through its middle, its left side towards the film.

    Seen from behind, x to the right and z away; the film lies at z = -image. Every place of the film is taken through
    the lens in the lens's own axes; what it is sharp for lies on a plane.
    """
    a = math.radians(turn_deg)
    axis, along = np.array([math.sin(a), math.cos(a)]), np.array([math.cos(a), -math.sin(a)])
    # The lens's plane contains "along": with x < 0 (left) that has z > 0 for a > 0, away from the film.
    seen = []
    for x in (-15.0, 15.0):
        film = np.array([x, -image_mm])
        depth = -float(film @ axis)
        u = 1 / (1 / focal_mm - 1 / depth)
        side = -float(film @ along) * u / depth
        seen.append(u * axis + side * along)
    (x1, z1), (x2, z2) = seen
    lean = (z2 - z1) / (x2 - x1)
    return lean


def test_the_side_that_is_nearer_to_the_film_is_that_of_a_ray_trace():
    # Turned so that its right side comes towards the film: "along" at x > 0 has z < 0.
    right_nearer = _lean_of_the_plane_of_focus(0.2)
    # What lies on the right of the scene is on the right of the picture. A positive tilt is focus farther there.
    sign = 1 if right_nearer > 0 else -1
    told = Told(value=sign * 0.2, low=sign * 0.19, high=sign * 0.21)
    straight = Told(value=0.0, low=-0.01, high=0.01)
    words = " ".join(level_sentences(WallReading(tilt_deg=told, tip_deg=straight, sheets=4, pictures=2)))
    assert "nearer to the film on its right" in words
    assert "0.175 mm across 50 mm" in words  # 50 mm times the tangent


def test_the_amount_is_that_of_a_ray_trace():
    lean = _lean_of_the_plane_of_focus(0.2)
    away = 1 / (1 / 85.0 - 1 / 90.0)
    # The relation by which wall_camera plants the tilt of a lens.
    assert math.tan(math.radians(0.2)) * away / 85.0 == pytest.approx(abs(lean), rel=0.001)


def test_advice_follows_from_what_was_measured():
    def told(value, wide=0.001):
        return Told(value=value, low=value - wide, high=value + wide)

    flat = WallReading(
        tilt_deg=told(0.0, 0.01), tip_deg=told(0.0, 0.015), across_mm=told(0.0), upright_mm=told(0.0),
        curvature_mm=told(0.01), half_depth_mm=0.08,
    )  # fmt: skip
    assert level_headline(flat) == "The lens stands straight to the film, to 0.02°"
    vague = replace(flat, tip_deg=told(0.5, 0.9))
    assert level_headline(vague) == "The pictures tell a tilt only to 1.4°: take them again"
    assert "turning the camera is safe" in " ".join(level_sentences(flat))
    curved = WallReading(
        tilt_deg=told(0.3, 0.01), tip_deg=told(0.0, 0.01), across_mm=told(0.19), upright_mm=told(0.0),
        curvature_mm=told(-0.12), half_depth_mm=0.08,
    )  # fmt: skip
    words = " ".join(level_sentences(curved))
    assert level_headline(curved) == "The lens stands askew to the film by 0.30°"
    assert "left and right edge are 1.2 half windows off" in words
    assert "corners lies nearer, by 1.5 half windows: move the magnified area" in words
    assert SIZE[0] > SIZE[1]
