"""The finder's pictures measured against the core's formulas."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.finder.measure import (
    LEAD,
    WHOLE,
    F,
    angle_of,
    centre_of_line,
    edge_diameter,
    edge_scene,
    finder,
    light,
    line_scene,
)
from welotrope.core.finder import peaking, prisms
from welotrope.core.finder.aperture import aperture_outline, cut_outline
from welotrope.core.finder.blur import disc
from welotrope.core.finder.canvas import View
from welotrope.core.finder.finder import UNITS_PER_PX, FrameRequest, screen_gain
from welotrope.core.finder.layers import BAND_PX, Composite, Laying, Raster, laid_together
from welotrope.core.finder.light import coded, light_of
from welotrope.core.finder.scene import Layer, PointLight, Scene
from welotrope.core.finder.stage import Focus, Stage
from welotrope.core.kit.aids.confirmation import Confirmation
from welotrope.core.kit.aids.live import LivePicture
from welotrope.core.kit.aids.magnified import MagnifiedView
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.microprism import Microprism
from welotrope.core.kit.aids.rangefinder import RangefinderPatch
from welotrope.core.kit.aids.split_image import SplitImage
from welotrope.core.optics import wedge
from welotrope.core.optics.blur import defocus_blur
from welotrope.core.optics.thin_lens import extension_at_object_distance

ROWS = 2 * BAND_PX + 40


def laid_before(behind, *layings, width=240):
    """Light with layers before it, the first the nearest, band by band."""
    out = np.full((3, ROWS, width), behind, np.float32)
    for top in range(0, ROWS, BAND_PX):
        composite = Composite(*out[0, top : top + BAND_PX].shape)
        for laying in layings:
            laying.under(composite, top, View(width, ROWS, 0.04))
        composite.fill(out[:, top : top + BAND_PX])
        out[:, top : top + BAND_PX] = composite.light
    return out


def spread_edge(diameter, *, roughly, lying=False):
    """A hard edge of a layer, upright or lying, blurred as layers are, over all bands of a picture."""
    pixels = np.zeros((ROWS, 240, 4), np.uint8)
    pixels[(slice(BAND_PX, None), slice(None)) if lying else (slice(None), slice(120, None))] = 230
    pixels[:, :, 3] = 255
    laying = Laying(Raster(pixels, 0, 0), diameter, backdrop=True, roughly=roughly)
    return coded(laid_before(0.0, laying))[:, :, 0]


def test_light_is_where_the_tone_curve_reaches_it_and_comes_back_as_it_was():
    values = np.arange(256, dtype=np.uint8)[None, :, None].repeat(3, 2)
    planes = light_of(values)
    assert planes[0, 0] == pytest.approx(light(np.arange(256)), rel=2e-3, abs=2e-5)
    assert (np.diff(planes[1, 0]) > 0).all()
    assert np.abs(coded(planes)[0, :, 0].astype(int) - np.arange(256)).max() <= 1
    assert (coded(2 * planes[:, :, 250:]) >= 254).all()


@given(st.floats(0.3, 60))
def test_a_disc_spreads_a_hard_edge_by_its_diameter_in_every_band(diameter):
    picture = spread_edge(diameter, roughly=False)
    for row in (0, BAND_PX - 1, BAND_PX, 2 * BAND_PX - 1, ROWS - 1):
        assert edge_diameter(picture[row]) == pytest.approx(diameter, rel=0.05, abs=0.3)


@pytest.mark.parametrize("diameter", [0.1, 2.5, 9.0, 12.0, 30.0, 55.0])
@pytest.mark.parametrize("roughly", [False, True])
def test_no_band_shows_in_an_edge_that_lies_across_it(diameter, roughly):
    """What lies level is blurred as what stands upright, wherever a band ends."""
    upright = spread_edge(diameter, roughly=roughly)[100]
    lying = spread_edge(diameter, roughly=roughly, lying=True)[:, 100]
    assert np.abs(lying[BAND_PX - 80 : BAND_PX + 80].astype(int) - upright[40:200]).max() <= 1
    assert (np.diff(lying.astype(int)) >= 0).all()


@given(st.floats(0.3, 60))
def test_a_rough_disc_is_off_by_a_seventh_at_most(diameter):
    assert edge_diameter(spread_edge(diameter, roughly=True)[100]) == pytest.approx(diameter, rel=1 / 7, abs=0.3)


def test_a_layer_that_covers_a_little_lies_where_it_was_painted_and_lets_the_rest_through():
    """A square of half cover over a band's edge: it takes half the light behind it and adds its own, nothing beside."""
    pixels = np.zeros((40, 40, 4), np.uint8)
    pixels[:] = (*coded(np.full((3, 1, 1), 0.2, np.float32))[0, 0], 128)
    square = Laying(Raster(pixels, 90, BAND_PX - 20), 0.0, backdrop=False, roughly=False)
    out = laid_before(0.5, square)
    assert out[:, BAND_PX - 20 : BAND_PX + 20, 90:130] == pytest.approx(0.5 * (1 - 128 / 255) + 0.2, abs=0.004)
    out[:, BAND_PX - 20 : BAND_PX + 20, 90:130] = 0.5
    assert (out == 0.5).all()


