"""Rounds played as a photographer plays them: by keys, by pointer, by touch; and their results found again."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.waiting import until


def begin(page, site, **order):
    form = {"exercise": "single", "aid": "magnified", "scene": "shed", "stop": "1.4"} | order
    answer = page.request.post("/practice/rounds", form=form, headers={"origin": site.url})
    page.goto(answer.url)
    page.wait_for_selector("#finder[data-ready=yes]")
    return answer.url


def shown(page):
    return page.evaluate(
        "(() => { const c = document.querySelector('canvas'); const d = c.getContext('2d').getImageData(0, 0, 900, 600).data;"
        " let s = 0; for (let i = 0; i < d.length; i += 16) s = (s * 31 + d[i]) % 1000003; return s; })()"
    )


def frames(page):
    return int(page.locator("#finder").get_attribute("data-frames"))


def released(page):
    page.wait_for_url("**/practice/trials/*")
    expect(page.locator("h1")).to_contain_text(re.compile("Sharp|Behind|In front"))
    for picture in page.locator(".trial img").all():
        assert picture.evaluate("(i) => i.decode().then(() => i.naturalWidth)") == 720


def kept(page):
    """Released far off: whether that was meant is asked, where it looks like a slip."""
    ask = page.get_by_role("button", name="Yes, keep it")
    until(page, lambda: ask.is_visible() or "/trials/" in page.url)
    if ask.is_visible():
        ask.click()
    released(page)


def test_by_keys_through_the_room(site, open_page):
    page = open_page(site, "/practice")
    page.request.post("/in-hand", form={"setup": "4"}, headers={"origin": site.url})
    page.goto("/practice")
    old = page.locator("#aid").element_handle()
    page.get_by_label("From infinity and back").check()
    until(page, lambda: not old.evaluate("(element) => element.isConnected"))  # the aids of the exercise are there
    page.get_by_label("Aid", exact=True).select_option("split_image")
    page.get_by_label("Scene").select_option("shed")
    page.get_by_role("button", name="Begin").click()
    page.wait_for_selector("#finder[data-warm=yes]")
    before, count = shown(page), frames(page)
    for _ in range(10):
        page.keyboard.press("Shift+ArrowLeft")
    until(page, lambda: frames(page) > count + 1)
    assert shown(page) != before
    value = float(page.locator(".finder-strip").get_attribute("aria-valuenow"))
    page.keyboard.press("ArrowRight")
    assert float(page.locator(".finder-strip").get_attribute("aria-valuenow")) < value
    page.keyboard.press("r")
    page.keyboard.press("m")
    page.keyboard.press("Space")
    released(page)
    assert page.locator(".path-plot polyline").count() == 2  # as it was turned, and as it would best have been
    result = page.url
    page.goto("/practice")
    expect(page.locator("[data-aid=split_image] td").nth(1)).to_have_text("12")
    page.locator("section a[href^='/practice/trials/']").first.click()
    page.wait_for_url(result)


def test_by_pointer_with_the_magnifier(site, open_page):
    page = open_page(site, "/practice")
    url = begin(page, site)
    page.get_by_role("button", name="6×").click()
    expect(page.get_by_role("button", name="6×")).to_have_attribute("aria-pressed", "true")
    box = page.locator("canvas").bounding_box()
    count = frames(page)
    page.mouse.move(box["x"] + 500, box["y"] + 200)
    page.mouse.down()
    # One way and then the other: the round may begin with the ring at either stop.
    page.mouse.move(box["x"] + 300, box["y"] + 200, steps=15)
    page.mouse.move(box["x"] + 700, box["y"] + 200, steps=30)
    page.mouse.up()
    until(page, lambda: frames(page) > count + 1)
    page.mouse.wheel(0, 300)
    page.locator("canvas").dblclick(position={"x": 300, "y": 200})
    page.get_by_role("button", name="Release").click()
    released(page)
    page.go_back()
    page.wait_for_url("**/practice/trials/*")  # an answered round leads to its result again
    assert page.locator("h1").count() == 1
    assert url.rsplit("/", 1)[1] not in page.url


def test_by_touch_on_a_phone_with_peaking(site, open_page):
    page = open_page(site, "/practice", size="phone")
    begin(page, site, aid="peaking", scene="plank", stop="16")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.wait_for_selector("#finder[data-warm=yes]")
    before = shown(page)
    page.get_by_role("button", name="high").click()
    expect(page.get_by_role("button", name="high")).to_have_attribute("aria-pressed", "true")
    until(page, lambda: shown(page) != before)
    strip = page.locator(".finder-strip").bounding_box()
    page.touchscreen.tap(strip["x"] + 100, strip["y"] + 10)
    page.get_by_role("button", name="Release").tap()
    expect(page.get_by_role("alertdialog")).to_contain_text(
        re.compile("(ring untouched|a second of the start).*Keep this round anyway")
    )
    page.get_by_role("button", name="No, go on").tap()
    expect(page.get_by_role("alertdialog")).to_be_hidden()
    page.get_by_role("button", name="Release").tap()
    page.get_by_role("button", name="Yes, keep it").tap()
    released(page)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_the_boat_is_trapped(site, open_page):
    page = open_page(site, "/practice")
    begin(page, site, exercise="trap", aid="matte", scene="boat", stop="5.6")
    count = frames(page)
    page.keyboard.press("Space")
    until(page, lambda: frames(page) > count + 8)
    page.keyboard.press("Space")
    released(page)
    assert page.locator(".path-plot").count() == 0


def test_a_walker_is_met_with_a_burst(site, open_page):
    page = open_page(site, "/practice")
    begin(page, site, exercise="walker", aid="matte", scene="figurehead", stop="2.8")
    expect(page.get_by_role("button", name="Start the walk")).to_be_visible()
    count = frames(page)
    page.keyboard.press("Space")
    until(page, lambda: frames(page) > count + 12)
    page.keyboard.press("Space")
    released(page)
    burst = page.get_by_text("frames of the burst")
    blurs = [float(found) for found in re.findall(r"\d+\.\d{3}", burst.inner_text())]
    assert len(blurs) > 3
    assert float(burst.locator("strong").inner_text().split()[0]) == min(blurs)


def test_a_sitter_who_sways_is_followed_with_the_ring(site, open_page):
    page = open_page(site, "/practice")
    begin(page, site, exercise="sway", aid="magnified", scene="sitter")
    expect(page.get_by_role("button", name="Begin")).to_be_visible()
    assert "The ring stays" not in page.locator("main").inner_text()
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Release")).to_be_visible()
    count = frames(page)
    with page.expect_request(lambda request: re.search(r"frame\?i=(?!0&)\d+&t=(?!0\.000)", request.url)):
        for _ in range(6):
            page.keyboard.press("Shift+ArrowLeft")
    until(page, lambda: frames(page) > count + 3)
    page.keyboard.press("Space")
    kept(page)


def test_a_rendered_scene_is_focused_and_kept(site, open_page):
    page = open_page(site, "/practice")
    begin(page, site, exercise="single", aid="magnified", scene="figurehead")
    assert "the nearer eye" in page.locator("h1").inner_text()
    before, count = shown(page), frames(page)
    for _ in range(4):
        page.keyboard.press("Shift+ArrowLeft")
    until(page, lambda: frames(page) > count)
    assert shown(page) != before
    page.keyboard.press("Space")
    kept(page)


def test_leaning_moves_the_plane_and_not_the_ring(site, open_page):
    page = open_page(site, "/practice")
    begin(page, site, exercise="lean", aid="magnified", scene="sitter")
    count = frames(page)
    for _ in range(4):
        page.keyboard.press("Shift+ArrowUp")
    until(page, lambda: frames(page) > count)
    assert page.locator(".finder-strip").get_attribute("aria-valuenow") == "40.0"
    page.keyboard.press("Space")
    released(page)


def test_leaving_in_mid_round_keeps_nothing_and_coming_back_goes_on(site, open_page):
    page = open_page(site, "/practice")
    rounds = page.locator("section a[href^='/practice/trials/']").count()
    url = begin(page, site)
    page.goto("/practice")
    assert page.locator("section a[href^='/practice/trials/']").count() == rounds
    page.go_back()
    page.wait_for_selector("#finder[data-ready=yes]")
    assert page.url.partition("?")[0].endswith(url.partition("?")[0].rsplit("/", 1)[1])


@pytest.mark.parametrize("look", ["room", "night"])
def test_the_finder_keeps_to_the_look(site, open_page, look):
    page = open_page(site, "/practice", look=look)
    begin(page, site)
    filtered = page.evaluate("getComputedStyle(document.querySelector('canvas')).filter")
    assert (filtered != "none") == (look == "night")


def test_the_display_is_measured_with_a_card_and_the_finder_says_how_large_it_is_shown(site, open_page):
    page = open_page(site, "/practice/display")
    page.get_by_label("Make the frame as large as a bank card held upright").fill("400")
    assert page.locator(".card-frame").bounding_box()["height"] == pytest.approx(400, abs=1)
    page.get_by_label("From your eye to the display").fill("50 cm")
    page.get_by_role("button", name="Save").click()
    expect(page.locator("h1")).to_contain_text("0.214")
    page.request.post("/in-hand", form={"setup": "4"}, headers={"origin": site.url})
    begin(page, site, aid="matte")
    size = page.locator(".finder-size")
    expect(size).to_contain_text(re.compile(r"Shown at \d+\s% of its size"))
    closer = int(re.search(r"\d+", size.inner_text())[0])
    page.keyboard.press("m")  # from three times to once
    expect(size).not_to_contain_text(f"{closer}\u00a0%")
    assert closer == pytest.approx(3 * int(re.search(r"\d+", size.inner_text())[0]), abs=2)
