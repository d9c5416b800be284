"""Frames in full: meant and found, found again by anything, changed many at once, and on rolls of film."""

import csv
import io
import json

import pytest

from tests.conftest import NOW
from tests.web.pages import fields_of, headline, soup, text_of, undo_path
from welotrope.core.review.search import read_search
from welotrope.core.units.distance import Unit
from welotrope.store.queries import log

FULL = {
    "subject": "pawl of the winch", "spot": "upper left", "believed": "1.2 m", "aid": "magnified", "technique": "lean",
    "support": "tripod", "light": "indoors", "instead": "the drum", "miss": "4 cm", "tags": "Winch, teal",
}  # fmt: skip


def frame(client, id):
    with client.app.state.database.session(write=False) as uow:
        return log.get_frame(uow, id)


def log_one(client, **more):
    return client.post("/log/frames", data={"at": "1.2 m", "stop": "4", **more})


def test_everything_of_a_frame_is_kept_and_shown(client):
    words = text_of(log_one(client, **FULL))
    assert "pawl of the winch, upper left, estimated at 1.20 m, magnified" in words
    form = fields_of(client.get("/log/frames/25"), "/log/frames/25")
    assert {name: form[name] for name in ("subject", "spot", "aid", "technique", "tags")} == {
        "subject": "pawl of the winch", "spot": "upper left", "aid": "magnified", "technique": "lean", "tags": "winch teal",
    }  # fmt: skip
    changed = client.post("/log/frames/25", data=form | {"outcome": "behind"})
    assert "the drum sharp instead, 4 cm behind" in text_of(changed)
    page = text_of(client.get("/log/frames/25"))
    assert "° of ring behind" in page


