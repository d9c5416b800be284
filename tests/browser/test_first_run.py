"""The first minute: what one looks through, a handful of values, and a ring setting for two distances."""

import re
import time

import pytest
from playwright.sync_api import expect

from welotrope.core.kit.camera_kind import CAMERA_KINDS, ScaleShown


@pytest.mark.parametrize("kind", CAMERA_KINDS, ids=lambda kind: kind.id)
def test_a_setting_within_a_minute_and_eight_values_and_a_second_lens_within_six(empty_site, open_page, kind):
    page = open_page(empty_site, "/")
    begun, given = time.monotonic(), 0

    def fill(label, text):
        nonlocal given
        given += 1
        page.get_by_label(label, exact=True).fill(text)

    page.locator(".finder-choice", has_text=kind.label).click()
    given += 1
    expect(page.locator("#f-prisms")).to_be_visible(visible=kind.has_screen)
    expect(page.locator("#f-megapixels")).to_be_visible(visible="digital" in kind.media)
    fill("Focal length mm", "50")
    fill("Widest aperture", "2")
    page.locator("#f-nearest").fill("0.5 m")
    page.locator("#f-near").fill("2 m")
    page.locator("#f-far").fill("4 m")
    given += 3
    page.get_by_role("button", name="Show the setting").click()
    begins = "Index on" if kind.scale is ScaleShown.RING else "Focus at"
    expect(page.locator("h1")).to_contain_text(re.compile(rf"{begins}\s+2\.6\d\s*m"))
    assert given <= 8
    assert time.monotonic() - begun < 60
    if not kind.has_mount:
        return
    page.goto("/kit")
    page.get_by_role("link", name="Add a lens").click()
    given = 0
    expect(page.locator("#f-body option:checked")).to_contain_text("My")  # the camera at hand
    fill("Focal length mm", "28")
    fill("Widest aperture", "2.8")
    page.locator("#f-joined").select_option("made")
    given += 1
    page.get_by_role("button", name="Add and select it").click()
    expect(page.locator("header.bar")).to_contain_text("My 28 mm")
    assert given <= 6


def test_what_is_missing_is_said_and_what_was_typed_stays(empty_site, open_page):
    page = open_page(empty_site, "/")
    page.get_by_label("Focal length mm").fill("50")
    page.get_by_role("button", name="Show the setting").click()
    expect(page.locator(".error").first).to_be_visible()
    expect(page.get_by_label("Focal length mm")).to_have_value("50")
    page.get_by_role("link", name="Enter every field instead").click()
    expect(page.locator("h1")).to_have_text("Which body do you put the lens on?")


def test_how_to_find_it_is_folded_away_at_its_field(site, open_page):
    page = open_page(site, "/kit/lenses/new")
    how = page.locator(".field", has=page.locator("#f-throw")).locator("details")
    how.locator("summary").click()
    expect(how.locator("svg.finding")).to_be_visible()
    expect(how).to_contain_text("pencil tick")


def test_instruments_are_explained_once_and_found_again(site, open_page):
    page = open_page(site, "/scale", newcomer=True)
    expect(page.locator(".first-sight")).to_contain_text("the triangle is the index")
    page.get_by_role("button", name="Got it").click()
    expect(page.locator(".first-sight")).to_have_count(0)
    page.goto("/scale?at=3m")
    expect(page.locator(".first-sight")).to_have_count(0)
    page.goto("/help")
    page.locator("main").get_by_role("link", name="Plan", exact=True).click()
    expect(page.get_by_role("heading", name="Pre-focus and wait")).to_be_visible()
    page.keyboard.press("/")
    page.locator("dialog #filter").fill("infinity on")
    page.locator("dialog").get_by_role("link", name="Hyperfocal: infinity on the far mark").click()
    page.wait_for_url("**/help/scale?*#1")
