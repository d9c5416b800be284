"""Each series as a photographer takes it: a camera that writes into a watched folder, to what it fills in."""

import re

import cv2
import numpy as np
import pytest
from playwright.sync_api import expect

from tests.browser.waiting import until
from tests.core.testshot.facing_scenes import wall_camera, wall_picture
from tests.core.testshot.shots import camera, shot

pytestmark = pytest.mark.browser
SIZE = (1600, 1067)


def slope(plane_mm, stop, seed):
    return shot(camera(plane_mm=plane_mm, stop=stop, size_px=SIZE, seed=seed))


def flat(blur_px, seed):
    """A flat subject full of detail, blurred."""
    random = np.random.default_rng(2)
    subject = cv2.GaussianBlur(random.integers(0, 255, (700, 900)).astype(np.float32), (0, 0), 1.2)
    subject = 40 + 170 * (subject - subject.min()) / np.ptp(subject)
    noise = np.random.default_rng(seed).normal(0, 2, subject.shape)
    return np.clip(cv2.GaussianBlur(subject, (0, 0), blur_px) + noise, 0, 255).astype(np.uint8)


def start(page, kind, folder, **typed):
    page.get_by_role("navigation", name="Kinds of series").get_by_role("link", name=kind).click()
    for label, text in typed.items():
        page.get_by_label(re.compile(label)).fill(text)
    page.get_by_label("Or a folder the camera writes into").fill(str(folder))
    page.get_by_role("button", name="Watch the folder").click()


def take(page, folder, pictures):
    """Write each picture once the page asks for it."""
    for number, (picture, asked) in enumerate(pictures, start=1):
        expect(page.locator("h1")).to_contain_text(f"Picture {number} of {len(pictures)}")
        expect(page.locator("h1")).to_contain_text(asked)
        (folder / f"IMG_{number:04d}.jpg").write_bytes(cv2.imencode(".jpg", picture)[1].tobytes())


def test_focus_shift_goes_from_the_folder_into_scale(site, open_page, tmp_path):
    page = open_page(site, "/shots/series?setup=1")
    start(page, "How focus moves with the stop", tmp_path, Stops="1.4 2.8")
    take(page, tmp_path, [(slope(0.0, 1.4, 1), "f/1.4"), (slope(6.0, 2.8, 2), "f/2.8")])
    expect(page.locator("h1")).to_contain_text("Stopped down to f/2.8, focus moves")
    moved = float(re.search(r"moves ([\d.]+)\smm back", page.locator("h1").inner_text())[1])
    assert moved == pytest.approx(6.0, abs=0.8)
    page.get_by_role("button", name="Save as the focus shift of this lens").click()
    expect(page.locator("h1")).to_contain_text(re.compile(r"Turn [\d.]+° nearer at f/2.8"))
    expect(page.get_by_role("button", name="Undo")).to_be_visible()


def test_a_series_ends_by_itself_once_more_pictures_would_change_nothing(site, open_page, tmp_path):
    page = open_page(site, "/shots/series?setup=1")
    start(page, "How focus moves with the stop", tmp_path, Stops="1.4 2 2.8 4 5.6")
    for number, stop in enumerate((1.4, 2.0, 2.8), start=1):
        expect(page.locator("h1")).to_contain_text(f"Picture {number} of 5")
        picture = cv2.imencode(".jpg", slope(1.0, stop, number))[1].tobytes()
        (tmp_path / f"IMG_{number:04d}.jpg").write_bytes(picture)
    expect(page.locator("h1")).to_contain_text("No focus shift")
    expect(page.locator("main")).to_contain_text("in 3 pictures")


def test_the_sharpest_stop_goes_into_the_lens(site, open_page, tmp_path):
    page = open_page(site, "/shots/series?setup=1")
    start(page, "Which stop is sharpest", tmp_path, Stops="2 4 8")
    take(page, tmp_path, [(flat(2.0, 1), "f/2"), (flat(0.4, 2), "f/4"), (flat(1.6, 3), "f/8")])
    expect(page.locator("h1")).to_contain_text("Sharpest at f/4 in the centre")
    page.get_by_role("button", name="Save with the lens").click()
    expect(page.get_by_label("Sharpest in the middle at")).to_have_value("4")


