"""What a series of focus shift, of the ring, of stops and of a wall tells, offers and fills in."""

import datetime as dt
from dataclasses import replace

import pytest

from tests.web.pages import soup, text_of, undo_path, words
from welotrope.core.ring.focus_shift import ShiftTrial
from welotrope.core.testshot.series_record import SeriesCurve, SeriesFigure, SeriesPoint, SeriesRecord
from welotrope.store.queries import kit, test_shots
from welotrope.store.queries.ring_records import RecordKind, get_record

WHEN = dt.datetime(2026, 3, 15, 10, 0)


def keep(client, kind, record, *, made_up=False):
    with client.app.state.database.session() as uow:
        found = kit.get_setup(uow, 1)
        new = test_shots.NewShot(
            series="d" * 16, setup_id=1, body_name=found.setup.body.name, lens_name=found.setup.lens.name,
            taken_at=WHEN, made_up=made_up,
        )  # fmt: skip
        id = test_shots.add_series(uow, new, kind, record)
        uow.commit()
    return id


def points(*rows):
    return tuple(SeriesPoint(at=at, score=score, low=low, high=high) for at, score, low, high in rows)


SHIFT = SeriesRecord(
    pictures=("a.jpg", "b.jpg", "c.jpg"),
    curves=(
        SeriesCurve(part="plane", points=points((1.4, 0.0, 0.0, 0.0), (2.8, 4.2, 3.9, 4.6), (5.6, 7.1, 6.0, 8.0))),
        SeriesCurve(part="turn", points=points((1.4, 0.0, 0.0, 0.0), (2.8, 1.2, 1.1, 1.3), (5.6, 2.3, 2.1, 2.6))),
    ),
    trials=(ShiftTrial(1.4, 40.0), ShiftTrial(2.8, 41.2), ShiftTrial(5.6, 42.3)),
)  # fmt: skip
RING = SeriesRecord(
    pictures=("a.jpg",) * 4, in_degrees=True, at_infinity=True,
    curves=(SeriesCurve(part="middle", points=points((0, 0.4, None, None), (2, 1.0, None, None)), best=1.7, low=1.5, high=1.9),),
)  # fmt: skip
STOPS = SeriesRecord(
    pictures=("a.jpg",) * 4,
    curves=(
        SeriesCurve(part="centre", points=points((2, 0.7, 0.6, 0.8), (4, 1, 1, 1), (8, 0.9, 0.85, 0.95)), best=4.0),
        SeriesCurve(part="corner", points=points((2, 0.4, 0.3, 0.5), (4, 0.97, 0.9, 1.03), (8, 1, 1, 1)), best=8.0),
    ),
)  # fmt: skip


def figure(name, value, wide):
    return SeriesFigure(name=name, value=value, low=value - wide, high=value + 2 * wide)


OWN_BLUR = replace(
    STOPS,
    figures=(
        figure("blur_centre_mm", 0.011, 0.002), figure("blur_corner_mm", 0.047, 0.003), figure("left_share", 0.81, 0),
        figure("right_share", 0.52, 0), figure("softer_side", 1.0, 0),
    ),
)  # fmt: skip
LEVEL = SeriesRecord(
    pictures=("a.jpg", "b.jpg"),
    figures=(
        figure("tilt_deg", 0.21, 0.02), figure("tip_deg", -0.01, 0.02), figure("across_mm", 0.14, 0.01),
        figure("upright_mm", 0.0, 0.01), figure("curvature_mm", -0.033, 0.004), figure("half_depth_mm", 0.05, 0.0),
    ),
)  # fmt: skip
RESULTS = [
    ("shift", SHIFT, "Stopped down to f/5.6, focus moves 7.1 mm back", "Save as the focus shift of this lens"),
    ("ring", RING, "Sharpest at 1.7° on the ring", "Add to the sightings of infinity"),
    (
        "stops",
        STOPS,
        "Sharpest at f/4 in the centre and at f/8 in the corners",
        "Save with the lens: sharpest f/4, corners from f/4",
    ),
    ("level", LEVEL, "The lens stands askew to the film by 0.21°", None),
]


@pytest.mark.parametrize(("kind", "record", "headline", "offer"), RESULTS)
def test_what_was_told_is_said_and_offered(client, kind, record, headline, offer):
    page = soup(client.get(f"/shots/series?id={keep(client, kind, record)}"))
    assert words(page.select_one("h1")) == headline
    buttons = [words(one) for one in page.select("form[action*='/keep'] button")]
    assert buttons == ([offer] if offer else [])
    made_up = client.get(f"/shots/series?id={keep(client, kind, record, made_up=True)}")
    assert "/keep" not in made_up.text
    assert "These pictures are made up" in text_of(made_up)


def test_level_says_sides_and_figures(client):
    page = client.get(f"/shots/series?id={keep(client, 'level', LEVEL)}")
    assert "nearer to the film on its left: by 0.183 mm across 50 mm of flange (0.166 to 0.218 mm)" in text_of(page)
    facts = [" ".join(words(part) for part in one.select("dt, dd")) for one in soup(page).select("dl.facts > div")]
    assert facts[0] == "Left to right +0.21° +0.19 to +0.25°"
    assert facts[1] == "Bottom to top −0.01° −0.03 to +0.03°"
    assert facts[3].endswith("−0.033 mm −0.037 to −0.025 mm")


