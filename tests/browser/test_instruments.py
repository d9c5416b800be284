"""What the script shows against what the core computes."""

import re

import pytest
from playwright.sync_api import expect

from welotrope.core.aids.advice import judge_aids
from welotrope.core.aids.handling import Situation
from welotrope.core.plan.setting import angle_with_far_limit, hyperfocal_angle, ring_setting
from welotrope.core.units.distance import Unit, format_distance, format_rough
from welotrope.store.queries import kit

DISTANCES = [20 * 1.037**k for k in range(400)] + [
    994,
    995,
    996,
    9994,
    9996,
    99949,
    99951,
    914.4,
    9144,
    304.8,
    12.7,
    152.4,
]


def test_script_and_core_write_every_distance_alike(site, open_page):
    page = open_page(site, "/help")
    for unit in Unit:
        written = page.evaluate(
            """async ([values, unit]) => {
                const text = await import('/static/components/text/distance_text.js');
                return values.map((mm) => [text.distanceText(mm, unit), text.roughText(mm, unit)]);
            }""",
            [DISTANCES, unit.value],
        )
        assert written == [[format_distance(mm, unit), format_rough(mm, unit)] for mm in DISTANCES]


@pytest.fixture
def setups(database):
    """The demo's set-ups as the store gives them: adapters and records of rings put in."""
    with database.session() as session:
        return [stored.setup for stored in kit.list_setups(session)]


@pytest.mark.parametrize("index", range(6))
def test_table_looked_up_gives_the_core_values(site, open_page, setups, index):
    """The browser's look-up against exact optics, at positions between the table's steps."""
    page = open_page(site, "/scale")
    setup = setups[index]
    page.request.post("/in-hand", form={"setup": str(index + 1)}, headers={"origin": site.url})
    page.goto("/scale")
    throw = setup.ring().throw_deg
    angles = [throw * k / 37 + 0.09 for k in range(37)]
    read = page.evaluate(
        """async (angles) => {
            const { RingTable } = await import('/static/components/ring/table.js');
            const table = new RingTable(JSON.parse(document.getElementById('ring-data').textContent));
            return angles.map((angle) => table.stops.map((_, i) => {
                const { near, far } = table.limits(angle, i);
                return [table.focus(angle, i), near, far, table.windowWidth(angle, i), table.index(angle)]
                    .map((value) => Number.isFinite(value) ? value : null);
            }));
        }""",
        angles,
    )
    for angle, row in zip(angles, read, strict=True):
        for stop, (focus, near, far, width, index_mm) in zip(setup.lens.stops, row, strict=True):
            exact = ring_setting(setup, angle, stop)
            assert_distance(focus, exact.focus_mm, 2e-3)
            assert_distance(near, exact.near_mm, 2e-3)
            assert width == pytest.approx(exact.window_deg, abs=2e-3)
            assert_distance(index_mm, exact.focus_mm if exact.engraved_mm is None else exact.engraved_mm, 2e-3)
            assert_distance(far, exact.far_mm, 4e-3)


def assert_distance(read, exact, tolerance):
    """As reciprocals, which stay finite: past infinity the script has None."""
    vergence = 0 if read is None else 1 / read
    assert vergence == pytest.approx(1 / exact, rel=tolerance, abs=tolerance * 1e-4)


def test_far_mark_buttons_put_the_ring_where_the_core_does(site, open_page, setups):
    page = open_page(site, "/scale?at=2.4m&stop=5.6&subject=Ida@2300&subject=Ove@4000")
    setup = setups[0]
    ring = setup.ring()
    page.get_by_role("link", name="Put the farthest subject on it").click()
    expected = ring.distance_at_angle(angle_with_far_limit(setup, 4000, 5.6))
    assert page.locator("[data-out=index]").inner_text() == format_distance(expected, Unit.METRIC)
    page.get_by_role("link", name="Hyperfocal: ∞ to the right-hand").click()
    expected = ring.distance_at_angle(hyperfocal_angle(setup, 5.6))
    assert page.locator("[data-out=index]").inner_text() == format_distance(expected, Unit.METRIC)
    assert page.locator("[data-out=far]").inner_text() == "∞"