def test_infinity_is_found_by_turning_the_ring(site, open_page, tmp_path):
    page = open_page(site, "/shots/series?setup=1")
    page.get_by_role("navigation", name="Kinds of series").get_by_role(
        "link", name="Where the ring is sharpest"
    ).click()
    page.get_by_label(re.compile("Degrees of ring")).check()
    page.get_by_label(re.compile("The subject is at infinity")).check()
    page.get_by_label(re.compile("Readings")).fill("0 1 2 3")
    page.get_by_label("Or a folder the camera writes into").fill(str(tmp_path))
    page.get_by_role("button", name="Watch the folder").click()
    take(page, tmp_path, [(flat(abs(1.4 - at) * 2 + 0.3, at + 1), f"{at}") for at in range(4)])
    expect(page.locator("h1")).to_contain_text(re.compile(r"Sharpest at 1\.\d+° on the ring"))
    page.get_by_role("button", name="Add to the sightings of infinity").click()
    expect(page).to_have_url(re.compile("/scale/infinity"))
    assert any(one.startswith("1.") for one in (box.input_value() for box in page.locator("[name=angle]").all()))


def test_a_lens_that_stands_askew_is_found(site, open_page, tmp_path):
    page = open_page(site, "/shots/series?setup=1")
    start(page, "Whether the lens stands straight", tmp_path, **{"Stop of all pictures": "2"})
    pictures = [
        (wall_picture(wall_camera(farther=farther, film_tilt=0.3)), f"focused {'farther' if farther else 'nearer'}")
        for farther in (False, True)
    ]
    take(page, tmp_path, pictures)
    expect(page.locator("h1")).to_contain_text(re.compile(r"askew to the film by 0\.(2[5-9]|3[0-5])°"))
    expect(page.locator("main")).to_contain_text("nearer to the film on its left")
    scale = open_page(site, "/scale?setup=1")
    expect(scale.get_by_role("region", name="Measured by test shots")).to_contain_text("The lens stands askew")


def test_a_picture_that_cannot_be_read_is_left_out_and_said(site, open_page, tmp_path):
    page = open_page(site, "/shots/series?setup=1")
    start(page, "Which stop is sharpest", tmp_path, Stops="2 4 8")
    expect(page.locator("h1")).to_contain_text("Picture 1 of 3")
    (tmp_path / "broken.jpg").write_bytes(b"\xff\xd8 nothing")
    expect(page.locator(".error")).to_contain_text("broken.jpg was left out")
    expect(page.locator("h1")).to_contain_text("Picture 1 of 3")
    page.get_by_role("button", name="Stop watching").click()
    expect(page.get_by_role("button", name="Watch the folder")).to_be_visible()


def test_a_tone_is_chosen_once_and_sounds_with_each_new_picture(site, open_page, tmp_path):
    page = open_page(site, "/shots/series?setup=1")
    page.add_init_script(
        "window.sounded = []; const make = window.OscillatorNode;"
        "window.OscillatorNode = function (...given) { window.sounded.push(given[1].frequency); return new make(...given); };"
    )
    start(page, "Which stop is sharpest", tmp_path, Stops="2 4 8")
    page.get_by_label("Tone").check()
    until(page, lambda: page.evaluate("window.sounded.length") == 2)
    (tmp_path / "IMG_0001.jpg").write_bytes(cv2.imencode(".jpg", flat(2.0, 1))[1].tobytes())
    until(page, lambda: page.evaluate("window.sounded.length") == 4)
    expect(page.get_by_label("Tone")).to_be_checked()
    (tmp_path / "broken.jpg").write_bytes(b"\xff\xd8 nothing")
    expect(page.locator(".error")).to_contain_text("left out")
    assert page.evaluate("window.sounded") == [660, 880, 660, 880]


def test_a_tone_chosen_before_its_script_has_come_is_kept(site, open_page, tmp_path):
    page = open_page(site, "/shots/series?setup=1")
    held = []
    page.route("**/script/cue.js*", lambda route: held.append(route))
    start(page, "Which stop is sharpest", tmp_path, Stops="2 4 8")
    page.get_by_label("Tone").check()
    until(page, lambda: held)
    for route in held:
        route.continue_()
    until(page, lambda: page.evaluate("sessionStorage.getItem('welotrope-cue')") == "tone")
