"""Test shots as a photographer takes them: a camera that writes into a folder, and what the pages say afterwards."""

import re

import cv2
import pytest
from playwright.sync_api import expect

from tests.core.testshot.shots import camera, shot

pytestmark = pytest.mark.browser
REFLEX = 4  # key of a set-up of the demo that is focused on a screen


def take(folder, number, plane_mm, *, stop, size_px=(1800, 1200)):
    """The simulated camera writes a picture; the half-written file comes first."""
    made = camera(plane_mm=plane_mm, stop=stop, size_px=size_px, seed=number)
    data = cv2.imencode(".jpg", shot(made))[1].tobytes()
    path = folder / f"IMG_{number:04d}.jpg"
    path.write_bytes(data[: len(data) // 2])
    path.write_bytes(data)


def test_a_series_through_a_watched_folder_changes_the_advice(site, open_page, tmp_path):
    page = open_page(site, f"/shots?setup={REFLEX}")
    expect(page.locator("h1")).to_contain_text("Three to ten pictures of the printed sheet tell")
    page.get_by_label("Focused with").select_option(label="Split image")
    page.get_by_label("Stop of the picture").fill("1.4")
    page.get_by_label("Or a folder the camera writes into").fill(str(tmp_path))
    page.get_by_role("button", name="Watch the folder").click()
    expect(page.get_by_text("each new picture is measured as it lands")).to_be_visible()
    for number, plane in enumerate((9.0, 8.2, 9.6), start=1):
        take(tmp_path, number, plane, stop=1.4)
        expect(page.locator(".shot-figure")).to_contain_text(f"Picture {number}: IMG_000{number}.jpg")
        large = float(re.search(r"([+−-][\d.]+)", page.locator(".shot-large").inner_text())[1])
        assert large == pytest.approx(plane, abs=1.0)
    expect(page.locator("h1")).to_contain_text("With the split image focus falls")
    expect(page.get_by_text("Most likely the ground glass does not stand as far from the lens")).to_be_visible()
    page.get_by_role("button", name="Stop watching").click()
    expect(page.get_by_role("button", name="Watch the folder")).to_be_visible()
    hand = open_page(site, f"/practice/hand?setup={REFLEX}")
    expect(hand.locator("main")).to_contain_text("3 test shots")
    why = open_page(site, f"/log/why?setup={REFLEX}")
    expect(why.locator("main")).to_contain_text("With 3 test shots, measured in the picture")
    page.get_by_role("button", name="Delete this series").click()
    expect(page.get_by_role("button", name="Undo")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("main")).to_contain_text("3 pictures")


def test_a_picture_chosen_on_a_phone_sized_page_is_measured(site, open_page, tmp_path):
    take(tmp_path, 1, 5.0, stop=1.4, size_px=(1600, 1200))
    page = open_page(site, "/shots", size="phone")
    page.get_by_label("Stop of the picture").fill("1.4")
    page.locator("#drop input").set_input_files(tmp_path / "IMG_0001.jpg")
    page.get_by_role("link", name="See what came of it").click()
    expect(page.locator(".shot-large")).to_contain_text(re.compile(r"\+[45]\.\d"))
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    picture, line = page.locator(".shot-picture img").bounding_box(), page.locator(".shot-picture line").bounding_box()
    # The plane lies behind the mark, which is in the middle: higher up in the picture, by as much as the lens shows.
    middle = picture["y"] + picture["height"] / 2
    assert picture["height"] == pytest.approx(picture["width"] * 3 / 4, rel=0.01)
    assert 0.5 < (middle - line["y"]) / picture["height"] * 100 < 2.5
    assert line["width"] > picture["width"] / 4


def test_the_sheet_that_is_printed_comes_as_a_file(site, open_page):
    page = open_page(site, "/shots/sheets")
    with page.expect_download() as got:
        page.get_by_role("link", name="Slope sheet, A4").click()
    assert got.value.suggested_filename == "welotrope-slope-a4.pdf"
