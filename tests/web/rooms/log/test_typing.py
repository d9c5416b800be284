"""Lines typed in: said back as they are typed, stored together or not at all."""

import datetime as dt

import pytest

from tests.web.pages import soup, text_of, words
from welotrope.core.review.outcomes import Outcome
from welotrope.store.queries import log

SHEET = {"outing": "Ferry trials", "day": "2026-03-12", "begun": "9:30", "first": "12", "film": "yes"}
LINES = "35/8 z:far ok\nfront\n2.5m f4; rail\n10:15 b"


def frames(database):
    with database.session() as uow:
        return [(name, frame) for name, frame in log.every_frame(uow)]


def test_lines_become_frames_of_their_outing_by_their_numbers(client, database):
    before = len(frames(database))
    answer = client.post("/log/type", data={**SHEET, "text": LINES})
    assert "Typed in 4 frames" in text_of(answer)
    new = [frame for name, frame in frames(database) if name == "Ferry trials"]
    assert len(frames(database)) == before + 4
    assert [frame.film_frame for frame in new] == ["12", "13", "14", "15"]
    assert [frame.taken_at.time() for frame in new] == [dt.time(9, 30), dt.time(9, 31), dt.time(9, 32), dt.time(10, 15)]
    assert [frame.outcome for frame in new] == [Outcome.HIT, Outcome.FRONT, None, Outcome.BEHIND]
    # Two have 35 mm; the one on the body in hand is meant.
    assert {(frame.lens_name, frame.body_name) for frame in new} == {("Lindmere 35–70", "Ostrel 6")}
    assert new[2].note == "rail"


def test_more_lines_go_to_the_same_outing(client, database):
    for _ in range(2):
        client.post("/log/type", data={**SHEET, "text": "50/8 z:far"})
    with database.session() as uow:
        assert [(one.name, one.frames) for one in log.list_outings(uow)].count(("Ferry trials", 2)) == 1


def test_nothing_is_stored_while_a_line_is_not_understood_and_nothing_is_lost(client, database):
    before = len(frames(database))
    answer = client.post("/log/type", data={**SHEET, "text": LINES + "\n28/8 z:zebra"})
    assert answer.status_code == 422
    assert "has no such setting" in text_of(answer)
    assert soup(answer).select_one("textarea").string.strip().endswith("28/8 z:zebra")
    assert len(frames(database)) == before


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"day": "yesterday"}, "not a date"), ({"begun": "late"}, "not a time of day"), ({"outing": ""}, "needs a name"),
        ({"first": "-3"}, "0 to 9999"), ({"text": ""}, "Nothing entered yet"), ({"text": "50/8 z:far\n" * 500}, "in parts"),
    ],
)  # fmt: skip
def test_what_holds_for_all_is_checked(client, database, change, words):
    before = len(frames(database))
    answer = client.post("/log/type", data={**SHEET, "text": "50/8 z:far"} | change)
    assert words in text_of(answer)
    assert len(frames(database)) == before


def test_the_echo_says_every_line_back_in_its_place(client):
    answer = client.post(
        "/log/type/echo", data={**SHEET, "text": "50/8 z:far ok\n\nnonsense"}, headers={"hx-request": "true"}
    )
    said = [words(line) for line in soup(answer).select(".echo li")]
    assert said[0].startswith("12 Norrvik 50 f/8, far zone 10.9 m, 5.49 m to ∞, hit")
    assert said[1] == ""
    assert "none of the words" in said[2]


def test_markup_in_a_line_stays_text(client):
    answer = client.post("/log/type/echo", data={**SHEET, "text": "50/8 z:far; <b>x</b>"})
    assert "<b>x" not in answer.text
    assert "&lt;b&gt;x" in answer.text


def test_lines_tell_aid_amount_what_was_sharp_instead_and_the_roll(client, database):
    text = "50/2 1.2m by:split front 2cm on:her_ear\n1.3m behind 1.5cm\nok by:eye\nsoft\nshaken"
    client.post("/log/type", data={**SHEET, "text": text, "film": "yes", "roll": "1"})
    new = [frame for name, frame in frames(database) if name == "Ferry trials"]
    assert [frame.aid for frame in new] == ["split_image", "split_image", "eye", "eye", "eye"]
    assert [frame.outcome for frame in new] == [
        Outcome.FRONT, Outcome.BEHIND, Outcome.HIT, Outcome.SOFT, Outcome.SHAKEN,
    ]  # fmt: skip
    assert [frame.miss_mm for frame in new] == [20, 15, None, None, None]
    assert [frame.instead for frame in new] == ["her ear", "", "", "", ""]
    assert {frame.roll_id for frame in new} == {1}


@pytest.mark.parametrize(
    ("line", "words"), [("50/2 1m by:crystal", "no such aid"), ("50/2 1m front 2parsec", "none of the words")]
)
def test_what_a_line_cannot_say_is_named(client, line, words):
    assert words in text_of(client.post("/log/type", data={**SHEET, "text": line}))
