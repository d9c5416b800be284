"""Series of pictures: the ring's best place, and the best stop, planted and found again."""

import cv2
import numpy as np
import pytest

from tests.core.testshot.shots import camera, shot
from welotrope.core.errors import OutOfRangeError
from welotrope.core.testshot.camera import developed, seen_by_sensor
from welotrope.core.testshot.ring_series import RingShot, look, read_ring
from welotrope.core.testshot.sheets import SheetPaper, wall_sheet
from welotrope.core.testshot.stop_series import PictureZone, StopSeries

SIZE = (1500, 1000)
STOPS = (1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0)


def turned(best, count, *, step, sheet=None, **more):
    """Pictures of a sheet while the ring moves the lens by ``step`` windows from place to place."""
    made = {"size_px": SIZE, "focal_mm": 50.0, "stop": 2.0, "distance_mm": 900.0} | more
    f, d = made["focal_mm"], made["distance_mm"]
    window = 2 * made["stop"] * 0.03  # of the lens's travel, total
    pictures = []
    for place in range(count):
        extension = f * f / (d - f) - (place - best) * step * window
        pictures.append(shot(camera(**made, plane_mm=f + f * f / extension - d, seed=place), sheet))
    return pictures


@pytest.mark.parametrize(
    ("best", "sheet", "more"),
    [
        (2.3, "slope", {"slope_deg": 45.0}),
        (3.6, "wall", {"slope_deg": 0.0}),
        (1.8, "wall", {"slope_deg": 0.0, "noise": 8.0}),
    ],
)
def test_the_ring_is_found_within_a_tenth_of_a_window(best, sheet, more):
    step = 0.5
    pictures = turned(best, 6, step=step, sheet=wall_sheet(SheetPaper.A4, 1) if sheet == "wall" else None, **more)
    found = read_ring([10.0 + 3 * place for place in range(6)], [look(one) for one in pictures])
    off = (found.best - (10.0 + 3 * best)) / 3 * step
    assert abs(off) < 0.1
    assert found.low < 10.0 + 3 * best < found.high
    scores = [one.score for one in found.curve]
    assert max(scores) == 1.0
    assert abs(scores.index(1.0) - best) <= 1


def test_a_ring_that_was_not_turned_far_enough_is_told_to_go_on():
    pictures = turned(7.5, 5, step=0.5, sheet=wall_sheet(SheetPaper.A4, 1), slope_deg=0.0)
    found = read_ring(range(5), [look(one) for one in pictures])
    assert found.best is None
    assert "still getting sharper at the last place" in found.warnings[0]


def test_the_same_picture_again_and_again_has_no_best_place():
    power = look(shot(camera(size_px=SIZE, slope_deg=0.0), wall_sheet(SheetPaper.A4, 1))).power
    rng = np.random.default_rng(5)
    found = read_ring(range(6), [RingShot(power=power * rng.normal(1, 0.01, power.shape)) for _ in range(6)])
    assert found.best is None


def test_too_few_places_are_refused_by_name():
    with pytest.raises(OutOfRangeError, match=r"Pictures: read “3”.*too few places"):
        read_ring([1, 2, 2], [RingShot(power=np.ones(8))] * 3)


