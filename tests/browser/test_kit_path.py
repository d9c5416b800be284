"""A risky fit: seen, cleared with the right data, and its sheet ticked and printed."""

from tests.browser.steps import read


def test_risky_fit_is_stopped_cleared_and_its_sheet_printed(site, open_page):
    page = open_page(site, "/kit/lenses/new")
    page.get_by_label("Name").fill("Haldis 40")
    page.get_by_label("Marked focal length").fill("40")
    page.get_by_label("Marked stops").fill("2.8 4 5.6 8 11 16")
    page.get_by_label("Closest focus", exact=True).fill("0.5 m")
    page.get_by_label("Mount", exact=True).select_option("M42×1")
    page.get_by_label("Rear protrusion behind").fill("40")
    page.get_by_label("Pin that closes").select_option("no")
    page.get_by_role("button", name="Save").click()
    page.locator(".toast").wait_for()

    page.goto("/kit/setups/new")
    page.get_by_label("Lens", exact=True).select_option(label="Haldis 40")
    page.get_by_label("Body", exact=True).select_option(label="Ostrel 6")
    page.get_by_label("Adapter", exact=True).select_option(label="thread ring, 27.5: M42×1 to Ostrel bayonet, 27.46 mm")
    page.wait_for_selector("#fit [data-rule=rear-protrusion]")
    page.get_by_role("button", name="Save and select").click()
    page.wait_for_selector(".stop-line")
    assert "6.5 mm more than there is room for" in read(page.locator("[data-rule=rear-protrusion]"))
    page.goto("/scale")
    assert page.locator(".stop-line").is_visible()

    page.get_by_role("link", name="Why, and what clears it").click()
    page.get_by_role("link", name="Haldis 40", exact=True).click()
    page.get_by_label("Rear protrusion behind").fill("0")
    page.get_by_role("button", name="Save").click()
    page.wait_for_url("**/kit?**")
    assert page.locator(".stop-line").count() == 0

    page.get_by_role("link", name="Set-up sheet").click()
    page.get_by_role("checkbox", name="Focus mode: manual").click()
    page.wait_for_selector("#sheet :text('1 of')")
    page.evaluate("window.print = () => { document.title = 'printed'; }")
    page.get_by_role("button", name="Print").click()
    assert page.title() == "printed"
    page.emulate_media(media="print")
    assert not page.locator(".rail").is_visible()
    assert page.get_by_role("checkbox", name="Focus mode: manual").is_visible()