def test_quick_entry_goes_on_from_the_frame_before(client):
    log_one(client, **FULL, iso="400")
    form = fields_of(client.get("/log/new?at=1200mm&stop=4"), "/log/frames")
    assert [form[name] for name in ("aid", "technique", "support", "light", "iso")] == [
        "magnified", "lean", "tripod", "indoors", "400",
    ]  # fmt: skip
    assert (form["subject"], form["note"]) == ("", "")


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"aid": "crystal ball"}, "none of them"), ({"believed": "far"}, "Estimated distance"),
        ({"spot": "31"}, "no place in a picture"), ({"tags": "x" * 40}, "Tags"), ({"subject": "x" * 90}, "at most 80"),
        ({"technique": "luck"}, "Technique"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_at_its_field(client, change, words):
    answer = log_one(client, **{**FULL, **change})
    assert answer.status_code == 422
    assert words in text_of(answer)
    assert 'value="pawl of the winch"' in answer.text or "subject" in change


def test_frames_are_found_by_words_bounds_and_results(client):
    def found(**asked):
        page = soup(client.get("/log", params={"outing": "all", **asked}))
        return len(page.select(".frame-row"))

    assert found() == 24
    assert found(q="velloise") == 5
    assert found(q="norrvik f/1.4") == 3
    assert found(q="norrvik -tripod f<2") == 4
    assert found(q=">10m <20m") == 4
    assert found(q="2026-03") == 24
    assert found(q="2026-04") == 0
    assert found(outcome="unchecked") == 1
    assert found(lens="Tarnholt 35", outcome="moved") == 1
    # A percent sign is looked for, not taken for anything.
    assert found(q="100%") == 0


def test_what_a_search_cannot_read_is_named(client):
    page = text_of(client.get("/log?q=f<x"))
    assert "Not understood: f<x" in page
    assert "Nothing is found" in text_of(client.get("/log?q=zebra"))


def test_many_frames_are_changed_as_one_and_undone_as_one(client):
    answer = client.post(
        "/log/change?outing=1", data={"frame": ["2", "3"], "aid": "peaking", "tags": "splice", "outcome": "-"}
    )
    assert "Changed 2 frames" in text_of(answer)
    assert [(frame(client, id).aid, frame(client, id).tags, frame(client, id).outcome) for id in (2, 3)] == [
        ("peaking", ("splice",), None)
    ] * 2
    client.post(undo_path(answer))
    assert (frame(client, 2).aid, frame(client, 2).tags, frame(client, 2).outcome.value) == ("magnified", (), "hit")


def test_all_that_a_search_finds_are_changed(client):
    client.post("/log/change?outing=all&q=velloise", data={"every": "yes", "light": "sun"})
    page = soup(client.get("/log?outing=all&q=velloise+sun"))
    assert len(page.select(".frame-row")) == 5
    gone = client.post("/log/change?outing=all&q=velloise", data={"every": "yes", "intent": "delete"})
    assert "Deleted 5 frames" in text_of(gone)
    client.post(undo_path(gone))
    assert len(soup(client.get("/log?outing=all&q=velloise")).select(".frame-row")) == 5


def test_a_change_to_none_or_of_nothing_says_what_is_missing(client):
    none = client.post("/log/change?outing=1", data={"aid": "magnified"})
    nothing = client.post("/log/change?outing=1", data={"frame": ["2"]})
    wrong = client.post("/log/change?outing=1", data={"frame": ["2"], "iso": "fast"})
    assert [one.status_code for one in (none, nothing, wrong)] == [422] * 3
    assert "Choose frames first" in text_of(none)
    assert "Nothing to change was said" in text_of(nothing)
    assert "ISO" in text_of(wrong)


def test_a_roll_holds_film_and_frames_and_is_dated_later(client):
    page = client.post("/log/rolls", data={"name": "26-07", "film": "Grauwe", "iso": "400", "push": "1"})
    assert headline(page) == "Roll 26-07, Grauwe ISO 400 at 800"
    client.post("/log/change?outing=1&q=kyrstad", data={"every": "yes", "roll": "1"})
    listed = soup(client.get("/log/rolls/1"))
    assert [words.get_text() for words in listed.select(".roll .engraved")] == ["1", "2", "3", "4", "5", "6"]
    dated = client.post("/log/rolls/1/dates", data={"first": "2026-04-02T10:00", "last": "2026-04-02T11:40"})
    assert "Dated the frames" in text_of(dated)
    assert [f"{frame(client, id).taken_at:%H:%M}" for id in range(8, 14)] == [
        "10:00",
        "10:20",
        "10:40",
        "11:00",
        "11:20",
        "11:40",
    ]
    assert soup(client.get("/log?outing=all&q=26-07")).select(".frame-row")
    wrong = client.post("/log/rolls/1/dates", data={"first": "2026-04-02T10:00", "last": "2026-04-01T10:00"})
    assert wrong.status_code == 422
    assert "before the first" in text_of(wrong)
    gone = client.post("/log/rolls/1/delete")
    assert frame(client, 8).roll_id is None
    client.post(undo_path(gone))
    assert frame(client, 8).roll_id == 1


def test_a_roll_without_a_name_is_refused(client):
    answer = client.post("/log/rolls", data={"name": " ", "push": "9"})
    assert answer.status_code == 422
    assert "needs a name" in text_of(answer)


def test_csv_holds_the_frames_in_full(client):
    log_one(client, **FULL)
    rows = list(csv.DictReader(io.StringIO(client.get("/log/export.csv").text)))
    last = next(row for row in rows if row["subject"] == FULL["subject"])
    assert (last["place_x"], last["believed_mm"], last["miss_mm"], last["tags"]) == (
        "0.1667",
        "1200.0",
        "40.0",
        "winch teal",
    )
    assert json.dumps(rows)


def test_a_log_of_a_hundred_thousand_pages_through_without_losing_one(client):
    """Pages begin behind a frame, not after a count, so that none is shown twice when others come."""
    with client.app.state.database.session() as uow:
        first = log.get_frame(uow, 1)
        many = log.add_outing(uow, "many", NOW.date())
        for _ in range(120):
            log.add_frame(uow, many, first)
        uow.commit()
    path, seen = f"/log?outing={many}", []
    while path:
        page = soup(client.get(path, headers={"hx-request": "true"}))
        seen += [row["id"] for row in page.select(".frame-row")]
        more = page.select_one("[hx-get*=after]")
        path = more["hx-get"] if more else None
    assert len(seen) == len(set(seen)) == 120


@pytest.mark.parametrize("q", ["", "norrvik", "f<4 -soft", ">3m", "zebra", "2026-03-14"])
def test_one_look_finds_what_two_would(client, q, monkeypatch):
    """However many are found, the first page and the tally are those of two queries of their own."""
    search = read_search(q, Unit.METRIC)
    with client.app.state.database.session(write=False) as uow:
        wanted = log.page_of_frames(uow, None, search, None, 10), log.outcomes_of(uow, None, search=search)
        assert log.first_page(uow, None, search, 10) == wanted
        monkeypatch.setattr(log, "_FEW", 2)
        assert log.first_page(uow, None, search, 10) == wanted


def test_a_place_may_be_a_word_and_belongs_to_the_subject(client):
    answer = log_one(client, **FULL | {"spot": "nearer eye", "subject": "Ida"})
    assert answer.status_code == 200
    assert "Ida, nearer eye" in text_of(client.get("/log"))


def test_many_frames_are_given_an_amount_and_what_was_sharp_instead_at_once(client):
    answer = client.post("/log/change?outing=1", data={
        "frame": ["3", "5"], "miss": "2 cm", "instead": "the ear", "outcome": "in front"})  # fmt: skip
    page = text_of(answer)
    assert page.count("the ear") >= 2
    bad = client.post("/log/change?outing=1", data={"frame": ["3"], "miss": "a bit"})
    assert bad.status_code == 422
    assert "How far off" in text_of(bad)