@given(st.floats(0.3, 30))
def test_kernels_keep_the_light_and_are_even(diameter):
    kernel = disc(round(diameter, 2))
    assert kernel.sum() == pytest.approx(1, abs=1e-4)
    assert np.allclose(kernel, kernel.T, atol=1e-6)
    assert np.allclose(kernel, kernel[::-1], atol=1e-6)


@pytest.mark.parametrize("blades", [5, 6, 8])
def test_an_aperture_of_blades_has_the_area_of_its_disc(blades):
    corners = np.array(aperture_outline(blades))
    x, y = corners[:, 0], corners[:, 1]
    area = 0.5 * abs(np.dot(x, np.roll(y, 1)) - np.dot(y, np.roll(x, 1)))
    assert area == pytest.approx(math.pi / 4)


@pytest.mark.parametrize(("off", "way"), [(0.0, 0.0), (0.2, 0.0), (0.45, 0.7), (0.45, 2.9)])
def test_an_aperture_cut_by_a_rim_has_the_area_two_circles_share(off, way):
    """The area of two equal circles' intersection is a textbook one: 2r²·acos(d/2r) - d/2·√(4r²-d²)."""
    corners = np.array(cut_outline(aperture_outline(0), off * math.cos(way), off * math.sin(way)))
    x, y = corners[:, 0], corners[:, 1]
    area = 0.5 * abs(np.dot(x, np.roll(y, 1)) - np.dot(y, np.roll(x, 1)))
    true = 0.5 * math.acos(off) - off / 2 * math.sqrt(1 - off**2)
    assert area == pytest.approx(true, rel=0.02)


@pytest.mark.parametrize("distance", [700.0, 2000.0, 8000.0])
@pytest.mark.parametrize("N", [1.4, 4.0])
def test_blur_of_an_edge_follows_the_formula_over_the_ring(distance, N):
    seen = finder(edge_scene(distance), N, MatteScreen(0.9, 1.0))
    true_x = extension_at_object_distance(distance, F)
    for off in (-12, -6, -2.5, 2.5, 6, 12):
        x = (angle_of(distance) + off) * LEAD / 360
        expected = defocus_blur(true_x, x, F, N) / UNITS_PER_PX
        picture = seen.stage.render(WHOLE, Focus(extension_mm=x, stop=N))
        row = picture[300, 200:700, 1]
        assert edge_diameter(row) == pytest.approx(expected, rel=0.05, abs=0.3)


@pytest.mark.parametrize("step", [3, 6, 12])
def test_blur_of_an_edge_when_magnified(step):
    seen = finder(edge_scene(2000.0), 1.4, MagnifiedView(900, (3, 6, 12)), sensor_px=20_000)
    angle = angle_of(2000) + 1.5
    expected = defocus_blur(extension_at_object_distance(2000.0, F), angle * LEAD / 360, F, 1.4) * 900 * step / 36
    picture = seen.frame(FrameRequest(aid="magnified", angle_deg=angle, step=float(step)))
    near = slice(450 - 3 * step, 450 + 3 * step)  # so near that the fall of light to the corners is nothing
    assert edge_diameter(picture[300, near, 1]) == pytest.approx(expected, rel=0.05, abs=0.3)


