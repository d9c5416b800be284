"""A ring measured from eight points with one bad, infinity found off by the adapter, and the strip printed."""

import math
import re

import pytest
from playwright.sync_api import expect

from tests.browser.steps import read
from tests.interchange import printed

# The long lens sits on an adapter 0.18 mm too thick: f 135, throw 280° to 1.5 m.
F, CLOSEST, THROW, ERROR = 135.0, 1500.0, 280.0, 0.18


def extension(mm):
    if math.isinf(mm):
        return 0.0
    b = mm - 2 * F
    return (b - math.sqrt(b * b - 4 * F * F)) / 2


def angle(mm):
    """Ring angle at which a measured distance is sharp: the adapter adds to the extension."""
    return (extension(mm) - ERROR) * THROW / extension(CLOSEST)


METRES = (1.55, 1.8, 2.2, 3, 4.5, 7, 12, 30)
BAD = 3


@pytest.mark.parametrize("size", ["table", "phone"])
def test_measure_reject_find_infinity_print(site, open_page, tmp_path, size):
    page = open_page(site, "/scale", size=size)
    page.request.post("/in-hand", form={"setup": "5"}, headers={"origin": site.url})
    page.goto("/scale/measure")
    page.get_by_label("measured: what is sharp").check()
    expect(page.get_by_label("the film plane mark on the body")).to_be_visible()
    for row, metres in enumerate(METRES, 1):
        read = angle(metres * 1000) + (3.1 if metres == BAD else 0)
        page.get_by_label(f"Ring position, reading {row}").fill(f"{read:.1f}")
        page.get_by_label(f"Distance, reading {row}").fill(f"{metres} m")
    page.get_by_role("button", name="Calculate").click()
    expect(page.locator("p.problem")).to_contain_text("The 3.00 m point is off by 3.1°")
    expect(page.locator("h1")).to_contain_text("A plain helicoid")
    lead = float(re.search(r"([\d.]+)\smm a turn", page.locator("h1").inner_text())[1])
    assert lead == pytest.approx(extension(CLOSEST) * 360 / THROW, rel=0.01)
    expect(page.locator(".residuals .dot.out")).to_have_count(1)
    page.get_by_role("button", name="Save", exact=True).click()
    page.wait_for_selector(".toast :text('Saved 8 readings')")

    page.get_by_role("link", name="Infinity", exact=True).click()
    expect(page.locator("h1")).to_contain_text("Infinity is not reached")
    farthest = float(re.search(r"([\d.]+)\s*m", page.locator("h1").inner_text())[1])
    assert farthest == pytest.approx((F + F * F / ERROR + F) / 1000, rel=0.04)
    expect(page.locator(".caution")).to_contain_text(re.compile(r"0\.1[789]\smm thinner"))

    page.get_by_role("link", name="Print", exact=True).click()
    page.get_by_label("Distances optional").fill("1.6 2 3 5 10 30")
    page.get_by_label("metres only").check()
    page.get_by_role("button", name="Preview").click()
    expect(page.get_by_role("img", name="The sheet")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="PDF").click()
    pdf = download.value.path().read_bytes()
    (raster,) = printed.rasters(pdf, tmp_path)
    top = printed.rules(raster, 180)[0]
    ticks = printed.centres(printed.row(raster, top + 0.7))[1:7]
    per_degree = math.pi * 72 / 360
    expected = [-(angle(1600) - angle(mm)) * per_degree for mm in (1600, 2000, 3000, 5000, 10_000, 30_000)]
    measured = [at - ticks[0] for at in ticks]
    # Infinity lies to the right: nearer marks stand to the left. The readings were rounded to 0.1°.
    assert measured == pytest.approx([-value for value in expected], abs=0.2)
    assert "2 3 5 10 30" in " ".join(printed.text(pdf, tmp_path).split())


def test_the_wall_method_makes_a_table_of_steps(site, open_page):
    page = open_page(site, "/scale")
    page.request.post("/in-hand", form={"setup": "6"}, headers={"origin": site.url})
    page.goto("/scale/measure")
    rows = page.locator("table").last.locator("tbody tr")
    assert rows.nth(2).inner_text().split("\t")[0] == "6"
    assert "2 cm over 2" in read(rows.nth(2))
    page.get_by_label("Distance, reading 3").fill("20 cm")
    page.get_by_label("Distance, reading 3").press("Enter")
    expect(page.locator(".problem").first).to_contain_text("0.20 m and 1.18 m at 6 steps")


def test_script_and_server_name_an_indicators_place_alike(site, open_page):
    page = open_page(site, "/scale")
    page.request.post("/in-hand", form={"setup": "6"}, headers={"origin": site.url})
    for cm in (29, 33, 38, 42, 55, 90, 300):
        page.goto(f"/scale?at={cm}cm&stop=8")
        page.wait_for_selector("html[data-instruments=ready]")
        words = page.locator("[data-out=indicator]").inner_text()
        page.locator("#ring").focus()
        page.keyboard.press("ArrowUp")
        page.keyboard.press("ArrowDown")
        assert page.locator("[data-out=indicator]").inner_text() == words
