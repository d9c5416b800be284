"""What a user does on the way: detours, presets on the ring, marks one after another, a round that is over."""

import re

from playwright.sync_api import expect

from tests.browser.steps import take_new_lens_in_hand
from tests.browser.waiting import answered, until


def test_an_adapter_made_on_the_way_comes_back_with_everything_kept(site, open_page):
    page = open_page(site, "/kit/setups/new")
    page.get_by_label("Lens", exact=True).select_option(label="Tarnholt 35")
    page.get_by_label("Body", exact=True).select_option(label="Ostrel 6")
    page.get_by_label("Pixel: a multiple").check()
    page.get_by_label("Pixels of blur").fill("3")
    page.get_by_role("button", name="Add an adapter").click()
    page.wait_for_url("**/kit/adapters/new?**")
    sides = [page.get_by_label(side).input_value() for side in ("Lens side mount", "Body side mount")]
    assert all(sides)
    page.get_by_label("Name").fill("made on the way")
    page.get_by_role("button", name="Add a mount").first.click()
    page.wait_for_url("**/kit/mounts/new?**")
    page.get_by_label("Name").fill("Wayside thread")
    page.get_by_role("button", name="Save").click()
    page.wait_for_url("**/kit/adapters/new?**")
    assert page.get_by_label("Name").input_value() == "made on the way"
    assert page.get_by_label("Lens side mount").input_value() == "Wayside thread"
    page.get_by_role("button", name="Save").click()
    page.wait_for_url("**/kit/setups/new?**")
    assert page.locator("#f-adapter_id option:checked").inner_text().startswith("made on the way")
    assert page.locator("#f-lens_id option:checked").inner_text() == "Tarnholt 35"
    assert page.get_by_label("Pixel: a multiple").is_checked()
    assert page.get_by_label("Pixels of blur").input_value() == "3"


def test_the_fit_is_checked_without_script(site, open_page):
    page = open_page(site, "/kit/setups/new", script=False)
    expect(page.get_by_role("region", name="Fit check")).to_be_visible()
    page.get_by_label("Lens", exact=True).select_option(label="Velloise 20")
    page.get_by_role("button", name="Check how it goes together").click()
    assert page.locator("#f-lens_id option:checked").inner_text() == "Velloise 20"
    expect(page.get_by_role("region", name="Fit check")).to_be_visible()


def test_a_first_answer_of_a_long_lens_is_a_useful_distance(site, open_page):
    page = open_page(site, "/kit")
    take_new_lens_in_hand(page, name="Long 400", focal="400", stops="5.6-22", closest_focus="4 m")
    page.goto("/scale")
    assert page.locator("[data-out=index]").inner_text() == "20.0\xa0m"


def test_presets_on_the_ring_are_pressed_and_reached_by_keys(site, open_page):
    page = open_page(site, "/scale?at=2m&stop=4")
    names = page.locator(".presets a").all_inner_texts()
    assert names
    page.keyboard.press("1")
    page.wait_for_selector("html[data-instruments=ready]")
    first = page.locator("h1").inner_text()
    page.goto("/scale?at=2m&stop=4")
    page.wait_for_selector("html[data-instruments=ready]")
    tick = page.locator("#ring [data-preset]").first
    number = tick.get_attribute("data-preset")
    box = tick.locator(".preset-hit").bounding_box()
    page.mouse.click(box["x"] + 9, box["y"] + 20)
    page.wait_for_selector("html[data-instruments=ready]")
    page.wait_for_selector("h1")
    assert number == page.locator(".presets a").first.get_attribute("data-preset")
    assert page.locator("h1").inner_text() == first


def test_a_preset_is_credited_when_only_the_stop_differs(site, open_page):
    page = open_page(site, "/scale?at=2m&stop=4")
    page.keyboard.press("1")
    page.wait_for_selector("html[data-instruments=ready]")
    before = page.url
    page.keyboard.press("[")
    until(page, lambda: page.url != before)
    page.keyboard.press("l")
    expect(page.locator("dialog[open]")).to_contain_text(re.compile(r"preset “.+, opened to \d"))


def test_marking_goes_on_to_the_next_frame(site, open_page):
    page = open_page(site, "/log")
    page.get_by_role("link", name=re.compile("pattern|launch|shed|jetty|Slip", re.I)).first.wait_for()
    rows = page.locator(".frame-row")
    second = rows.nth(1).get_attribute("id")
    off = rows.nth(0).locator("[aria-pressed=false]").first
    off.click()
    expect(page.locator(f"#{second} :focus")).to_have_count(1)
    assert page.locator("#tally").get_attribute("role") == "status"


