"""The field page on a phone: big, one-handed, awake where it was, and nothing lost without the server."""

import datetime as dt

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Site
from tests.browser.field import open_field, tab
from tests.browser.waiting import answered
from tests.conftest import NOW
from welotrope.core.plan.field_settings import field_settings
from welotrope.core.units.distance import format_metric
from welotrope.store.queries import kit, log, ring_records, sheets
from welotrope.store.session import Database

SMALL = """() => [...document.querySelectorAll('body *')].filter(one => one.checkVisibility() && [...one.childNodes]
  .some(node => node.nodeType === 3 && node.textContent.trim()) && !one.closest('svg, .sr-only'))
  .filter(one => parseFloat(getComputedStyle(one).fontSize) < 16).map(one => one.outerHTML.slice(0, 80))"""
SHORT = """() => [...document.querySelectorAll('button, select, a, summary, label.f-check, textarea')]
  .filter(one => one.checkVisibility()).map(one => [one.outerHTML.slice(0, 80), one.getBoundingClientRect()])
  .filter(([, box]) => box.height < 44 || box.width < 44).map(([html]) => html)"""


@pytest.fixture
def uow(database):
    with database.session() as uow:
        yield uow


def frames_of(folder):
    database = Database(folder)
    with database.session() as uow:
        found = [frame for _, frame in log.every_frame(uow)]
    database.close()
    return found


@pytest.mark.parametrize("look", ["sun", "night"])
def test_everything_is_large_enough_at_every_width(open_page, site, look):
    page = open_field(open_page, site, look=look)
    for width in (320, 390):
        page.set_viewport_size({"width": width, "height": 640})
        for name in ("zone", "ring", "light", "sheet", "log"):
            tab(page, name)
            page.evaluate("document.querySelectorAll('details').forEach(one => { one.open = true; })")
            assert page.evaluate(SMALL) == []
            assert page.evaluate(SHORT) == []
            assert page.evaluate("document.documentElement.scrollWidth") <= width, name


def test_zones_are_those_of_the_core_and_the_next_is_one_tap_away(open_page, site, uow):
    stored = kit.list_setups(uow)[0]
    wanted = field_settings(stored.setup, ring_records.list_presets(uow, stored.lens_id))
    page = open_field(open_page, site)
    for one in wanted:
        expect(page.locator(".f-name")).to_have_text(one.name)
        expect(page.locator(".f-huge")).to_contain_text(format_metric(one.setting.focus_mm))
        page.locator("#f-next").click()
    expect(page.locator(".f-name")).to_have_text(wanted[0].name)


def test_it_wakes_where_it_was(open_page, site):
    page = open_field(open_page, site)
    page.locator("#f-hand").select_option("7@35")
    page.locator("#f-unit").click()
    tab(page, "ring")
    strip = page.locator(".f-strip")
    box = strip.bounding_box()
    page.mouse.move(box["x"] + 200, box["y"] + 60)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 60, steps=4)
    page.mouse.up()
    page.get_by_role("button", name="11", exact=True).click()
    before = page.locator("#f-main").inner_text()
    page.reload()
    page.wait_for_selector("html[data-ready=yes]")
    assert page.locator("#f-main").inner_text() == before
    expect(page.locator("#f-hand")).to_have_value("7@35")


def test_the_ring_reads_as_the_scale_page_does(open_page, site):
    page = open_field(open_page, site)
    tab(page, "ring")
    page.get_by_role("button", name="5.6", exact=True).click()
    page.locator(".f-strip").focus()
    page.keyboard.press("Home")
    for _ in range(14):
        page.keyboard.press("PageDown")
    words = page.locator(".f-range").inner_text().split(" – ")
    index = page.locator(".f-huge .brass").inner_text()
    table = open_page(site, f"/scale?at={index.replace(' ', '')}&stop=5.6")
    for word in words:
        expect(table.locator("h1")).to_contain_text(word)


