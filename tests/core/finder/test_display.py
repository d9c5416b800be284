"""The display a round is seen on: sizes by a card and a ruler, angles by hand, and what the eye tells of it."""

import math
from dataclasses import replace

import pytest

from tests.core.finder.test_rounds import SETUP
from welotrope.core.errors import OutOfRangeError
from welotrope.core.finder.display import Display, PictureOnDisplay, seen_angle, shown_defocus
from welotrope.core.finder.finder import WIDTH_PX, FrameRequest
from welotrope.core.finder.round import Round, RoundRequest
from welotrope.core.kit.aids.kind import FinderScene, Through
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.rangefinder import RangefinderPatch
from welotrope.core.kit.body import Body

DESK = Display.of_card(324, eye_mm=600)


def test_a_card_tells_the_size_of_a_pixel():
    assert DESK.pitch_mm == pytest.approx(25.4 / 96, rel=0.002)  # 96 pixels an inch, as pages reckon
    for card_px, eye_mm in ((0, 600), (20, 600), (5000, 600), (324, 20), (324, 9000)):
        with pytest.raises(OutOfRangeError):
            Display.of_card(card_px, eye_mm=eye_mm)


def test_a_degree_at_57_cm_is_a_centimetre_wide():
    display = Display(pitch_mm=0.25, eye_mm=573)
    assert display.width_for(math.radians(1)) * display.pitch_mm == pytest.approx(10.0, abs=0.01)
    # A picture of 900 pixels shown 900 wide: one is 0.25 mm at 573 mm, 90 seconds of arc.
    assert display.pixels_told(180, shown_px=900, picture_px=900) == pytest.approx(2.0, abs=0.01)
    assert display.pixels_told(60, shown_px=900, picture_px=900) == 1.0
    assert display.pixels_told(90, shown_px=300, picture_px=900) == pytest.approx(3.0, abs=0.02)


def test_finders_show_the_picture_as_large_as_they_are_known_to():
    reflex = FinderScene(through=Through.SCREEN, finder_magnification=0.9)
    # 0.9 times with a 50 mm lens: the 39.6° of its picture are seen under some 36°, whatever lens is on.
    for focal in (28, 50, 200):
        half = seen_angle(reflex, 18.0, focal_mm=focal)
        assert math.degrees(2 * math.atan(half)) == pytest.approx(0.9 * 39.6, abs=0.6)
    own = FinderScene(through=Through.PLAIN, finder_magnification=0.7)
    assert seen_angle(own, 18.0, focal_mm=35) == pytest.approx(0.7 * 18 / 35)
    assert seen_angle(FinderScene(through=Through.DISPLAY, finder_magnification=0.7), 18.0, focal_mm=50) is None


@pytest.mark.parametrize("aid", ["matte", "split_image", "rangefinder"])
def test_a_small_or_distant_picture_shows_less_and_a_large_one_what_its_pixels_show(aid):
    own = RangefinderPatch(47, 0.7) if aid == "rangefinder" else MatteScreen(0.9)
    made = Round(replace(SETUP, body=Body("b", SETUP.body.image, (own,))), RoundRequest("single", aid, "shed", 1.4), 4)
    look = FrameRequest(aid=aid, angle_deg=80.0, step=3.0)

    def shown(px, eye_mm=600):
        viewing = PictureOnDisplay(display=Display(pitch_mm=0.26, eye_mm=eye_mm), shown_px=px)
        return shown_defocus(made.finder, look, 1.0, viewing=viewing)

    by_pixel = shown_defocus(made.finder, look, 1.0)
    assert shown(3000) == by_pixel
    sizes = [shown(px) for px in (1200, 400, 100, 50)]
    assert sizes == sorted(sizes)
    assert sizes[-1] > 2 * by_pixel
    assert shown(100, eye_mm=1200) == pytest.approx(2 * shown(100))


def test_what_is_seen_in_the_finder_is_as_wide_whatever_is_drawn():
    """A finder that magnifies more is drawn larger, so that a pixel of the picture is always seen alike."""
    slopes = []
    for magnification in (0.5, 1.1):
        body = Body("b", SETUP.body.image, (MatteScreen(magnification),))
        made = Round(replace(SETUP, body=body), RoundRequest("single", "matte", "shed", 1.4), 4)
        slopes.append(made.pixel_slope(1.0))
        assert made.pixel_slope(3.0) == pytest.approx(made.pixel_slope(1.0) / 3)
    assert slopes[0] == pytest.approx(slopes[1])
    assert Round(SETUP, RoundRequest("single", "magnified", "shed", 1.4), 4).pixel_slope(1.0) is None
    assert WIDTH_PX * slopes[0] == pytest.approx(36 * 0.7 / 50, rel=0.6)  # about as wide as finders are