def test_a_lens_of_its_own_blur_is_never_sharper():
    stage = Stage(edge_scene(2000.0), F, 1.0)
    x = extension_at_object_distance(2000.0, F)
    assert stage.blur_mm(1, Focus(extension_mm=x, stop=1.4, own_blur_mm=0.2)) == pytest.approx(0.2)
    assert stage.blur_mm(1, Focus(extension_mm=x + 0.3, stop=1.4, own_blur_mm=0.2)) == pytest.approx(
        math.hypot(0.2, 0.3 / 1.4 * F / (F + x)), rel=1e-3
    )


def test_a_screen_shows_no_thinner_depth_than_its_own():
    angle = angle_of(2000) + 10
    wide, own = (
        edge_diameter(
            finder(edge_scene(2000.0), N, MatteScreen(0.9, 2.8)).stage.render(
                WHOLE, Focus(extension_mm=angle * LEAD / 360, stop=N)
            )[300, :, 1]
        )
        for N in (1.4, 2.8)
    )
    assert wide == pytest.approx(2 * own, rel=0.06)
    frames = [
        finder(edge_scene(2000.0), N, MatteScreen(0.9, 2.8)).frame(FrameRequest(aid="matte", angle_deg=angle))
        for N in (1.4, 2.8, 4.0)
    ]
    assert np.array_equal(frames[0], frames[1])
    assert not np.array_equal(frames[1], frames[2])


