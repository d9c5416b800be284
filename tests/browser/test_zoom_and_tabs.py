"""A zoom in hand, planned at three focal lengths, and two tabs that hold different set-ups."""

import re

from playwright.sync_api import expect


def _take(page, words):
    page.keyboard.press("k")
    page.locator("dialog").get_by_role("button", name=words).click()
    expect(page.locator(".bar")).to_contain_text(words)


def _exact_stop(page):
    return float(re.search(r"f/(\d+(?:\.\d+)?)", page.locator("h1").inner_text())[1])


def test_a_zone_is_planned_at_three_focal_lengths_of_a_zoom(open_page, site):
    page = open_page(site, "/plan?name=near&distance=3+m&name=far&distance=5+m")
    _take(page, "Lindmere 35–70")
    expect(page.locator(".zoom [aria-current]")).to_have_text("70")
    asked = {}
    for focal in ("70", "35", "50"):
        expect(page.locator(".zoom [aria-current]")).to_have_text(focal)
        assert f"zoom={focal}" in page.url
        asked[focal] = _exact_stop(page)
        page.keyboard.press("z")
        page.wait_for_load_state()
        expect(page.locator("html")).not_to_have_attribute("data-zoom", focal)
    assert asked["35"] <= asked["50"] <= asked["70"]
    assert asked["35"] < asked["70"]
    page.get_by_role("link", name="Aids", exact=True).click()
    expect(page.locator(".zoom [aria-current]")).to_have_text("70")
    page.locator(".zoom").get_by_role("button", name="35").click()
    expect(page.locator("[data-rule=focus-then-zoom]")).to_contain_text("Focus at 70 mm, then zoom to 35 mm")


def test_the_ring_keeps_its_distances_when_it_is_zoomed_and_the_window_widens(open_page, site):
    window = {}
    for focal in ("70", "35"):
        page = open_page(site, f"/scale?at=3m&stop=5.6&setup=7&zoom={focal}")
        page.keyboard.press("0")
        expect(page.locator("h1")).to_contain_text("∞")
        page.goto(f"/scale?at=3m&stop=5.6&setup=7&zoom={focal}")
        window[focal] = float(re.search(r"([\d.]+)°", page.locator("[data-out=window-deg]").first.inner_text())[1])
    assert 3.5 < window["35"] / window["70"] < 4.5


def test_two_tabs_hold_their_own_set_ups(open_page, site):
    page = open_page(site)
    page.wait_for_url("**setup=1**")
    other = page.context.new_page()
    other.goto("/scale")
    _take(other, "Velloise 20")
    assert "setup=2" in other.url
    for tab, lens in ((page, "Norrvik 50"), (other, "Velloise 20")):
        tab.get_by_role("link", name="Plan", exact=True).click()
        expect(tab.locator(".bar")).to_contain_text(lens)
        tab.get_by_role("link", name="Log", exact=True).click()
        tab.get_by_role("link", name=re.compile("Log a frame|New frame")).first.click()
        tab.get_by_label("Set distance").fill("2 m")
        tab.get_by_role("button", name="Save frame").click()
        expect(tab.get_by_role("status")).to_contain_text(f"Logged {lens}")
        expect(tab.locator(".bar")).to_contain_text(lens)
    with page.context.expect_page() as opened:
        page.get_by_role("link", name="Scale", exact=True).click(modifiers=["Control"])
    expect(opened.value.locator(".bar")).to_contain_text("Norrvik 50")
    other.reload()
    expect(other.locator(".bar")).to_contain_text("Velloise 20")


def test_an_address_whose_set_up_is_gone_says_so(open_page, site):
    page = open_page(site, "/scale?setup=99")
    expect(page.locator(".bar")).to_contain_text("is gone")
    expect(page.locator(".bar")).to_contain_text("Norrvik 50")
    page.get_by_role("link", name="Plan", exact=True).click()
    expect(page.locator(".bar")).not_to_contain_text("is gone")
