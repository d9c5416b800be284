"""Outings and frames: logged, completed, changed, deleted, brought back, in pages."""

import html

import pytest

from tests.web.pages import fields_of, soup, text_of, undo_path
from tests.web.pages import words as words_of


def test_empty_log_says_how_to_fill_it(empty_client):
    assert "No frame is logged yet" in text_of(empty_client.get("/log"))


def test_frame_is_logged_from_the_ring_and_marked(client):
    form = text_of(client.get("/log/new", params={"at": "2400mm", "stop": "5.6"}))
    assert "The ring stands on the preset “shed bench”" in form
    answer = client.post(
        "/log/frames",
        data={
            "at": "2.4 m",
            "stop": "5.6",
            "preset": "shed bench",
            "shutter": "1/60",
            "iso": "400",
            "note": "<b>Ida</b>",
        },
    )
    words = text_of(answer)
    assert "Outing of 15 March 2026" in words
    assert "<b>Ida</b>" in words
    assert "1/60 s, ISO 400. Sharp 2.10 m to 2.81 m, 71 cm deep, preset shed bench" in words
    marked = client.post("/log/frames/25/mark", data={"outcome": "behind"}, headers={"hx-request": "true"})
    assert [words_of(button) for button in soup(marked).select('[aria-pressed="true"]')] == ["behind"]
    assert "0 of 1 hit" in text_of(marked)
    assert client.post("/log/frames/25/mark", data={"outcome": "perfect"}).status_code == 422


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"at": "1 cm"}, "Set distance"), ({"at": ""}, "read nothing"), ({"stop": "0"}, "between f/0.5"),
        ({"shutter": "fast"}, "not a shutter time"), ({"iso": "-1"}, "ISO"), ({"note": "x" * 700}, "at most 500"),
        ({"taken_at": "yesterday"}, "not a date and time"), ({"film_frame": "x" * 40}, "too long"),
    ],
)  # fmt: skip
def test_bad_frames_are_refused_with_everything_kept(client, change, words):
    data = {"at": "2.4 m", "stop": "5.6", "note": "kept note", "iso": "400"} | change
    answer = client.post("/log/frames", data=data)
    assert answer.status_code == 422
    assert words in text_of(answer)
    for name, value in data.items():
        assert f'value="{html.escape(value)}"' in answer.text, name
    assert len(client.get("/log/export.csv").text.splitlines()) == 25


EDIT = {"at": "2.6 m", "stop": "4", "taken_at": "2026-03-14T16:05", "note": "new note", "shutter": "30", "iso": ""}


def test_a_frames_distance_stop_and_time_can_be_changed(client):
    before = fields_of(client.get("/log/frames/8"), "/log/frames/8")
    at, stop = before["at"], before["stop"]
    same = text_of(client.post("/log/frames/8", data=EDIT | {"at": at, "stop": stop}))
    changed = client.post("/log/frames/8", data=EDIT)
    assert "2.60 m" in text_of(changed)
    assert "f/4" in text_of(changed)
    assert "16:05" in text_of(changed)
    assert text_of(changed) != same
    assert client.post("/log/frames/8", data=EDIT | {"at": "soon"}).status_code == 422
    assert client.post("/log/frames/8", data=EDIT | {"taken_at": "yesterday"}).status_code == 422


def test_a_frame_whose_set_up_is_gone_keeps_its_setting(client):
    for id in range(1, 7):
        client.post(f"/kit/setups/{id}/delete")
    page = client.get("/log/frames/8")
    assert "Its set-up is gone" in text_of(page)
    kept = text_of(client.post("/log/frames/8", data={"note": "later", "at": "9 m", "stop": "11"}))
    assert "later" in kept
    assert "9.00 m" not in kept


def test_what_is_logged_from_a_plan_in_feet_is_what_was_planned(client):
    client.cookies.set("unit", "ft")
    state = "at=2955.7mm&stop=8"
    form = fields_of(client.get(f"/log/new?{state}"), "/log/frames")
    assert form["at"] == "9′8″"  # as one says it; what stood on the ring is kept
    client.post(
        "/log/frames", data={"at": form["at"], "exact": form["exact"], "stop": "8", "numbers_in": "ft", "preset": ""}
    )
    log = client.get("/log/export.csv").text
    assert ",2955.7," in log


def test_a_distance_that_is_written_over_counts_as_written(client):
    form = fields_of(client.get("/log/new?at=2955.7mm&stop=8"), "/log/frames")
    assert form["at"] == "2.96 m"
    client.post("/log/frames", data={"at": "3.1 m", "exact": form["exact"], "stop": "8", "preset": ""})
    assert ",3100.0," in client.get("/log/export.csv").text


def test_frame_can_be_completed_deleted_and_brought_back(client):
    answer = client.post("/log/frames/8", data=EDIT | {"film_frame": "1A"})
    assert "frame 1A" in text_of(answer)
    gone = client.post("/log/frames/8/delete")
    assert "new note" not in text_of(gone)
    back = client.post(undo_path(gone), data={"back": "/log?outing=1"})
    assert "new note" in text_of(back)


def test_outings_begin_are_renamed_and_deleted(client):
    words = text_of(client.post("/log/outings", data={"name": "Night on the lake", "day": "2026-04-01"}))
    assert words.count("Night on the lake") >= 2
    assert "1 April 2026" in words
    assert "Lake, night" in text_of(client.post("/log/outings/2", data={"name": "Lake, night", "day": "2026-04-02"}))
    assert client.post("/log/outings", data={"name": "", "day": "x"}).status_code == 422
    assert "Deleted an outing" in text_of(client.post("/log/outings/2/delete"))


def test_long_outings_come_in_pages(client, demo_folder):
    from welotrope.store.queries import log
    from welotrope.store.session import Database

    database = Database(demo_folder)
    with database.session() as session:
        first = log.get_frame(session, 1)
        for _ in range(60):
            log.add_frame(session, 1, first)
        session.commit()
    database.close()
    page = soup(client.get("/log?outing=1"))
    assert len(page.select(".frame-row")) == 50
    path = page.select_one("[hx-get*=after]")["hx-get"]
    more = client.get(path, headers={"hx-request": "true"})
    assert more.text.count('class="frame-row"') == 34
    assert "<html" not in more.text