def test_server_and_script_draw_the_same_state(site, open_page):
    """Reloading the URL the script wrote must show what the script showed."""
    page = open_page(site, "/scale?at=2.4m&stop=5.6&subject=Ida@2300&subject=Ove@4000")
    page.locator("#ring").focus()
    for key in ("ArrowLeft", "Shift+ArrowLeft", "]"):
        page.keyboard.press(key)
    page.wait_for_url("**stop=8**")

    def picture():
        brackets = page.evaluate(
            "Object.fromEntries([...document.querySelectorAll('.bracket-group')].map("
            "(g) => [g.dataset.stop + g.dataset.end, g.transform.baseVal[0].matrix.e]))"
        )
        assert page.locator(".bracket-group").nth(-1).get_attribute("data-stop") == "8"  # over the marks of the others
        outs = page.evaluate(
            "Object.fromEntries([...document.querySelectorAll('[data-out]')].map((n) => [n.dataset.out, n.textContent.replace(/\\u00a0/g, ' ').trim()]))"
        )
        edges = page.evaluate(
            "[...document.querySelectorAll('.zone-edge, .plane')].map((n) => parseFloat(n.getAttribute('x1')))"
        )
        pegs = page.locator(".peg text").all_text_contents()
        return brackets, outs, edges, [peg.replace("\u00a0", " ") for peg in pegs]

    scripted = picture()
    page.reload()
    page.wait_for_selector("html[data-instruments=ready]")
    brackets, outs, edges, pegs = picture()
    assert brackets == pytest.approx(scripted[0], abs=0.3)
    assert outs == scripted[1]
    assert edges == pytest.approx(scripted[2], abs=0.05)
    assert pegs == scripted[3]


def test_the_finest_aid_is_drawn_on_the_ring_and_follows_the_stop(site, open_page, setups):
    page = open_page(site, "/scale?at=2.4m&stop=1.4")
    bar = page.locator(".aid-bar").first

    def expected(stop):
        aids = judge_aids(Situation(setups[0], stop, stop, setups[0].ring().angle_at_distance(2400)))
        return aids[0].error_deg * 8

    assert float(bar.get_attribute("x2")) == pytest.approx(expected(1.4), abs=0.02)
    with page.expect_response("**/scale/aid?**stop=2.8**"):
        for _ in range(2):
            page.keyboard.press("]")
    shown = re.escape(f"{expected(2.8):.3f}"[:-1])
    expect(bar).to_have_attribute("x2", re.compile(f"^{shown}"))


def test_ring_stops_at_its_walls(site, open_page):
    page = open_page(site)
    ring = page.locator("#ring")
    ring.focus()
    page.keyboard.press("Home")
    page.keyboard.press("ArrowUp")
    assert ring.get_attribute("aria-valuenow") == "0.00"
    assert "∞" in ring.get_attribute("aria-valuetext")
    page.keyboard.press("End")
    page.keyboard.press("ArrowDown")
    assert float(ring.get_attribute("aria-valuenow")) == 230
    assert ring.get_attribute("aria-valuetext").startswith("0.45 m, 1′5½″; sharp from")


def test_arrow_brings_what_is_right_of_the_index_under_it(site, open_page):
    page = open_page(site)
    ring = page.locator("#ring")
    ring.focus()
    before = float(ring.get_attribute("aria-valuenow"))
    page.keyboard.press("ArrowRight")
    assert float(ring.get_attribute("aria-valuenow")) == pytest.approx(before - 0.25, abs=0.006)


def test_a_peg_is_dragged_and_its_name_says_how_far_off_it_is(site, open_page):
    page = open_page(site, "/scale?at=2.4m&stop=5.6&subject=Ida@2400")
    peg = page.locator(".peg circle")
    box = peg.bounding_box()
    page.mouse.move(box["x"] + 7, box["y"] + 7)
    page.mouse.down()
    page.mouse.move(box["x"] + 200, box["y"] + 7, steps=4)
    assert "too far" in page.locator(".peg text").text_content()
    page.mouse.up()
    page.wait_for_url(lambda url: "Ida%402400.0" not in url)
    page.locator(".peg").focus()
    page.keyboard.press("Shift+ArrowLeft")
    assert "0 of 1 subjects are sharp" in page.locator("[data-out=subjects]").inner_text()


@pytest.mark.parametrize("size", ["table", "phone"])
def test_names_of_subjects_stay_on_the_strip(site, open_page, size):
    page = open_page(
        site, "/scale?at=2.4m&stop=5.6&subject=rope+coil@1900&subject=Ove+and+all+the+riggers@30000", size=size
    )
    strip = page.locator("#ground").bounding_box()
    for name in page.locator(".peg text").all():
        box = name.bounding_box()
        assert box["x"] >= strip["x"] - 1
        assert box["x"] + box["width"] <= strip["x"] + strip["width"] + 1


def test_preset_is_kept_from_where_the_ring_was_dragged(site, open_page):
    page = open_page(site)
    page.keyboard.press("0")
    page.wait_for_url("**at=inf**")
    page.get_by_label("Preset name").fill("stars")
    page.get_by_role("button", name="Save preset").click()
    page.locator(".toast").wait_for()
    assert page.locator(".pencil-name", has_text="stars").count() == 1
    page.goto("/jump")
    href = page.get_by_role("link", name="stars", exact=True).get_attribute("href")
    assert "at=inf" in href


def test_undo_after_keeping_stays_on_the_ring(site, open_page):
    page = open_page(site)
    page.get_by_label("Preset name").fill("oops")
    page.get_by_role("button", name="Save preset").click()
    page.get_by_role("button", name="Undo").click()
    page.wait_for_selector("html[data-instruments=ready]")
    assert page.locator(".pencil-name", has_text="oops").count() == 0
