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

# Frames of one level of grey each, by their places along the ring; what is drawn is read off the canvas.
FADING = """async ({ frames: levels, turns, blend }) => {
  const { Fading } = await import('/static/components/finder/fading.js');
  const { Frames } = await import('/static/components/finder/frames.js');
  const { Screen } = await import('/static/components/finder/screen.js');
  const root = document.createElement('div');
  root.innerHTML = '<canvas width="8" height="8"></canvas>';
  const frames = new Frames('/nowhere', () => [], () => {});
  const grey = async (level) => {
    const canvas = new OffscreenCanvas(8, 8);
    const pen = canvas.getContext('2d');
    pen.fillStyle = `rgb(${level}, ${level}, ${level})`;
    pen.fillRect(0, 0, 8, 8);
    return canvas.convertToBlob({ type: 'image/png' });
  };
  for (const [at, level] of levels) frames.keep(`i=${at}&step=1`, await grey(level), 0.05);
  for (const key of frames.blobs.keys()) await frames.picture(key);
  const screen = new Screen(root);
  const places = { plan: { blend }, place: (value) => value, view: () => '&step=1' };
  const fading = new Fading(frames, places, screen, () => {});
  const seen = [];
  for (const value of turns) {
    if (value === null) fading.renew();
    else fading.wake(value);
    await new Promise(requestAnimationFrame);
    await new Promise(requestAnimationFrame);
    seen.push(screen.pen.getImageData(4, 4, 1, 1).data[0]);
  }
  return { seen, drawn: screen.drawn };
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


def faded(page, turns, *, frames=((10, 0), (14, 200), (60, 80)), blend=5):
    return page.evaluate(FADING, {"frames": frames, "turns": turns, "blend": blend})


def test_between_two_frames_the_finder_shows_both_by_how_near_each_is(site, open_page):
    page = open_page(site, "/help")
    found = faded(page, [10, 11, 12, 13.5, 14])
    assert found["seen"] == pytest.approx([0, 50, 100, 175, 200], abs=2)
    assert found["drawn"] == 5


def test_frames_far_apart_are_not_faded_while_the_ring_stands(site, open_page):
    page = open_page(site, "/help")
    assert faded(page, [30, 30.2])["seen"][-1] == 200
    assert faded(page, [45, 45.2])["seen"][-1] == 80
    assert faded(page, [12, 12.2], blend=1)["seen"][-1] in (0, 200)


def test_what_a_turning_ring_passes_in_a_moment_is_faded_however_far_apart(site, open_page):
    page = open_page(site, "/help")
    assert faded(page, [14, 37])["seen"][-1] == pytest.approx(140, abs=2)


def test_a_view_just_chosen_takes_no_turning_from_the_one_before(site, open_page):
    """Magnified, the ring stands at another number of frames without having been turned."""
    page = open_page(site, "/help")
    assert faded(page, [40])["seen"] == [80]
    assert faded(page, [14, None, 40])["seen"][-1] == 80


def test_nothing_is_drawn_again_where_nothing_changed_and_beyond_the_last_frame_that_one_stays(site, open_page):
    page = open_page(site, "/help")
    found = faded(page, [12, 12, 12, 99, 99, 0])
    assert found["drawn"] == 3
    assert found["seen"][3:] == [80, 80, 0]
