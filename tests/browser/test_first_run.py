"""The first minute: what one looks through, a handful of values, and a ring setting for two distances."""

import re
import time

import pytest
from playwright.sync_api import expect

from welotrope.core.kit.first_kit import FINDERS


@pytest.mark.parametrize("looks", [FINDERS[1], FINDERS[4], FINDERS[5], FINDERS[6]], ids=lambda looks: looks.id)
def test_a_ring_setting_within_a_minute_and_eight_typed_values(empty_site, open_page, looks):
    page = open_page(empty_site, "/")
    begun, typed = time.monotonic(), 0

    def fill(label, text):
        nonlocal typed
        typed += 1
        page.get_by_label(label).fill(text)

    page.locator(".finder-choice", has_text=looks.label).click()
    if not looks.film:
        fill("Megapixels", "24")
    fill("Focal length", "50")
    fill("Widest stop", "2")
    fill("Nearest distance on it", "0.5 m")
    page.get_by_label("From ∞ to its nearest the ring turns").select_option("half")
    fill("The nearest", "2 m")
    fill("and the farthest", "4 m")
    page.get_by_role("button", name="Show me the ring").click()
    expect(page.locator("h1")).to_contain_text(re.compile(r"Index on 2\.6\d\s*m"))
    assert typed <= 8
    assert time.monotonic() - begun < 60
    page.goto("/aids")
    if looks.aids:
        expect(page.get_by_text("typical values")).to_be_visible()
        page.get_by_role("link", name="Put in your own").click()
        expect(page.get_by_text("Typical values, not measured")).to_be_visible()
        page.get_by_text("Typical values, not measured").locator("..").get_by_role(
            "checkbox", checked=True
        ).first.uncheck()
        page.get_by_role("button", name="Save").click()
    page.goto("/kit")
    expect(page.get_by_text("180° by eye")).to_be_visible()


def test_what_is_missing_is_said_and_what_was_typed_stays(empty_site, open_page):
    page = open_page(empty_site, "/")
    page.get_by_label("Focal length").fill("50")
    page.get_by_role("button", name="Show me the ring").click()
    expect(page.locator(".error").first).to_be_visible()
    expect(page.get_by_label("Focal length")).to_have_value("50")
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
    expect(page.get_by_role("heading", name="Trap, never chase")).to_be_visible()
    page.keyboard.press("/")
    page.locator("dialog #filter").fill("infinity on")
    page.locator("dialog").get_by_role("link", name="Infinity on the far mark").click()
    page.wait_for_url("**/help/scale?*#1")
