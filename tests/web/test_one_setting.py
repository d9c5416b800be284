"""One setting says the same wherever it stands: index reading and limits on every page, link and in the field table."""

import json
import math
import random

import pytest

from tests.conftest import NOW
from tests.web.pages import soup
from welotrope.core.plan.setting import ring_setting
from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial
from welotrope.store.queries import kit, ring_records
from welotrope.store.queries.ring_records import RecordKind, save_record

# By the demo: adapters too thick and too thin, a focus shift, a zoom, an indicator, a ring read with a bad reading.
SETUPS = range(1, 8)


def text_of(node):
    for part in node.select("[hidden]"):
        part.decompose()
    return " ".join(node.get_text().replace("\xa0", " ").split())


def index_of(node):
    """What a page tells to put under the index, or what is in focus on a lens without a scale."""
    shown = node.select_one("[data-index-on]") or node.select_one("[data-focus-at]")
    return text_of(shown)


def planned(page):
    """Every setting of a page that may be kept: where it says to put the ring, all it says, and where its link leads."""
    for link in page.select("form.tools a[href^='/scale?at=']"):
        part = link.closest("section.zone-card") or page.select_one("main")
        yield index_of(part), text_of(part), link["href"]


def pages_of(rng, setup):
    closest = setup.ring().closest_mm
    near = max(closest * rng.uniform(1.1, 3), 300.0)
    far = near * rng.uniform(1.3, 4)
    stop = rng.choice(setup.lens.stops)
    yield f"/plan?subject=a@{near:.1f}&subject=b@{far:.1f}"
    yield f"/plan/zones?stop={stop:g}&count=2"
    yield f"/plan/light?near={near:.1f}mm&far={far:.1f}mm&light=sun&most_iso=6400"
    yield f"/plan/moving?distance={far:.1f}mm&stop={stop:g}&moves=walking&angle=0"
    yield f"/plan/sitter?distance={near:.1f}mm&stop={stop:g}"


def shifted(client, id, trials):
    with client.app.state.database.session() as uow:
        stored = kit.get_setup(uow, id)
        record = FocusShift(tuple(ShiftTrial(stop, angle) for stop, angle in trials))
        save_record(uow, RecordKind.SHIFT, stored.lens_id, id, record, NOW.date())
        uow.commit()


@pytest.mark.parametrize("unit", ["m", "ft"])
@pytest.mark.parametrize("id", SETUPS)
def test_following_a_setting_to_scale_changes_nothing(client, id, unit):
    rng = random.Random(100 * id)
    if id in (1, 4):  # a lens that shifts, on an adapter
        shifted(client, id, [(1.4, 50.0), (2.8, 51.5), (8.0, 53.0)])
    client.post("/unit", data={"unit": unit, "back": "/scale"})
    with client.app.state.database.session() as uow:
        setup = kit.get_setup(uow, id).setup
    followed = 0
    for zoom in setup.zoom_marks or (None,):
        hand = f"&setup={id}" + (f"&zoom={zoom:g}" if zoom else "")
        at = setup.zoomed(zoom) if zoom else setup
        for path in pages_of(rng, at):
            for index, said, href in planned(soup(client.get(path + hand))):
                scale = soup(client.get(href + hand))
                heading = scale.select_one("h1")
                near, far = (text_of(heading.select_one(f"[data-out={end}]")) for end in ("near", "far"))
                assert index_of(heading) == index, path
                if "/sitter" not in path:  # which tells them from the eye
                    assert f"{near} to {far}" in said, (path, near, far, said[:300])
                followed += 1
    assert followed >= 5


@pytest.mark.parametrize("id", SETUPS)
def test_the_field_table_tells_the_setting_of_the_core(client, id):
    if id == 1:
        shifted(client, id, [(1.4, 50.0), (2.8, 51.5), (8.0, 53.0)])
    with client.app.state.database.session() as uow:
        stored = kit.get_setup(uow, id)
        setup = stored.setup
        kept = max(setup.ring(8.0).closest_mm * 2, 500.0)
        ring_records.add_preset(uow, stored.lens_id, "kept here", kept, setup.lens.stops[2], ())
        uow.commit()
    uow = json.loads(soup(client.get("/field/pocket.html")).select_one("#field-book").string)
    hands = [one for one in uow["hands"] if one["setup"] == id and one["zoom"] in (None, setup.marked_mm)]
    assert hands
    for one in hands[0]["settings"]:
        core = ring_setting(setup, one["angle"], one["stop"])
        reading = core.focus_mm if core.engraved_mm is None else core.engraved_mm
        for told, exact in ((one["engraved"], reading), (one["near"], core.near_mm), (one["far"], core.far_mm)):
            # The page keeps angles to a thousandth of a degree and lengths to a tenth of a millimetre.
            assert 1 / (told or math.inf) == pytest.approx(1 / exact, rel=2e-3, abs=2e-7)
        assert one["reads_true"] == (core.reads_true or core.engraved_mm is None)
