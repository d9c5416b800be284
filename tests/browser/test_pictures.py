"""From pictures to data given back, as a photographer does it: in a real browser, read back with real clients."""

import json
import re
import subprocess

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import Site
from tests.browser.steps import read
from tests.web.rooms.log.test_pictures import FAST_S, picture
from tests.web.rooms.log.test_pictures import START as BEGUN

FOREIGN = (
    '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
    '<rdf:Description rdf:about="" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmp:Rating="4"/></rdf:RDF></x:xmpmeta>'
)


@pytest.fixture
def card(tmp_path):
    import datetime as dt

    folder = tmp_path / "card"
    folder.mkdir()
    for index, minute in enumerate((0, 2, 3, 5, 9)):
        taken = BEGUN + dt.timedelta(minutes=minute, seconds=FAST_S)
        picture(folder / f"P{index}.jpg", taken, size=(600, 400), seed=index)
    (folder / "P0.xmp").write_text(FOREIGN)
    return folder


@pytest.fixture
def pictured_site(pictured_folder):
    site = Site(pictured_folder)
    yield site
    site.stop()


def test_pictures_come_in_are_matched_reviewed_and_given_their_data(site, open_page, card):
    page = open_page(site, "/log/pictures")
    page.fill("#folder", str(card))
    page.get_by_role("button", name="Import").click()
    page.get_by_role("link", name="See what came of it").click()
    page.wait_for_selector("#timeline")
    page.goto(f"{site.url}/log/pictures?outing=1")
    assert "It looks 7 min 4 s fast" in read(page.locator("main"))
    page.keyboard.press("c")
    page.wait_for_selector("text=its clock taken to be 7 min 4 s fast")
    page.keyboard.press("m")
    page.wait_for_selector("h1:has-text('5 of 5 pictures belong to a frame')")
    page.keyboard.press("r")
    page.wait_for_selector("#review[data-ready=yes]")
    # The spot is clicked, the verdict is a key, the next picture another.
    page.locator("#stage").click(position={"x": 300, "y": 250})
    expect(page.locator("#verdict [name=x]")).not_to_have_value("")
    page.wait_for_selector("#side:has-text('Spot:')")
    first, was = (
        page.locator("#verdict").get_attribute("action"),
        page.locator(".marks [aria-pressed=true]").inner_text(),
    )
    page.keyboard.press("2")
    page.wait_for_url("**undo_to**")  # a verdict leads to the next picture, and taking it back to this one
    page.locator(".toast").get_by_role("button", name="Undo").click()
    page.wait_for_selector("#review[data-ready=yes]")
    assert page.locator("#verdict").get_attribute("action") == first
    assert page.locator(".marks [aria-pressed=true]").inner_text() == was == "1 hit"
    page.keyboard.press("2")
    page.wait_for_url("**undo_to**")
    page.wait_for_selector("#review[data-ready=yes]")
    page.keyboard.press("p")
    page.wait_for_selector(".marks [aria-pressed=true]:has-text('in front')")
    page.wait_for_selector("#review[data-ready=yes]")
    assert page.locator("#verdict").get_attribute("action") == first
    page.fill("#i-instead", "the rope")
    page.fill("#i-miss", "6 cm")
    page.get_by_role("button", name="Save", exact=True).click()
    page.wait_for_selector("text=° of ring")
    page.locator("body").press("n")
    page.wait_for_selector("#review[data-ready=yes]")
    page.goto(f"{site.url}/log/sidecars?outing=1")
    page.get_by_role("button", name="Write 5 sidecars").click()
    page.wait_for_selector("text=5 sidecars written.")
    told = json.loads(subprocess.check_output(["exiftool", "-j", "-n", "-G1", str(card / "P0.xmp")]))[0]
    assert told["XMP-exif:FNumber"] == 5.6
    assert told["XMP-exifEX:LensModel"] == "Norrvik 50"
    assert told["XMP-exif:SubjectDistance"] == 2.4
    assert told["XMP-xmp:Rating"] == 4
    two = subprocess.check_output(["exiv2", "-PXkv", str(card / "P0.xmp")], text=True)
    assert "Xmp.exif.FNumber" in two
    assert "Xmp.xmp.Rating" in two
    page.get_by_role("button", name="Put 5 back as before").click()
    page.wait_for_selector("text=5 sidecars put back as before.")
    assert (card / "P0.xmp").read_text() == FOREIGN
    assert not (card / "P1.xmp").exists()


def test_dropped_pictures_come_in(site, open_page, card):
    page = open_page(site, "/log/pictures")
    page.set_input_files("#drop input[type=file]", [str(card / "P0.jpg"), str(card / "P1.jpg")])
    page.wait_for_url("**/jobs/*")
    page.get_by_role("link", name="See what came of it").click()
    page.wait_for_selector("h1:has-text('0 of 2 pictures belong to a frame')")


