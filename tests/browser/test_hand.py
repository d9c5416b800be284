"""The hand, as a photographer works on it: drills on the phone, and a rangefinder found out, cured and watched."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Site
from tests.browser.test_accessibility import looks_without_contrast, violations
from tests.conftest import RANGEFINDER


@pytest.fixture
def practised_site(practised_folder):
    site = Site(practised_folder)
    yield site
    site.stop()


def sideways(page):
    return page.evaluate("document.documentElement.scrollWidth") > page.viewport_size["width"]


def small_targets(page):
    """Controls in the page's own part that a thumb would miss."""
    return page.evaluate(
        """[...document.querySelectorAll('main form button, main form input:not([type=hidden]), main form select')]
        .filter(one => one.offsetParent && one.getBoundingClientRect().height < 44 && !['radio', 'checkbox'].includes(one.type)
          && !one.classList.contains('btn-quiet')).map(one => one.outerHTML.slice(0, 80))"""
    )


def test_a_tape_drill_on_the_phone(site, open_page):
    page = open_page(site, "/practice/tape", size="phone", look="sun")
    assert not sideways(page)
    page.get_by_role("button", name="Begin").click()
    for size, where in (("0.5", "nearer than the line"), ("0.3", "towards ∞ of the line"), ("0.4", "nearer than the line"),
                        ("0.2", "towards ∞ of the line")):  # fmt: skip
        expect(page.locator("h1")).to_have_text(re.compile("Throw it off (towards ∞|nearer) by about\\s+\\d+\\smm"))
        page.get_by_label(where).check()
        page.get_by_label("by", exact=True).fill(size)
        assert small_targets(page) == []
        page.get_by_role("button", name="Save", exact=True).click()
    expect(page.locator("h2", has_text="Consistent enough for f/")).to_be_visible()
    expect(page.locator(".trials-plot .try")).to_have_count(4)
    assert not sideways(page)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".trials-plot .try")).to_have_count(3)


def test_guessing_on_the_phone_and_without_script(site, open_page):
    for script in (True, False):
        page = open_page(site, "/practice/guess", size="phone", script=script)
        for guess, true in (("2.5", "2.1"), ("1,6 m", "1.4"), ("5ft", "4'6\"")):
            expect(page.locator("h1")).to_contain_text("Choose a subject about")
            page.get_by_label("Estimated distance").fill(guess)
            page.get_by_label("It is", exact=True).fill(true)
            page.get_by_role("button", name="Save", exact=True).click()
        expect(page.locator("h2").first).to_contain_text("You judge")
        assert not sideways(page)
    page.get_by_label("Estimated distance").fill("far")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.locator(".error").first).to_contain_text("not a distance")
    expect(page.get_by_label("Estimated distance")).to_have_value("far")


def test_five_a_day_on_the_phone(site, open_page):
    page = open_page(site, "/practice/daily", size="phone", look="sun")
    page.get_by_role("button", name="Begin").click()
    for verdict in ("hit", "behind", "hit", "hit", "in front"):
        page.get_by_role("button", name=verdict, exact=True).click()
    expect(page.locator("h1")).to_contain_text("Five done")
    assert not sideways(page)


def mark_all(page):
    """Mark every frame of an outing as hit; returns how many there are."""
    rows = page.locator(".frame-row")
    for place in range(rows.count()):
        rows.nth(place).get_by_role("button", name=re.compile("^hit")).click()
        expect(rows.nth(place).locator("[aria-pressed=true]")).to_have_count(1)
    return rows.count()


def test_a_rangefinder_is_found_out_cured_and_watched(practised_site, open_page):
    """Diagnosed, a test of it taken along and marked, the repairer's work noted, and frames since say it worked."""
    page = open_page(practised_site, "/log")
    page.request.post(
        f"{practised_site.url}/in-hand", form={"setup": str(RANGEFINDER)}, headers={"origin": practised_site.url}
    )
    page.goto(f"{practised_site.url}/log/why")
    expect(page.locator("h1")).to_contain_text("The rangefinder is misaligned: focus is")
    page.get_by_placeholder("what was done").fill("set by a repairer")
    page.get_by_role("button", name="Watch from now on").click()
    expect(page.locator(".watched")).to_contain_text("Not told yet.")
    # Nothing was judged since: the test that would tell is offered, and becomes an outing of frames to be marked.
    for stop in (2, 2.8, 2, 4):
        page.request.post(
            f"{practised_site.url}/log/frames", form={"at": "2 m", "stop": str(stop), "aid": "rangefinder",
                                                      "taken_at": "2026-03-15T10:31"},
            headers={"origin": practised_site.url},
        )  # fmt: skip
    page.goto(f"{practised_site.url}/log")
    mark_all(page)
    page.goto(f"{practised_site.url}/log/why")
    expect(page.locator("h1")).to_contain_text("Not enough data yet")
    page.get_by_role("button", name="Save as a test outing").click()
    expect(page.locator("h1")).to_contain_text("Test: Aldermoor 50")
    assert mark_all(page) >= 2
    page.goto(f"{practised_site.url}/log/why")
    expect(page.locator(".watched")).to_contain_text("It worked.")
    expect(page.locator("h1")).to_contain_text("on target")


def test_my_hand_by_keyboard_and_in_feet(practised_site, open_page):
    page = open_page(practised_site, "/practice/hand")
    expect(page.locator("h1")).to_contain_text("2.00 m")
    page.keyboard.press("u")
    expect(page.locator("h1")).to_contain_text("′")
    page.get_by_role("link", name="Show the average photographer").click()
    expect(page.locator("body")).to_contain_text("What the average eye would do")


def test_axe_finds_nothing_on_the_pages_of_the_hand_and_they_fit(practised_site, open_page):
    page = open_page(practised_site, "/help")
    page.request.post(
        f"{practised_site.url}/in-hand", form={"setup": str(RANGEFINDER)}, headers={"origin": practised_site.url}
    )
    found = []
    session = "session=demo-tape-2&aid=split_image&stop=1.4&distance=2m"
    for path in ("/log/why", "/practice/hand", f"/practice/tape?{session}", "/practice/guess", "/practice/daily", "/practice/lean",
                 "/practice/reaction"):  # fmt: skip
        page.goto(path)
        found += violations(page, path)
        found += looks_without_contrast(page, path) if path in ("/log/why", "/practice/hand") else []
        for width in (320, 640):
            page.set_viewport_size({"width": width, "height": 800})
            found += [f"{path} scrolls at {width}"] if sideways(page) else []
        page.set_viewport_size({"width": 1280, "height": 800})
    assert not found, "\n".join(found)