def test_a_refused_form_takes_one_to_its_first_error(site, open_page):
    page = open_page(site, "/kit/lenses/new")
    page.get_by_label("Name").fill("Wrong")
    page.get_by_label("Marked focal length").fill("many")
    page.get_by_role("button", name="Save").click()
    page.wait_for_selector("[aria-invalid=true]")
    assert page.evaluate("document.activeElement.id") == "f-focal"


def test_a_round_that_is_over_stops_asking_and_says_so(site, open_page):
    page = open_page(site, "/practice")
    page.clock.install()
    page.get_by_role("button", name="Begin").click()
    page.clock.resume()
    page.wait_for_selector("#finder[data-ready=yes]")
    asked = []
    page.on("request", lambda sent: asked.append(sent.url) if "/frame?" in sent.url else None)
    page.route("**/frame?*", lambda route: route.fulfill(status=404, body="This round is over or was put away."))
    page.locator(".finder-strip").focus()
    for _ in range(12):
        page.keyboard.press("ArrowLeft")
        page.keyboard.press("Shift+ArrowRight")
    expect(page.locator(".finder-problem")).to_contain_text("over or was put away")
    count = len(asked)
    page.clock.fast_forward(1500)
    page.keyboard.press("ArrowLeft")
    page.clock.fast_forward(300)
    answered(page)
    assert len(asked) <= count + 2 <= 8


def test_a_finder_that_reaches_nobody_tries_a_few_times_and_says_so(site, open_page):
    page = open_page(site, "/practice")
    page.get_by_role("button", name="Begin").click()
    page.wait_for_selector("#finder[data-ready=yes]")
    asked = []
    page.on("request", lambda sent: asked.append(sent.url) if "/frame?" in sent.url else None)
    page.route("**/frame?*", lambda route: route.abort())
    page.locator(".finder-strip").focus()
    for _ in range(6):
        page.keyboard.press("Shift+ArrowRight")

    def given_up():
        page.clock.fast_forward(1000)  # its tries are seconds apart
        return "does not answer" in page.inner_text(".finder-problem")

    until(page, given_up)
    expect(page.locator(".finder-problem")).to_contain_text("does not answer")
    assert len(asked) <= 14


def test_nothing_lies_under_the_line_at_the_foot(site, open_page):
    for size in ("table", "phone"):
        page = open_page(site, "/log", size=size)
        page.locator(".frame-row .marks button").first.click()
        page.goto("/scale?at=2.2m&stop=4")
        page.locator("#preset-name").fill(f"foot {size}")
        page.locator("#preset-name").press("Enter")
        page.wait_for_selector(".toast")
        page.evaluate("window.scrollTo(0, document.documentElement.scrollHeight)")
        toast = page.locator(".toast").bounding_box()
        last = page.locator("#main > :not(script):visible").last.bounding_box()
        assert last["y"] + last["height"] <= toast["y"] + 1
        if size == "phone":
            assert page.locator(".phone-foot a").bounding_box()["height"] >= 43.9


def test_a_second_quay_is_asked_about_and_may_replace_the_first(site, open_page):
    page = open_page(site, "/scale?at=2.2m&stop=4")
    name = page.locator(".presets a").first.inner_text().split("\n")[0].strip().removesuffix(" 1")
    page.locator("#preset-name").fill(name)
    page.keyboard.press("Enter")
    page.wait_for_selector("button:has-text('Replace')")
    expect(page.locator("#refused")).to_contain_text("a preset of that name")
    page.get_by_role("button", name="Replace").click()
    page.wait_for_url("**done=*")
    page.goto("/scale")
    assert sum(name in one for one in page.locator(".presets a").all_inner_texts()) == 1


def test_light_and_detail_go_with_one_from_room_to_room(site, open_page):
    page = open_page(site, "/aids?at=2.4m&stop=2.8")
    page.get_by_label("Light").select_option("dim room")
    page.wait_for_url("**light=dim%20room**")
    page.get_by_label("Detail").select_option("low contrast")
    page.wait_for_url("**detail=low%20contrast**")
    best = page.locator("[data-aid] td").first.inner_text()
    page.locator("[data-room=scale]").click()
    page.wait_for_selector("html[data-instruments=ready]")
    expect(page.locator("#finest-aid")).to_contain_text("dim room")
    assert best.split("×")[0] in page.locator("#finest-aid").inner_text()
    page.locator("#ring").focus()
    page.keyboard.press("ArrowLeft")
    page.wait_for_url("**detail=low+contrast**")
    page.locator("[data-room=log]").click()
    page.locator("[data-room=aids]").click()
    expect(page.get_by_label("Light")).to_have_value("dim room")
    page.get_by_role("link", name=re.compile("Practise")).click()
    kind = page.locator("#aid").input_value()
    assert kind in page.url