def test_focus_shift_is_drawn_up_for_behind(client):
    page = soup(client.get(f"/shots/series?id={keep(client, 'shift', SHIFT)}"))
    heights = [float(one["cy"]) for one in page.select("figure svg")[0].select("circle")]
    assert heights == sorted(heights, reverse=True)
    bars = [(float(one["y1"]), float(one["y2"])) for one in page.select("figure svg")[0].select("line:not(.zero)")]
    assert all(low >= high for low, high in bars)
    assert all(low > high for low, high in bars[1:])
    assert float(page.select_one("line.zero")["y1"]) == heights[0]
    assert "At f/5.6 turn the ring 2.3° nearer than where it is sharp wide open." in words(page)


def test_saved_focus_shift_is_that_of_scale_and_can_be_undone(client):
    id = keep(client, "shift", SHIFT)
    before = record_of(client, RecordKind.SHIFT)
    answer = client.post(f"/shots/series/result/{id}/keep")
    assert answer.url.path == "/scale/shift"
    assert "Turn 2.3° nearer at f/5.6" in text_of(answer)
    kept = record_of(client, RecordKind.SHIFT)
    assert (kept.record.at(5.6), kept.taken) == (pytest.approx(2.3), WHEN.date())
    client.post(undo_path(answer), data={"back": "/scale/shift"})
    assert record_of(client, RecordKind.SHIFT) == before


def test_a_sighting_of_infinity_is_added_to_those_there(client):
    id = keep(client, "ring", RING)
    before = record_of(client, RecordKind.INFINITY)
    client.post(f"/shots/series/result/{id}/keep")
    after = record_of(client, RecordKind.INFINITY).record.sightings
    assert after[-1].angle_deg == 1.7
    assert len(after) == 1 + (len(before.record.sightings) if before else 0)


def test_sharpest_stops_go_into_the_lens_and_change_the_zones(client):
    client.post(f"/shots/series/result/{keep(client, 'stops', STOPS)}/keep")
    with client.app.state.database.session(write=False) as uow:
        lens = kit.get_setup(uow, 1).setup.lens
    assert (lens.best_stop, lens.corner_stop) == (4.0, 4.0)
    row = next(one for one in soup(client.get("/plan/zones")).select("tr") if "sharpest aperture" in words(one))
    assert "f/4" in words(row)


def test_nothing_is_kept_of_what_offers_nothing(client):
    answer = client.post(f"/shots/series/result/{keep(client, 'level', LEVEL)}/keep")
    assert answer.status_code == 422
    assert "nothing of it can be kept" in text_of(answer)


def record_of(client, kind):
    with client.app.state.database.session(write=False) as uow:
        stored = kit.get_setup(uow, 1)
        return get_record(uow, kind, stored.lens_id, stored.id)


@pytest.mark.parametrize("left_out", ["at_infinity", "in_degrees"])
def test_a_nearer_subject_or_another_unit_is_no_sighting_of_infinity(client, left_out):
    page = client.get(f"/shots/series?id={keep(client, 'ring', replace(RING, **{left_out: False}))}")
    assert "/keep" not in page.text


def test_made_up_series_are_not_said_to_be_measured(client):
    keep(client, "level", LEVEL, made_up=True)
    assert "Measured by test shots" not in text_of(client.get("/scale"))
    keep(client, "level", LEVEL)
    assert "The lens stands askew to the film by 0.21° measured on 15 Mar 2026" in text_of(client.get("/scale"))


def peaking_in_a_corner(client):
    page = soup(client.get("/aids", params={"setup": 1, "at": "2m", "stop": "1.4", "place": "corner"}))
    rows = [words(row) for row in page.select("main table tbody tr")]
    return next(row for row in rows if row.startswith("Peaking"))


def test_the_blur_of_the_lens_itself_goes_into_the_lens_and_decides_on_peaking_in_a_corner(client):
    before = peaking_in_a_corner(client)
    id = keep(client, "stops", OWN_BLUR)
    text = text_of(client.get(f"/shots/series?id={id}"))
    assert "a blur of 0.011 mm in the centre and 0.047 mm in the corners" in text
    assert "the right side keeps 52 % of its fine detail, the other side 81 %" in text
    client.post(f"/shots/series/result/{id}/keep")
    with client.app.state.database.session() as uow:
        lens = kit.get_setup(uow, 1).setup.lens
    assert (lens.wide_blur_mm, lens.corner_blur_mm) == (0.011, 0.047)
    assert peaking_in_a_corner(client) != before


def test_a_blur_that_may_be_none_is_neither_said_nor_kept(client):
    unsure = replace(OWN_BLUR, figures=(SeriesFigure(name="blur_centre_mm", value=0.004, low=0.0, high=0.009),))
    id = keep(client, "stops", unsure)
    assert "adds a blur" not in text_of(client.get(f"/shots/series?id={id}"))
    client.post(f"/shots/series/result/{id}/keep")
    with client.app.state.database.session() as uow:
        assert kit.get_setup(uow, 1).setup.lens.wide_blur_mm is None
