"""A number keeps the unit of its field, and nothing typed is lost when only what is shown changes."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.steps import take_new_lens_in_hand


def values(page, selector):
    return page.eval_on_selector_all(selector, "(all) => all.map((one) => one.value)")


def swap(page, how):
    """Swap the leading unit by key or by the header, and wait until it is shown."""
    before = page.evaluate("document.documentElement.dataset.unit")
    if how == "key":
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("u")
    else:
        page.locator("header form[data-key-form=u] button").click()
    expect(page.locator("html")).not_to_have_attribute("data-unit", before)


@pytest.mark.parametrize("how", ["key", "header"])
def test_distances_typed_in_feet_stay_feet(site, open_page, how):
    page = open_page(site, "/plan?at=2.4m&stop=5.6")
    swap(page, "header")
    page.goto("/plan?at=2.4m&stop=5.6")
    boxes = page.locator("#subject-rows input[name=distance]")
    for index, feet in enumerate(("7", "10", "16")):
        if boxes.count() <= index:
            page.get_by_role("button", name="one more").click()
        boxes.nth(index).fill(feet)
    swap(page, how)
    assert values(page, "#subject-rows input[name=distance]")[:3] == ["7", "10", "16"]
    page.get_by_role("button", name="Calculate").click()
    page.wait_for_url("**numbers_in=ft**")
    assert page.evaluate("document.documentElement.dataset.unit") == "m"
    near = float(re.search(r"from ([\d.]+)\sm", page.locator("h1").inner_text())[1])
    assert 1.8 < near <= 2.14  # 7 ft are 2.13 m, not 7 m


def test_a_look_or_unit_drops_no_half_filled_form_and_keeps_focus(site, open_page):
    page = open_page(site, "/kit/lenses/new")
    page.get_by_label("Name").fill("Half filled")
    page.get_by_label("Closest focus", exact=True).fill("3.5")
    page.get_by_label("feet", exact=True).uncheck()
    for key in ("t", "u"):
        page.locator(f"header form[data-key-form={key}] button").click()
    page.wait_for_selector("html[data-unit=ft]")
    assert page.evaluate("document.documentElement.dataset.look") == "room"
    assert page.get_by_label("Name").input_value() == "Half filled"
    assert page.get_by_label("Closest focus", exact=True).input_value() == "3.5"
    assert not page.get_by_label("feet", exact=True).is_checked()
    page.wait_for_selector("header form[data-key-form=u] button:focus")
    page.evaluate("window.scrollTo(0, 300)")
    page.keyboard.press("u")
    page.wait_for_selector("html[data-unit=m]")
    assert page.evaluate("window.scrollY") == 300
    assert page.get_by_label("Name").input_value() == "Half filled"
    assert page.evaluate("document.activeElement.closest('form')?.dataset.keyForm") == "u"


def test_engraved_feet_are_feet_whatever_leads(site, open_page):
    page = open_page(site, "/kit")
    take_new_lens_in_hand(
        page, name="Both scales", focal="85", stops="2-16", closest_focus="1 m", engraved_m="1 1.2 1.5 2 3 5",
        engraved_ft="3.5 4 5 7 10 15",
    )  # fmt: skip
    page.goto("/scale?at=2m&stop=4")
    upper = page.locator("#ring .numeral").all_text_contents()
    lower = page.locator("#ring .numeral-other").all_text_contents()
    assert {"1", "1.5", "2", "3"} <= set(upper)
    assert {"4", "5", "7", "10"} <= set(lower)
    assert not {"6", "8", "30"} & set(lower)  # nothing that is not engraved


def test_a_typo_keeps_the_ring_where_it_is(site, open_page):
    page = open_page(site, "/scale?at=3.21m&stop=4")
    page.locator("#at").fill("twelve")
    page.keyboard.press("Enter")
    page.wait_for_url("**at=twelve**")
    assert "3.21\xa0m" in page.locator("h1").inner_text()
    expect(page.locator(".problem").first).to_contain_text("twelve")
    assert page.evaluate("document.activeElement.id") == "at"


def test_choosing_tape_before_typing_is_no_error_and_a_diameter_is_remembered(site, open_page):
    page = open_page(site, "/kit")
    take_new_lens_in_hand(page, name="Bare", focal="50", stops="2 16", closest_focus="0.5")
    page.goto("/scale/measure")
    page.get_by_label("millimetres along a paper strip").check()
    page.wait_for_selector("label:has-text('Diameter under the tape')")
    assert page.locator(".problem, .error").count() == 0
    page.get_by_label("Diameter under the tape").fill("58.5")
    page.get_by_label("steps of a scale").check()
    page.wait_for_selector("th:has-text('Step')")
    page.get_by_label("millimetres along a paper strip").check()
    page.wait_for_selector("th:has-text('Ring, mm')")
    assert page.get_by_label("Diameter under the tape").input_value() == "58.5"
    page.goto("/scale/print")
    expect(page.locator("h1")).to_have_text("Enter the diameter of the focus ring")
    page.get_by_label("Ring diameter").fill("58.5")
    page.get_by_role("button", name="Preview").click()
    page.wait_for_selector("img[alt^='The sheet']")
    page.goto("/scale/print")
    assert page.get_by_label("Ring diameter").input_value() == "58.5"


def test_six_by_six_is_offered_and_understood(site, open_page):
    page = open_page(site, "/kit/bodies/new")
    assert page.locator("#o-size option[value='6 × 6']").count() == 1
    page.get_by_label("Name").fill("Box")
    page.get_by_label("Picture size").fill("6x6")
    page.get_by_label("film", exact=True).check()
    page.get_by_role("button", name="Save").click()
    page.wait_for_url("**done=*")
    page.get_by_role("link", name="Box").click()
    assert page.get_by_label("Picture size").input_value() == "56 × 56"


def test_everything_to_the_horizon_is_reached_where_it_is(site, open_page):
    """28 mm at f/5.6 and others said “not reached: sharp to ∞ at most”."""
    page = open_page(site)
    for setup in range(1, 7):
        page.goto("/setups")
        button = page.locator(f"button[name=setup][value='{setup}']")
        if not button.count():
            continue
        button.click()
        page.wait_for_load_state()
        for stop in ("2.8", "5.6", "11"):
            page.goto(f"/scale?at=2m&stop={stop}")
            words = page.locator("[data-horizon]:visible").inner_text()
            assert "sharp to ∞" not in words, (setup, stop, words)


def test_a_range_always_tells_its_width(site, open_page):
    page = open_page(site, "/scale?at=0.45m&stop=1.4")
    near, far = (page.locator(f"[data-out={end}]").inner_text() for end in ("near", "far"))
    assert near != far
    assert re.fullmatch(r", [\d.]+\smm deep", page.locator("[data-out=depth]").inner_text())
    page.locator("#ring").focus()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowRight")
    assert page.locator("[data-out=near]").inner_text() == near.replace("\xa0", " ")


def test_script_and_core_write_a_range_alike(site, open_page):
    from welotrope.core.units.distance import Unit, format_span

    pairs = [
        (1496, 1505), (299.9, 300.1), (449.96, 450.04), (2100, 2810), (9000, 9990), (9900, 10100), (99_000, 101_000),
        (1500, float("inf")), (40, 45), (1e5, 5e6), (3047, 3049), (910, 917), (20_000, 20_020),
    ]  # fmt: skip
    page = open_page(site)
    for unit in Unit:
        scripted = page.evaluate(
            """async ([pairs, unit]) => {
                const { spanText } = await import('/static/components/text/span_text.js');
                return pairs.map(([near, far]) => { const s = spanText(near, far ?? Infinity, unit); return [s.near, s.far, s.depth]; });
            }""",
            [[[near, None if far == float("inf") else far] for near, far in pairs], unit.value],
        )
        core = [format_span(near, far, unit) for near, far in pairs]
        assert scripted == [[span.near, span.far, span.depth] for span in core]
        assert all(span.near != span.far for span in core)


def test_what_is_typed_while_an_answer_is_under_way_stays(site, open_page):
    """A choice draws the form anew; another one made before the answer is there is kept, and answered too."""
    page = open_page(site, "/kit/setups/new")
    with page.expect_response("**/kit/setups/new?*"):
        page.get_by_label("Lens", exact=True).select_option(label="Brannoch 135")
    held = []
    page.route("**/kit/setups/new?*", lambda route: route.continue_() if held else held.append(route))
    with page.expect_request("**/kit/setups/new?*"):
        page.get_by_label("Adapter", exact=True).select_option(index=1)
    page.get_by_label("Made for this camera").check()
    with page.expect_response(lambda answer: "made_for_body=yes" in answer.url):
        held[0].continue_()
    expect(page.get_by_label("Made for this camera")).to_be_checked()


def test_no_numeral_is_cut_by_an_edge_or_by_the_units(site, open_page):
    """Measured in pixels, wherever the ring stands: the window's edges and the ground under m and ft."""
    page = open_page(site, "/scale?at=2m&stop=8")
    for width in (390, 1280):
        page.set_viewport_size({"width": width, "height": 800})
        page.locator("#ring").focus()
        page.keyboard.press("0")
        for _ in range(12):
            page.keyboard.press("Shift+ArrowLeft")
            cut = page.evaluate(CUT)
            assert cut == [], (width, cut)


CUT = """async () => {
  for (const _ of [0, 1]) await new Promise(requestAnimationFrame);
  const box = document.getElementById("ring").getBoundingClientRect();
  const ground = document.querySelector("#ring .unit-ground").getBoundingClientRect();
  return [...document.querySelectorAll("#ring .numeral, #ring .numeral-other")].filter((node) => {
    if (getComputedStyle(node).visibility === "hidden" || getComputedStyle(node).display === "none") return false;
    const at = node.getBoundingClientRect();
    const onEdge = (x) => at.left < x - 0.5 && at.right > x + 0.5;
    return onEdge(box.left) || onEdge(ground.left); // the ground covers what lies behind it
  }).map((node) => node.textContent);
}"""