def test_twenty_frames_without_the_server_are_twenty_frames_when_it_is_back(open_page, demo_folder):
    site = Site(demo_folder)
    before = len(frames_of(demo_folder))
    page = open_field(open_page, site)
    site.stop()
    for _ in range(20):
        page.locator("#f-log").click()
    tab(page, "log")
    expect(page.locator(".f-name")).to_contain_text("20 frames")
    expect(page.locator("#f-state")).to_contain_text("no server in reach")
    page.locator(".f-frame").first.get_by_role("button", name="in front").click()
    page.locator(".f-frame").nth(1).get_by_role("button", name="Take it back").click()
    tab(page, "sheet")
    page.locator(".f-check").first.click()
    assert len(frames_of(demo_folder)) == before
    back = Site(demo_folder, port=site.port)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("#f-state")).to_have_text("")
    page.evaluate("window.dispatchEvent(new Event('online'))")  # sent again, it counts once
    answered(page)
    back.stop()
    found = frames_of(demo_folder)
    assert len(found) == before + 19
    assert [frame.outcome for frame in found[-19:]].count("in front") == 1
    database = Database(demo_folder)
    with database.session() as uow:
        outing = log.list_outings(uow)[0]
        assert sheets.ticked(uow, 1, 0) | sheets.ticked(uow, 1, outing.id)
    database.close()


def test_two_tabs_lose_nothing_of_each_other(open_page, demo_folder):
    site = Site(demo_folder)
    before = len(frames_of(demo_folder))
    page = open_field(open_page, site)
    other = page.context.new_page()
    other.clock.set_system_time(NOW.replace(tzinfo=dt.UTC))
    other.goto("/field")
    other.wait_for_selector("html[data-ready=yes]")
    site.stop()
    for tab_of in (page, other, page):
        tab_of.locator("#f-log").click()
    page.close()
    back = Site(demo_folder, port=site.port)
    other.evaluate("window.dispatchEvent(new Event('online'))")
    expect(other.locator("#f-state")).to_have_text("")
    back.stop()
    assert len(frames_of(demo_folder)) == before + 3


def test_a_page_left_open_overnight_logs_to_the_new_day(open_page, demo_folder):
    site = Site(demo_folder, now=lambda: dt.datetime(2026, 3, 14, 22, 0))
    page = open_page(site, "/help", size="phone")
    page.clock.set_system_time(dt.datetime(2026, 3, 14, 22, 0, tzinfo=dt.UTC))
    page.goto("/field")
    page.wait_for_selector("html[data-ready=yes]")
    tab(page, "log")
    expect(page.locator(".f-name")).to_contain_text("Teal, from shed to launch")
    site.stop()
    page.clock.set_system_time(NOW.replace(tzinfo=dt.UTC))
    tab(page, "zone")
    page.locator("#f-log").click()
    back = Site(demo_folder, port=site.port)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("#f-state")).to_have_text("")
    back.stop()
    (frame,) = (frame for frame in frames_of(demo_folder) if frame.taken_at.date() == NOW.date())
    database = Database(demo_folder)
    with database.session() as uow:
        outing = next(one for one in log.list_outings(uow) if one.id == frame.outing_id)
    database.close()
    assert outing.day == NOW.date()


def test_the_sheet_of_the_other_school_is_a_tap_away_and_stays(open_page, demo_folder):
    site = Site(demo_folder)
    page = open_field(open_page, site)
    tab(page, "sheet")
    lines = page.locator(".f-check b").all_inner_texts()
    page.get_by_role("button", name="place the plane").click()
    expect(page.get_by_role("button", name="place the plane")).to_have_attribute("aria-pressed", "true")
    assert page.locator(".f-check b").all_inner_texts() != lines
    page.reload()
    expect(page.get_by_role("button", name="place the plane")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="set and shoot").click()
    assert page.locator(".f-check b").all_inner_texts() == lines
    site.stop()