def scene(seed):
    """A flat subject with detail of every size."""
    rng = np.random.default_rng(seed)
    total = np.zeros((1400, 2100), np.float32)
    for octave in range(8):
        side = 2**octave
        grid = rng.standard_normal((1400 // side + 2, 2100 // side + 2)).astype(np.float32)
        total += cv2.resize(grid, (2100, 1400), interpolation=cv2.INTER_LINEAR) * side**0.3
    return 0.05 + 0.75 * (total - total.min()) / np.ptp(total)


def series(subject, centre, corner, *, noise=3.0, shifts=True):
    """The series of a lens that is best in its middle and corners at those of the stops."""
    found = StopSeries()
    for index, stop in enumerate(STOPS):
        blurs = [
            np.hypot(0.55, (0.5 if index < best else 0.25) * abs(best - index)) for best in (centre, corner)
        ]  # fmt: skip
        made = camera(
            stop=stop,
            size_px=(2100, 1400),
            own_blur_px=blurs[0],
            corner_blur_px=blurs[1],
            noise=noise,
            seed=index,
            white=190 + 8 * index,
        )
        moved = np.roll(subject, (index % 3 - 1, index % 2), axis=(0, 1)) if shifts else subject
        _, data = cv2.imencode(".jpg", developed(seen_by_sensor(moved.astype(np.float32), made), made))
        found.add(cv2.imdecode(data, cv2.IMREAD_GRAYSCALE), stop)
    return found.read()


@pytest.mark.parametrize(("centre", "corner", "noise"), [(2, 4, 2.0), (3, 5, 7.0)])
def test_the_best_stops_are_found_in_the_middle_and_in_the_corners(centre, corner, noise):
    found = series(scene(centre), centre, corner, noise=noise)
    for zone, best in ((PictureZone.CENTRE, centre), (PictureZone.CORNER, corner)):
        scores = found.zones[zone]
        top = [one.stop for one in scores].index(max(scores, key=lambda one: one.score).stop)
        assert abs(top - best) <= 1
        assert max(one.score for one in scores) == 1.0
        assert all(one.low <= one.score <= one.high for one in scores)
    for told, best in ((found.best_centre, centre), (found.best_corner, corner)):
        assert told is None or abs(STOPS.index(told) - best) <= 1
    if noise < 5:
        assert found.best_corner is not None


def test_stops_that_are_alike_are_not_ranked():
    subject = scene(9)
    found = StopSeries()
    for index, stop in enumerate(STOPS[:5]):
        made = camera(stop=stop, size_px=(2100, 1400), noise=4.0, seed=index)
        found.add(developed(seen_by_sensor(subject.astype(np.float32), made), made), stop)
    assert found.read().best_centre is None


def test_a_stop_that_is_there_twice_and_pictures_of_other_sizes_are_named():
    grey = (scene(1) * 255).astype(np.uint8)
    found = StopSeries()
    for stop in (2.0, 2.8, 2.8):
        found.add(grey, stop)
    with pytest.raises(OutOfRangeError, match=r"read “f/2\.8”; that stop is there twice"):
        found.read()
    with pytest.raises(OutOfRangeError, match=r"2100 × 1400 and 2000 × 1400.*different sizes"):
        found.add(grey[:, :2000], 4.0)
    with pytest.raises(OutOfRangeError, match="too few to compare"):
        StopSeries().read()


def soft_series(*, middle_px, corner_px, one_side_px=0.0, side="right", seed=0):
    """A lens that is soft at its widest stops by known blurs (standard deviations), and on one side by more."""
    subject, found = scene(seed), StopSeries()
    aside = np.clip((np.arange(2100) / 2100 - 0.6) / 0.3, 0, 1)[None, :].astype(np.float32)
    aside = aside if side == "right" else aside[:, ::-1]
    for index, stop in enumerate(STOPS):
        left = max(1 - index / 3, 0.0)
        made = camera(
            stop=stop, size_px=(2100, 1400), own_blur_px=np.hypot(0.5, middle_px * left),
            corner_blur_px=np.hypot(0.5, corner_px * left), noise=3.0, seed=index, white=190,
        )  # fmt: skip
        light = seen_by_sensor(subject.astype(np.float32), made)
        if one_side_px * left:
            light = light * (1 - aside) + cv2.GaussianBlur(light, (0, 0), one_side_px * left) * aside
        _, data = cv2.imencode(".jpg", developed(light.astype(np.float32), made))
        found.add(cv2.imdecode(data, cv2.IMREAD_GRAYSCALE), stop)
    return found.read()


@pytest.mark.parametrize(("middle_px", "corner_px"), [(0.0, 1.0), (0.8, 1.5), (1.5, 2.5)])
def test_the_blur_of_the_lens_itself_is_measured_by_zone(middle_px, corner_px):
    found = soft_series(middle_px=middle_px, corner_px=corner_px)
    centre, corner = (found.wide_blur_px[zone] for zone in (PictureZone.CENTRE, PictureZone.CORNER))
    assert centre.value == pytest.approx(4 * middle_px, abs=0.6)  # a disc of variance v is 4√v wide
    assert (centre.low > 0) == (middle_px > 0)
    # The zone of the corners begins before they do, where the blur has grown to two thirds.
    assert 4 * (middle_px + 0.55 * (corner_px - middle_px)) < corner.value < 4 * corner_px + 0.4
    assert found.sides.softer == ""


@pytest.mark.parametrize("side", ["left", "right"])
def test_the_softer_side_is_named(side):
    found = soft_series(middle_px=0.5, corner_px=0.8, one_side_px=1.2, side=side)
    assert found.sides.softer == side
    assert min(found.sides.left, found.sides.right) == getattr(found.sides, side)


def sky(diameter, seed):
    """Sixty stars out of focus by a disc, as JPEG leaves them, and where they are."""
    place = np.random.default_rng(42)
    width, height = 1500, 1000
    at = place.uniform((20, 20), (width - 20, height - 20), (60, 2))
    light = np.zeros((2 * height, 2 * width), np.float32)
    light[(2 * at[:, 1]).astype(int), (2 * at[:, 0]).astype(int)] = 40 * 10 ** place.uniform(0, 1.5, 60)
    side = int(np.ceil(diameter)) * 2 + 3
    y, x = np.mgrid[:side, :side] - side // 2
    disc = np.clip(max(diameter, 0.7) - np.hypot(x, y) + 0.5, 0, 1).astype(np.float32)
    light = cv2.GaussianBlur(cv2.filter2D(light, -1, disc / disc.sum()), (0, 0), 1.6)
    light = 4 * cv2.resize(light, (width, height), interpolation=cv2.INTER_AREA) / 255 + 0.004
    made = camera(size_px=(width, height), seed=seed, noise=3.0, white=225.0)
    return developed(light, made), at


def half_flux_radius(picture, at):
    """The radius that holds half the light of the brightest star, px: what astronomers focus by."""
    light = (picture / 255.0) ** 2.2
    background = float(np.median(light))
    radii = []
    for x, y in at:
        x, y = round(x), round(y)
        window = light[max(y - 15, 0) : y + 16, max(x - 15, 0) : x + 16] - background
        if window.shape != (31, 31):
            continue
        window = np.clip(window, 0, None)
        down, across = np.mgrid[-15:16, -15:16]
        away = np.hypot(across - (across * window).sum() / window.sum(), down - (down * window).sum() / window.sum())
        order = np.argsort(away, axis=None)
        flux = np.cumsum(window.ravel()[order])
        radii.append((window.sum(), away.ravel()[order][np.searchsorted(flux, flux[-1] / 2)]))
    return float(np.median([radius for _, radius in sorted(radii)[-6:]]))


@pytest.mark.parametrize("best", [2.3, 3.6])
def test_stars_are_sharpest_where_their_half_flux_radius_is_least(best):
    pictures = [sky(abs(place - best) * 3.0, place) for place in range(7)]
    found = read_ring(range(7), [look(picture) for picture, _ in pictures])
    assert found.best == pytest.approx(best, abs=0.1)
    assert found.low <= best <= found.high
    assert found.high - found.low < 0.6
    radii = [half_flux_radius(*one) for one in pictures]
    before, after = (np.polyfit(side, [radii[place] for place in side], 1) for side in ((0, 1), (5, 6)))
    crossing = (after[1] - before[1]) / (before[0] - after[0])  # where the two sides of the V meet
    assert found.best == pytest.approx(crossing, abs=0.35)
