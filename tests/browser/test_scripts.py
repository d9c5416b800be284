"""What keys, wheel and pointer do to the instruments, measured on what they report afterwards."""

import math

import pytest
from playwright.sync_api import expect

from welotrope.core.plan.setting import ring_setting
from welotrope.core.units.distance import Unit, format_rough
from welotrope.store.queries import kit

# The ring of the finder on an element of its own, so that what it is given and what it tells are figures.
FINDER_RING = """async (asked) => {
  const { TurningRing } = await import('/static/components/finder/ring.js');
  const surface = document.createElement('div');
  document.body.append(surface);
  const told = [];
  const given = { low: 0, high: 100, value: 50, direction: 1, fine: 0.5, coarse: 4, up: -1, ...asked.given };
  const ring = new TurningRing([surface], given, (value) => told.push(value));
  for (const wheel of asked.wheel ?? [])
    surface.dispatchEvent(new WheelEvent('wheel', { cancelable: true, ...wheel }));
  const known = (asked.keys ?? []).map((key) => ring.key(new KeyboardEvent('keydown', key)));
  surface.remove();
  return { value: ring.value, told, known };
}"""


def angle(page):
    return float(page.locator("#ring").get_attribute("aria-valuenow"))


def test_the_wheel_turns_the_ring_only_sideways_or_with_shift(site, open_page):
    page = open_page(site, "/scale?at=2.4m&stop=5.6")

    def after(**wheel):
        page.locator("#ring").dispatch_event("wheel", {"bubbles": True, "cancelable": True, **wheel})
        return angle(page)

    begun = angle(page)
    assert after(deltaY=120) == begun
    assert after(deltaX=40, deltaY=120) == begun
    sideways = after(deltaX=60)
    assert sideways != begun
    assert after(deltaX=-60) == pytest.approx(begun, abs=0.02)
    assert after(deltaY=60, shiftKey=True) == pytest.approx(sideways, abs=0.02)


@pytest.mark.parametrize(("key", "by"), [
    ("ArrowRight", -0.25), ("ArrowLeft", 0.25), ("ArrowUp", -0.25), ("ArrowDown", 0.25), ("PageUp", -5.0),
    ("PageDown", 5.0), ("Shift+ArrowLeft", 5.0), ("Shift+ArrowUp", -5.0), ("Home", -math.inf), ("End", math.inf),
])  # fmt: skip
def test_keys_turn_the_ring(site, open_page, key, by):
    """To the left lies infinity on this lens, at 0°: what is right of the index comes under it."""
    page = open_page(site, "/scale?at=2.4m&stop=5.6")
    begun = angle(page)
    page.locator("#ring").focus()
    page.keyboard.press(key)
    throw = float(page.locator("#ring").get_attribute("aria-valuemax"))
    wanted = min(max(begun + by, 0.0), throw)
    assert angle(page) == pytest.approx(wanted, abs=0.02 if math.isfinite(by) else 0.001)


def test_keys_move_a_subject_by_a_fiftieth_and_with_shift_by_a_tenth(site, open_page):
    page = open_page(site, "/scale?at=2.4m&stop=5.6&subject=Ida@3000")
    said = page.evaluate("() => document.querySelector('[data-out=subjects]').innerText")
    page.locator(".peg").focus()

    def place(*keys):
        page.goto("/scale?at=2.4m&stop=5.6&subject=Ida@3000")
        page.wait_for_selector("html[data-instruments=ready]")
        page.locator(".peg").focus()
        for key in keys:
            page.keyboard.press(key)
        page.wait_for_url(lambda url: "Ida%403000" not in url and "Ida@3000" not in url)
        return float(page.url.split("Ida%40")[1].split("&")[0])

    assert said
    assert place("ArrowRight") == pytest.approx(3000 * 1.02, rel=0.002)
    assert place("ArrowDown") == pytest.approx(3000 / 1.02, rel=0.002)
    assert place("Shift+ArrowUp") == pytest.approx(3000 * 1.02**5, rel=0.002)
    assert place("Shift+ArrowLeft") == pytest.approx(3000 / 1.02**5, rel=0.002)


def test_the_readout_tells_how_far_the_plane_moves_for_half_a_degree_either_way(site, open_page, database):
    page = open_page(site, "/scale?at=1.2m&stop=2.8")
    with database.session(write=False) as uow:
        setup = kit.list_setups(uow)[0].setup
    page.locator("#ring").focus()
    page.keyboard.press("Shift+ArrowUp")  # from now on the script tells it
    here, half = angle(page), (setup.turn_in.deg if setup.turn_in else 1.0) / 2
    near, far = (ring_setting(setup, here + by, 2.8).focus_mm for by in (half, -half))
    expect(page.locator("[data-out=travel]").first).to_have_text(format_rough(far - near, Unit.METRIC))


@pytest.mark.parametrize(("asked", "value"), [
    ({"wheel": [{"deltaY": 100}]}, 51.5),
    ({"wheel": [{"deltaX": -200}]}, 47.0),
    ({"wheel": [{"deltaY": 100, "shiftKey": True}]}, 56.0),
    ({"wheel": [{"deltaY": 1e6}]}, 100.0),
    ({"wheel": [{"deltaY": -1e6}]}, 0.0),
    ({"keys": [{"key": "ArrowRight"}]}, 50.5),
    ({"keys": [{"key": "ArrowLeft"}]}, 49.5),
    ({"keys": [{"key": "ArrowUp"}]}, 49.5),
    ({"keys": [{"key": "ArrowDown"}]}, 50.5),
    ({"keys": [{"key": "ArrowRight", "shiftKey": True}]}, 54.0),
    ({"keys": [{"key": "ArrowRight"}], "given": {"direction": -1}}, 49.5),
    ({"keys": [{"key": "a"}]}, 50.0),
])  # fmt: skip
def test_the_ring_of_the_finder_turns_by_wheel_and_keys(finder_ring, asked, value):
    found = finder_ring(asked)
    assert found["value"] == pytest.approx(value)
    assert found["told"] == ([] if value == 50.0 else [pytest.approx(value)])
    assert found["known"] == [one["key"] != "a" for one in asked.get("keys", [])]


@pytest.fixture
def finder_ring(site, open_page):
    page = open_page(site, "/help")
    return lambda asked: page.evaluate(FINDER_RING, asked)


def test_the_log_as_a_file_holds_what_has_not_gone_over_and_nothing_else(site, open_page):
    page = open_page(site, "/help")
    text = page.evaluate(
        """async () => {
            const { Queue } = await import('/static/rooms/field/script/queue.js');
            const held = { entries: [
                { key: "a", kind: "frame", at: "2026-03-14T10:00:00", sent: true },
                { key: "b", kind: "frame", at: "2026-03-14T10:01:00" },
                { key: "c", kind: "tick", at: "2026-03-14T10:02:00", sent: false },
            ] };
            const queue = Object.create(Queue.prototype);
            queue.log = held;
            return JSON.parse(queue.asFile());
        }"""
    )
    assert [entry["key"] for entry in text["entries"]] == ["b", "c"]
    assert all("sent" not in entry for entry in text["entries"])
    assert (text["format"], text["version"]) == ("welotrope-field-log", 1)