def test_a_pair_dragged_together_sets_the_clock(site, open_page, card):
    page = open_page(site, "/log/pictures")
    page.fill("#folder", str(card))
    page.get_by_role("button", name="Import").click()
    page.get_by_role("link", name="See what came of it").click()
    page.goto(f"{site.url}/log/pictures?outing=1")
    mark = page.locator("#timeline [data-picture]").first.bounding_box()
    frame = page.locator("#timeline [data-frame]").first.bounding_box()
    page.mouse.move(mark["x"] + 4, mark["y"] + 4)
    page.mouse.down()
    page.mouse.move(frame["x"] + 4, frame["y"] + 4, steps=4)
    page.mouse.up()
    page.wait_for_selector("text=its clock taken to be 7 min 4 s fast")


def test_one_to_one_is_one_to_one_and_stays_under_the_pointer(pictured_site, open_page):
    page = open_page(pictured_site, "/log/review?picture=4")
    page.wait_for_selector("#review[data-sharp=yes]")
    assert page.evaluate("document.querySelector('.pane img').naturalWidth") == 4500
    page.keyboard.press("z")
    assert page.evaluate("document.querySelector('.pane img').getBoundingClientRect().width") == 4500
    box = page.locator("#stage").bounding_box()
    page.mouse.move(box["x"] + 200, box["y"] + 200)
    under = "(() => { const b = document.querySelector('.pane img').getBoundingClientRect(); return [(%s - b.left) / b.width, (%s - b.top) / b.height]; })()"
    where = under % (box["x"] + 200, box["y"] + 200)
    before = page.evaluate(where)
    page.mouse.wheel(0, -300)
    expect(page.locator("#stage")).to_have_attribute("data-zoom", re.compile(r"^[2-4](\.|$)"))
    after = page.evaluate(where)
    assert after == pytest.approx(before, abs=0.001)
    page.mouse.down()
    page.mouse.move(box["x"] + 260, box["y"] + 240, steps=3)
    page.mouse.up()
    moved = page.evaluate(where)
    assert moved[0] < after[0]
    # Dragging marks nothing.
    assert page.evaluate("document.querySelector('#verdict [name=x]').value") != "0.0000"
    page.keyboard.press("z")
    assert page.get_attribute("#stage", "data-zoom") == "fit"
    page.keyboard.press("o")
    assert not page.locator(".overlay .edge").is_visible()


def test_two_fingers_come_closer_on_a_phone(pictured_site, open_page):
    page = open_page(pictured_site, "/log/review?picture=4", size="phone")
    page.wait_for_selector("#review[data-ready=yes]")
    assert page.evaluate("document.documentElement.scrollWidth") == 390
    page.evaluate("""() => {
      const stage = document.getElementById("stage");
      stage.setPointerCapture = () => {};
      const fire = (type, id, x, y) => stage.querySelector(".pane").dispatchEvent(
        new PointerEvent(type, { pointerId: id, clientX: x, clientY: y, bubbles: true, pointerType: "touch" }));
      const box = stage.getBoundingClientRect();
      const [x, y] = [box.left + box.width / 2, box.top + box.height / 2];
      fire("pointerdown", 1, x - 20, y); fire("pointerdown", 2, x + 20, y);
      fire("pointermove", 2, x + 120, y); fire("pointerup", 1, x, y); fire("pointerup", 2, x, y);
    }""")
    assert page.get_attribute("#stage", "data-zoom") != "fit"


def test_a_long_log_scrolls_on_and_filters_as_one_types(site, open_page):
    from welotrope.store.queries import log

    with site.server.config.app.state.database.session() as uow:
        first = log.get_frame(uow, 1)
        for _ in range(150):
            log.add_frame(uow, 1, first)
        uow.commit()
    page = open_page(site, "/log")
    assert page.locator(".frame-row").count() == 50
    for so_far in (100, 150, 174):
        page.mouse.wheel(0, 40_000)
        expect(page.locator(".frame-row")).to_have_count(so_far)
    page.keyboard.press("f")
    page.keyboard.type("velloise behind")
    expect(page.locator(".frame-row")).to_have_count(1)
    assert "0 of 1 hit" in page.inner_text("#tally")
    assert "q=velloise%20behind" in page.url


def test_frames_with_and_without_a_picture_stand_in_the_same_columns(pictured_site, site, open_page):
    def columns(shown):
        page = open_page(shown, "/log?outing=all")
        return page.eval_on_selector_all(
            ".frame-row",
            """rows => rows.map(row => [!!row.querySelector(".frame-thumb"),
                [...row.children].slice(-3).map(part => Math.round(part.getBoundingClientRect().left))])""",
        )

    url = pictured_site.url
    assert (
        open_page(pictured_site)
        .request.post(f"{url}/log/frames", form={"at": "2.4m", "stop": "4"}, headers={"origin": url})
        .ok
    )
    mixed = columns(pictured_site)
    assert {one for one, _ in mixed} == {True, False}
    assert len({tuple(places) for _, places in mixed}) == 1
    plain = columns(site)
    assert {one for one, _ in plain} == {False} and len({tuple(places) for _, places in plain}) == 1
    assert plain[0][1][0] < mixed[0][1][0] and plain[0][1][2] == mixed[0][1][2]