@pytest.mark.parametrize("off", [-4.0, -1.5, 1.5, 4.0])
@pytest.mark.parametrize("step", [1.0, 3.0])
def test_halves_of_a_split_image_part_by_twice_defocus_times_the_deviation(off, step):
    seen = finder(line_scene(2000.0), 1.4, SplitImage(0.9, 6.5))
    picture = seen.frame(FrameRequest(aid="split_image", angle_deg=angle_of(2000) + off, step=step))[:, :, 1]
    radius = round(prisms.SPLIT_RADIUS * step / UNITS_PER_PX)
    near = slice(450 - radius + 4, 450 + radius - 4)
    upper = picture[300 - radius // 2 : 300 - 3, near]
    lower = picture[300 + 3 : 300 + radius // 2, near]
    expected = 2 * (off * LEAD / 360) * math.tan(math.radians(6.5)) / UNITS_PER_PX * step
    assert abs(centre_of_line(upper) - centre_of_line(lower)) == pytest.approx(abs(expected), abs=0.3)


def test_halves_part_to_opposite_sides_before_and_behind():
    seen = finder(line_scene(2000.0))

    def parted(off):
        picture = seen.frame(FrameRequest(aid="split_image", angle_deg=angle_of(2000) + off, step=3.0))[:, :, 1]
        return centre_of_line(picture[240:296, 350:550]) - centre_of_line(picture[304:360, 350:550])

    assert parted(5) * parted(-5) < 0
    assert abs(parted(0)) < 0.3


def level_scene():
    level = Layer(2000.0, lambda canvas: canvas.line([(-14, 0.4), (14, 0.4)], 0.12, (230, 230, 230)))
    layers = (edge_scene(2000.0).layers[0], level)
    return Scene(name="level", layers=layers, target=1, target_name="the line", target_x=0.0, target_y=0.4)


def test_lines_along_the_split_part_only_when_the_camera_is_turned():
    seen = finder(level_scene())
    held, turned = (
        seen.frame(FrameRequest(aid="split_image", angle_deg=angle_of(2000) + 8, step=3.0, turned=turned))[:, :, 1]
        for turned in (False, True)
    )
    # Held level both halves shift along the line, which therefore stays whole.
    rows = [
        np.average(np.arange(80), weights=np.clip(held[260:340, x].astype(float) - 90, 0, None)) for x in (420, 480)
    ]
    assert abs(rows[0] - rows[1]) < 0.5
    assert abs(centre_of_line(turned[240:290, 350:550]) - centre_of_line(turned[310:360, 350:550])) > 3


def test_level_lines_part_in_a_rangefinder_only_when_the_camera_is_turned():
    seen = finder(level_scene(), 1.4, RangefinderPatch(47, 0.9, 2000))

    def changes(turned):
        off, on = (
            seen.frame(FrameRequest(aid="rangefinder", angle_deg=angle_of(2000) + turn, step=3.0, turned=turned))[
                270:330, 390:510, 1
            ]
            for turn in (20, 0)
        )
        return np.abs(off.astype(float) - on).mean()

    assert changes(False) < 1
    assert changes(True) > 10 * changes(False)


@pytest.mark.parametrize(("N", "dark"), [(2.8, 0.0), (4.0, 0.0), (4.5, 0.42), (5.6, 1.0)])
def test_one_wedge_goes_dark_with_a_slow_lens(N, dark):
    """1/(2·tan 6.5°) is f/4.39, at 1:39 f/4.28; a third of a stop past that it is black."""
    assert wedge.wedge_darkness(6.5, N, m=F / 1950) == pytest.approx(dark, abs=0.02)
    seen = finder(edge_scene(2000.0, dark=200, light=200), N)
    picture = seen.frame(FrameRequest(aid="split_image", angle_deg=angle_of(2000), step=3.0))[:, :, 1].astype(float)
    upper, lower = picture[220:290, 400:500].mean(), picture[310:380, 400:500].mean()
    assert lower / upper == pytest.approx(1 - 0.96 * dark, abs=0.04)


def test_microprism_breaks_an_edge_up_until_it_is_sharp():
    seen = finder(line_scene(2000.0, slope=0.2))
    plain = seen.frame(FrameRequest(aid="matte", angle_deg=angle_of(2000), step=3.0))[220:380, 370:530, 1].astype(float)

    def broken(off):
        shown = seen.frame(FrameRequest(aid="microprism", angle_deg=angle_of(2000) + off, step=3.0))[
            220:380, 370:530, 1
        ].astype(float)
        return np.abs(shown - plain).mean()

    assert broken(0) < 0.2 * broken(6)
    assert broken(-6) == pytest.approx(broken(6), rel=0.35)


def test_collar_splits_within_and_shimmers_around():
    seen = finder(line_scene(2000.0, slope=0.05))
    angle = angle_of(2000) + 6
    collar, split = (
        seen.frame(FrameRequest(aid=aid, angle_deg=angle, step=3.0)).astype(int) for aid in ("collar", "split_image")
    )
    inside, around = np.s_[280:320, 410:490], np.s_[140:160, 380:520]
    assert np.abs(collar[inside] - split[inside]).mean() < 1
    assert np.abs(collar[around] - split[around]).mean() > 1


@pytest.mark.parametrize("ring_mm", [1500.0, 2000.0, 3000.0])
def test_rangefinder_pictures_part_by_the_base_over_the_distance(ring_mm):
    seen = finder(line_scene(2000.0, 0.15), 1.4, RangefinderPatch(47, 0.9, 2000))
    frame = np.full((600, 900, 3), 0, np.uint8)
    view = View(900, 600, UNITS_PER_PX)
    prisms.rangefinder_patch(seen.stage, frame, view, Focus(extension_mm=0.3, stop=128), ring_mm, 47, 0.0)
    patch = frame[270:330, 390:510, 1]
    expected = 47 * (1 / 2000 - 1 / ring_mm) * F / UNITS_PER_PX
    assert centre_of_line(patch) - 59.5 == pytest.approx(expected, abs=0.3)


def test_a_maladjusted_rangefinder_coincides_where_it_says():
    """At 2 m true it coincides with the ring on 2.1 m."""
    seen = finder(line_scene(2000.0, 0.15), 1.4, RangefinderPatch(47, 0.9, 2100))

    def width(mm):
        bright = np.clip(
            seen.frame(FrameRequest(aid="rangefinder", angle_deg=angle_of(mm), step=3.0))[275:325, 380:520, 1].astype(
                float
            )
            - 60,
            0,
            None,
        )
        at = np.arange(140)
        middle = np.average(at, weights=bright.sum(axis=0))
        return math.sqrt(np.average((at - middle) ** 2, weights=bright.sum(axis=0)))

    assert min((2000, 2050, 2100, 2150, 2200), key=width) == 2100


@pytest.mark.parametrize("threshold", [0.05, 0.1, 0.2])
@pytest.mark.parametrize("contrast", [0.5, 0.7])
@pytest.mark.parametrize("dark", [10, 120])
def test_peaking_lights_exactly_where_the_rule_says(dark, contrast, threshold):
    """An edge lights while C/b exceeds the threshold, C in light and b in display pixels."""
    levels = np.arange(256)
    levels = (dark, int(np.abs(light(levels) - light(dark) - contrast).argmin()))
    scene = edge_scene(2000.0, *levels)
    true = light(levels[1]) - light(levels[0])
    turning = true / threshold  # blur at which it goes dark, display pixels of a 900 px display
    # Wide discs are spread in two passes, a little steeper, and eight bits are coarse in bright light.
    for factor, expected in ((0.85, True), (1.3, False)):
        offset = turning * factor * UNITS_PER_PX * 1.4
        x = extension_at_object_distance(2000.0, F)
        picture = finder(scene).stage.render(WHOLE, Focus(extension_mm=x + offset * (F + x) / F, stop=1.4))
        found = peaking.lit(picture, threshold, 1.0)
        assert found[100:500, 300:600].any() == expected, (factor, turning)


def test_peaking_counts_display_pixels_not_ours():
    picture = finder(edge_scene(2000.0)).stage.render(
        WHOLE, Focus(extension_mm=extension_at_object_distance(2000.0, F) + 0.25, stop=1.4)
    )
    fine, coarse = peaking.lit(picture, 0.08, 2.0).sum(), peaking.lit(picture, 0.08, 0.7).sum()
    assert fine < coarse


def test_peaking_is_silent_with_a_soft_lens_and_coloured_as_asked():
    sharp, soft = (finder(edge_scene(2000.0), own_blur_mm=own) for own in (0.0, 0.4))
    look = FrameRequest(aid="peaking", angle_deg=angle_of(2000), threshold=0.1, colour="red")
    assert (sharp.frame(look) == peaking.COLOURS["red"]).all(axis=2).any()
    assert not (soft.frame(look) == peaking.COLOURS["red"]).all(axis=2).any()


def test_a_near_thing_hides_a_light_behind_it():
    lamps = Layer(9000.0, lambda canvas: None, (PointLight(0, 0, 133), PointLight(-8, 0, 133)))
    post = Layer(1000.0, lambda canvas: canvas.box(-3, -14, 6, 28, (20, 20, 20)))
    stage = Stage(
        Scene(
            name="post",
            layers=(edge_scene(1e5, 20, 20).layers[0], lamps, post),
            target=2,
            target_name="post",
            target_x=0,
            target_y=0,
        ),
        F,
        1.0,
    )
    picture = stage.render(WHOLE, Focus(extension_mm=extension_at_object_distance(1000.0, F), stop=1.4))
    assert picture[300, 450].max() < 40
    assert picture[300, 250].max() > 60


def test_lights_take_the_shape_and_size_of_the_aperture():
    lamps = Layer(1e7, lambda canvas: None, (PointLight(0, 0, 133),))
    stage = Stage(
        Scene(
            name="star",
            layers=(edge_scene(1e5, 0, 0).layers[0], lamps),
            target=1,
            target_name="star",
            target_x=0,
            target_y=0,
        ),
        F,
        1.0,
    )
    x = 1.2
    expected = defocus_blur(extension_at_object_distance(1e7, F), x, F, 2.0) / UNITS_PER_PX
    for blades in (0, 6):
        shone = light(stage.render(WHOLE, Focus(extension_mm=x, stop=2.0, blades=blades))[:, :, 1])
        inside = shone > np.median(shone[shone > 0]) / 2
        assert math.sqrt(inside.sum() * 4 / math.pi) == pytest.approx(expected, rel=0.05, abs=0.3)
        y, x_ = np.nonzero(inside)
        corners = np.hypot(y - 299.5, x_ - 449.5).max() / (expected / 2)
        assert corners == pytest.approx(1.1 if blades else 1.0, abs=0.06)


def test_a_star_is_smallest_at_infinity_and_a_mask_centres_its_spike():
    star = Layer(math.inf, lambda canvas: canvas.fill((0, 0, 0)), (PointLight(0, 0, 4.7),), backdrop=True)
    seen = finder(
        Scene(name="star", layers=(star,), target=0, target_name="star", target_x=0, target_y=0),
        sensor_px=6000,
    )

    def lit(angle, mask=False):
        return (seen.frame(FrameRequest(aid="magnified", angle_deg=angle, step=12.0, mask=mask))[:, :, 1] > 40).sum()

    sizes = [lit(angle) for angle in (0, 1, 2, 4)]
    assert sizes == sorted(sizes)
    assert sizes[0] < sizes[-1] / 20
    masked = [
        seen.frame(FrameRequest(aid="magnified", angle_deg=angle, step=12.0, mask=True))[:, :, 1].astype(float)
        for angle in (0.0, 4.0)
    ]
    upright = [np.argmax((picture[180:420] > 60).sum(axis=0)) for picture in masked]
    assert upright[0] == pytest.approx(450, abs=4)
    assert abs(upright[1] - 450) > 25


def test_magnified_view_shows_no_more_pixels_than_the_sensor_has():
    for display_px, expected in ((1280, [900, 900, 500]), (720, [720, 720, 500])):
        made = finder(edge_scene(2000.0), 1.4, MagnifiedView(display_px, (6,)), sensor_px=6000)
        assert [made.shown_px(step, made.seen("magnified")) for step in (1, 6, 12)] == expected


def test_slow_lenses_make_a_screen_dim():
    assert screen_gain(1.0, 2.0) == 1.0
    assert screen_gain(0.3, 8) < screen_gain(0.3, 4) < screen_gain(0.3, 2)
    bright, dim = (
        finder(edge_scene(2000.0, 200, 200), N).frame(FrameRequest(aid="matte", angle_deg=10.0)).mean()
        for N in (2.0, 16.0)
    )
    assert dim < 0.6 * bright


def test_focus_indicator_lights_within_its_band_and_points_outside_it():
    seen = finder(edge_scene(2000.0, 20, 20), 1.4, Confirmation(5.6))
    band = 5.6 * 0.03 * 360 / LEAD
    inside, near, far = (
        seen.frame(FrameRequest(aid="confirmation", angle_deg=angle_of(2000) + off))
        for off in (0.9 * band, 1.6 * band, -1.6 * band)
    )
    middle = np.s_[580:586, 447:453]
    assert inside[middle].max() > 150
    assert near[middle].max() < 150
    left, right = np.s_[576:590, 390:430], np.s_[576:590, 470:510]
    assert near[left].max() > 150 > near[right].max()
    assert far[right].max() > 150 > far[left].max()


def test_the_bar_of_a_live_picture_is_half_as_long_at_a_blur_of_three_of_its_pixels():
    seen = finder(edge_scene(2000.0, 20, 20), 2.0, LivePicture(1920))
    look = FrameRequest(aid="live", angle_deg=angle_of(2000))
    # Blur is as wide as the working stop times the defocus, and the lens draws nearer as it turns.
    off = 3 * seen.pixel_mm(look) * 2.0 * 1.025 * 360 / LEAD
    lengths = []
    for turned in (0.0, off, -off, 4 * off):
        row = seen.frame(replace(look, angle_deg=look.angle_deg + turned))[583, 140:760]
        lengths.append(int((row.max(axis=1) > 150).sum()))
    assert lengths[0] == pytest.approx(600, abs=4)
    assert lengths[1] == pytest.approx(300, abs=20)
    assert lengths[2] == pytest.approx(300, abs=20)
    assert lengths[3] < 15


def lit_shape(x, y, blades):
    """Width and height of what a light far out of focus lights, about the way to the axis and across it, pixels."""
    layer = Layer(math.inf, lambda canvas: canvas.fill((0, 0, 0)), (PointLight(x, y, 1e6),), backdrop=True)
    near = Layer(1500.0, lambda canvas: None)
    scene = Scene(
        name="l", layers=(layer, near), target=1, target_name="", target_x=0.0, target_y=0.0,
    )  # fmt: skip
    focus = Focus(extension_mm=float(extension_at_object_distance(1500.0, 50.0)), stop=1.4, blades=blades, opened=1.0)
    seen = Stage(scene, 50.0, 1.0).render(View(900, 600, 0.04), focus)[:, :, 1] > 127
    rows, columns = np.nonzero(seen)
    away = np.hypot(x, y) or 1.0
    out = (columns * x + rows * y) / away
    across = (columns * -y + rows * x) / away
    return np.ptp(out) if np.hypot(x, y) else np.ptp(columns), np.ptp(across) if np.hypot(x, y) else np.ptp(rows)


def test_wide_open_lights_off_the_axis_are_narrower_towards_it_and_stopped_down_they_are_not():
    along, across = lit_shape(12.0, -8.0, 0)
    assert along < 0.8 * across
    for x, y, blades in ((0.0, 0.0, 0), (12.0, -8.0, 9)):
        along, across = lit_shape(x, y, blades)
        assert along == pytest.approx(across, rel=0.08)


@pytest.mark.parametrize(("opened", "cut"), [(0.5, 1.000), (0.7, 0.821), (1.0, 0.448)])
def test_corners_get_what_light_rims_and_slant_leave(opened, cut):
    """A corner 18 × 12 mm off a 50 mm lens: cos⁴ of 23.4°, and what two rims leave that stand 0.45 of theirs apart.

    The shares were counted by throwing a million points at the aperture.
    """
    stage = Stage(edge_scene(2000.0, dark=180, light=180), F, 1.0)
    focus = Focus(extension_mm=float(extension_at_object_distance(2000.0, F)), stop=2.0, opened=opened)
    picture = light(stage.render(WHOLE, focus)[:, :, 1])
    assert picture[299, 449] == pytest.approx(light(180), rel=0.01)
    assert picture[0, 0] / picture[299, 449] == pytest.approx(math.cos(math.radians(23.4)) ** 4 * cut, rel=0.03)
    assert (stage.render(WHOLE, replace(focus, opened=None)) == 180).all()


def test_corners_darken_about_the_axis_wherever_the_target_is():
    stage = Stage(replace(edge_scene(2000.0, dark=180, light=180), target_x=6.0, target_y=3.0), F, 1.0)
    focus = Focus(extension_mm=float(extension_at_object_distance(2000.0, F)), stop=2.0, opened=1.0, axis=(0.0, 0.0))
    picture = light(stage.render(WHOLE, focus)[:, :, 1])
    assert picture == pytest.approx(picture[::-1, ::-1], abs=0.006)
    aimed = light(stage.render(WHOLE, replace(focus, axis=None))[:, :, 1])
    assert np.unravel_index(aimed.argmax(), aimed.shape) == pytest.approx((375, 600), abs=60)


def test_a_surface_parted_into_layers_has_the_blurred_edge_of_one():
    """Half of what a far layer shows is a near one's too: both end at one edge, which spreads no wider for that."""
    far, near = np.zeros((2, 40, 60, 4), np.uint8)
    far[:] = near[:] = (*coded(np.full((3, 1, 1), 0.2, np.float32))[0, 0], 255)
    near[:] = (*coded(np.full((3, 1, 1), 0.1, np.float32))[0, 0], 128)
    whole, share = (Laying(Raster(pixels, 90, 100), 9.0, backdrop=False, roughly=False) for pixels in (far, near))
    assert laid_before(1.0, share, whole) == pytest.approx(laid_before(1.0, whole), abs=0.004)


def test_layers_laid_together_let_through_what_they_do_not_cover():
    far, near = np.zeros((2, 4, 6, 4), np.uint8)
    far[:] = (*coded(np.array([0.4, 0.2, 0.1], np.float32)[:, None, None])[0, 0], 255)
    near[:] = (*coded(np.array([0.1, 0.1, 0.3], np.float32)[:, None, None])[0, 0], 128)
    both = laid_together([Raster(far, 3, 2), Raster(near, 5, 2)])
    planes = light_of(both.pixels)[:, 1]
    assert planes[:3, 0] == pytest.approx([0.4, 0.2, 0.1], abs=0.004)
    assert planes[:3, 4] == pytest.approx([0.3, 0.2, 0.35], abs=0.006)
    assert (planes[3, :6] == 1).all()


def test_a_lamp_shines_as_far_as_what_is_nearer_lets_it():
    composite = Composite(4, 4)
    composite.under(np.stack([np.full((4, 2), value, np.float32) for value in (0.1, 0.1, 0.1, 0.75)]), 2, 0)
    composite.shine(np.full((3, 4, 4), 2.0, np.float32))
    composite.fill(np.full((3, 4, 4), 1.0, np.float32))
    assert composite.light[:, 0] == pytest.approx(np.tile([3.0, 3.0, 0.85, 0.85], (3, 1)))


@pytest.mark.parametrize("roughly", [False, True])
def test_what_the_frame_cuts_goes_on_there_and_nowhere_else(roughly):
    """A square cut by the lower edge is blurred alike to its left and right, and stays as light at the edge."""
    pixels = np.zeros((47, 58, 4), np.uint8)
    pixels[:] = 255
    square = Laying(Raster(pixels, 83, ROWS - 47), 30.0, backdrop=False, roughly=roughly)
    row = laid_before(0.0, square)[0, -1]
    assert np.average(np.arange(240), weights=row) == pytest.approx(83 + 28.5, abs=0.2)
    assert row.sum() == pytest.approx(58 * float(light(255)), rel=0.02)


@pytest.mark.parametrize("at_mm", [1960.0, 2100.0, 2600.0])
def test_the_picture_grows_as_the_lens_moves_out_by_the_ray_through_its_middle(at_mm):
    """Both edges of a bar, and where straight lines through the middle of the lens lay them on the film."""
    scene, view = line_scene(2000.0, width=24.0), View(900, 600, 0.04)

    def width_px(focus):
        row = light(Stage(scene, F, 1.0).render(view, focus)[300, :, 0].astype(float))
        return ((row - row[:50].mean()) / (row[440:460].mean() - row[:50].mean())).sum()

    focused, x = F * F / (2000.0 - F), F * F / (at_mm - F)
    focus = Focus(extension_mm=x, stop=11.0)
    bar_mm = width_px(focus) * view.units_per_px * 2000.0 / (F + focused)  # 2 m away: a picture unit is a mm of film
    expected = bar_mm * (F + x) / (2000.0 - (x - focused)) / view.units_per_px
    assert abs(expected - width_px(focus)) > 0.3
    assert width_px(replace(focus, breathing=True)) == pytest.approx(expected, abs=0.1)


def test_a_star_is_seen_where_its_place_is_said_to_be_while_the_picture_breathes():
    scene = edge_scene(math.inf, dark=20, light=20, lights=[PointLight(9.0, -5.0, 1.0)])
    stage, view = Stage(scene, F, 1.0), View(900, 600, 0.04)
    focus = Focus(extension_mm=0.6, stop=4.0, blades=6, breathing=True)
    x, y = stage.place(view, focus, 9.0, -5.0)
    picture = light(stage.render(view, focus)[:, :, 1].astype(float))
    lit = np.argwhere(picture > (picture.max() + picture[0, 0]) / 2)
    assert (lit.mean(axis=0)[1], lit.mean(axis=0)[0]) == pytest.approx((x, y), abs=0.5)
    assert x - view.place(9.0, -5.0)[0] > 2


@pytest.mark.parametrize(("extension_mm", "stop"), [(0.0, 2.0), (0.8, 2.0), (0.8, 8.0)])
def test_a_lamp_is_as_wide_as_it_is_and_spread_by_its_blur_and_its_light_stays(extension_mm, stop):
    """The second moment of two discs spread over one another is the sum of theirs."""
    wide, strength, view = 0.4, 20.0, View(900, 600, 0.04)
    scene = edge_scene(math.inf, dark=0, light=0, lights=[PointLight(0.0, 0.0, strength, across=wide)])
    shown = Stage(scene, F, 1.0).render(view, Focus(extension_mm=extension_mm, stop=stop))
    lit = light(shown[270:330, 420:480, 1].astype(float))
    blur = defocus_blur(0.0, extension_mm, F, stop)
    columns = np.arange(420, 480) - 449.5
    across = 4 * math.sqrt((lit.sum(axis=0) * columns**2).sum() / lit.sum())
    assert lit.sum() == pytest.approx(strength, rel=0.03)
    assert across == pytest.approx(math.hypot(wide, blur) / view.units_per_px, rel=0.04)


@pytest.mark.parametrize("aid", ["split_image", "microprism"])
def test_what_prisms_show_grows_with_the_picture_about_them(aid):
    """With next to no deviation a line runs on through the prisms as it does outside them."""
    scene = replace(line_scene(2000.0, width=0.4), target_x=-1.0)
    seen = finder(scene, 4.0, {"split_image": SplitImage, "microprism": Microprism}[aid](0.9, 0.05))
    look = FrameRequest(aid=aid, angle_deg=angle_of(2000.0) + 36)
    rows = seen.frame(look)[:, :, 1].astype(float)
    inside, outside = centre_of_line(rows[280:298]), centre_of_line(rows[60:140])
    assert outside > 474.9  # and 474.5 where it does not grow
    assert inside == pytest.approx(outside, abs=0.2)
