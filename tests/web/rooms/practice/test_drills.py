"""Drills page by page: a trial is asked for, kept, told of, and undone; what cannot be read is named and stays."""

import datetime as dt
import math
import re
import sqlite3

import pytest

from tests.web.pages import fields_of, headline, soup, text_of, undo_path
from welotrope.core.ring.survey import Point, Survey, SurveyKind
from welotrope.store.queries import kit, ring_records
from welotrope.store.session import DATABASE_NAME, Database


def begin(client, drill="tape", **chosen):
    """Begin a session; returns where its page is."""
    sent = {**fields_of(client.get(f"/practice/{drill}"), f"/practice/{drill}/begin"), **chosen}
    answer = client.post(f"/practice/{drill}/begin", data=sent)
    assert answer.status_code == 200, text_of(answer)
    return str(answer.url)


def keep(client, url, drill="tape", **read):
    sent = {**fields_of(client.get(url), f"/practice/{drill}"), **read}
    return client.post(f"/practice/{drill}", data=sent)


def test_a_tape_drill_says_for_which_stop_the_hand_is_consistent(client):
    url = begin(client)
    ways = set()
    for size, where in (
        (0.4, "farther"),
        (0.3, "nearer"),
        (0.5, "nearer"),
        (0, "on"),
        (0.2, "farther"),
        (0.6, "farther"),
    ):
        page = client.get(url)
        ways.add(re.search(r"towards ∞|nearer", headline(page)).group())
        answer = keep(client, url, reading=str(size), where=where)
        assert answer.status_code == 200
    assert ways == {"towards ∞", "nearer"}
    said = text_of(answer)
    assert "Consistent enough for f/" in said
    assert "this drill cannot show a bias, since you set the line yourself" in said
    assert len(soup(answer).select(".trials-plot .try")) == 6
    assert "6 tape trials" in text_of(client.get("/practice/hand"))
    assert "Undo" in said
    client.post(undo_path(answer), data={"back": "/practice"})
    assert len(soup(client.get(url)).select(".trials-plot .try")) == 5


def test_a_line_set_by_something_finer_tells_a_bias(client):
    url = begin(client, finer="yes")
    for _ in range(8):
        answer = keep(client, url, reading="1.5", where="farther", unit="deg")
    assert "leaves it behind" in text_of(answer)


def test_the_mark_may_be_read_in_degrees_in_mm_or_on_the_scale(client):
    errors = []
    for unit, reading in (("deg", "2"), ("mm", str(2 * 61 * 3.14159265 / 360)), ("scale", "2.03 m")):
        url = begin(client)
        answer = keep(client, url, reading=reading, where="farther", unit=unit)
        errors.append(float(re.search(r"([\d.]+)° behind", text_of(answer)).group(1)))
    assert errors[0] == errors[1] == 2.0
    assert errors[2] == pytest.approx(0.6, abs=0.1)  # f²/s² of 30 mm, 32° to the mm


@pytest.mark.parametrize(
    ("read", "words"),
    [
        ({"reading": "much", "where": "farther"}, "not a number"),
        ({"reading": "1", "where": ""}, "not told which way"),
        ({"reading": "-1", "where": "nearer"}, "without a sign"),
        ({"reading": "900", "where": "nearer", "unit": "deg"}, "does not turn so far"),
        ({"reading": "5 mm away", "where": "", "unit": "scale"}, "Reading"),
    ],
)
def test_a_reading_that_makes_no_sense_is_named_and_kept(client, read, words):
    url = begin(client)
    answer = keep(client, url, **read)
    assert answer.status_code == 422
    assert words in text_of(answer)
    assert soup(answer).select_one("#f-reading")["value"] == read["reading"]
    assert soup(client.get(url)).select(".trials-plot") == []


def test_a_session_out_of_reach_is_not_begun(client):
    sent = fields_of(client.get("/practice/tape"), "/practice/tape/begin")
    for distance, words in (("10 cm", "0.45"), ("soon", "not a distance")):
        answer = client.post("/practice/tape/begin", data={**sent, "distance": distance})
        assert answer.status_code == 422
        assert words in text_of(answer)


def test_an_aid_of_no_kind_is_named_and_no_session_begun(client):
    sent = fields_of(client.get("/practice/tape"), "/practice/tape/begin")
    answer = client.post("/practice/tape/begin", data={**sent, "aid": "sixth sense"})
    assert answer.status_code == 422
    assert "sixth sense" in soup(answer).select_one("#h-aid.error").text
    assert "rangefinder" in soup(answer).select_one("#h-aid").text
    url = begin(client)
    assert keep(client, url, reading="1", where="nearer", aid="sixth sense").status_code == 422
    assert soup(client.get(url)).select(".trials-plot") == []
    tampered = client.get(url.replace("aid=", "aid=sixth+sense&was="))
    assert tampered.status_code == 200
    assert "sixth sense" in soup(tampered).select_one("#h-aid.error").text


def test_a_ring_left_at_its_end_is_set_aside_and_said_to_be(client):
    url = begin(client, distance="inf")
    answer = keep(client, url, reading="0", where="on")
    assert "set aside: at an end of the travel" in text_of(answer)
    assert "where sharp cannot be passed" in text_of(client.get("/practice/hand"))


def test_guesses_narrow_what_plan_says_of_zones(client):
    before = text_of(client.get("/plan/zones?stop=8"))
    assert "For an average estimate, which is off by about 15 %" in before
    for guess, true in (("2.6", "2"), ("1.2", "1"), ("6.2 m", "5 m"), ("4ft", "3ft"), ("1,9", "1.5"), ("2.5", "2")):
        answer = keep(client, "/practice/guess", "guess", guess=guess, taped=true)
    assert re.search(r"You judge \d+ % too far", text_of(answer))
    after = text_of(client.get("/plan/zones?stop=8"))
    assert "From 6 of your estimates" in after


@pytest.mark.parametrize(("guess", "true"), [("", "2"), ("2", ""), ("inf", "2"), ("2", "0"), ("2", "soon")])
def test_a_guess_without_a_distance_is_asked_again(client, guess, true):
    answer = keep(client, "/practice/guess", "guess", guess=guess, taped=true)
    assert answer.status_code == 422
    assert soup(answer).select_one(".error")
    assert soup(answer).select_one("#f-guess")["value"] == guess


def test_walking_up_and_leaning_are_measured(client):
    assert "Walk up until you think it is" in headline(client.get("/practice/approach"))
    told = re.search(r"it is ([\d.]+) m", headline(client.get("/practice/approach"))).group(1)
    answer = keep(client, "/practice/approach", "approach", taped=f"{float(told) / 1.1:.3f}")
    assert answer.status_code == 200
    assert "You judge" in text_of(answer)
    url = begin(client, "lean")
    where = float(re.search(r"Set the ring to ([\d.]+)", headline(client.get(url))).group(1))
    answer = keep(client, url, "lean", taped=f"{where * 0.98:.3f} m")
    assert "behind" in text_of(answer)


def test_five_a_day_make_a_streak(client):
    url = begin(client, "daily", technique="pass and return")
    for place, side in enumerate(("hit", "hit", "front", "hit", "behind"), start=1):
        assert f"Picture {place} of 5" in headline(client.get(url))
        answer = keep(client, url, "daily", side=side)
    assert headline(answer).startswith("Five done")
    assert "1 day on end" in text_of(answer)
    assert keep(client, url, "daily", side="beside").status_code == 422


def test_a_friend_has_a_record_of_his_own(client):
    client.post("/practice/person", data={"person": "Mats"})
    assert "Nothing is known of Mats’s hand yet" in headline(client.get("/practice/hand"))
    for _ in range(3):
        keep(client, "/practice/guess", "guess", guess="3", taped="2")
    assert "3 guesses" in text_of(client.get("/practice/hand"))
    client.post("/practice/person", data={"person": ""})
    assert "3: somebody else’s hand" in text_of(client.get("/practice/hand"))
    assert client.post("/practice/person", data={"person": "x" * 60}).status_code == 422


def test_the_reaction_is_told_and_leads_to_the_trap(client):
    assert "Measure your reaction time" in headline(client.get("/practice/reaction"))
    presses = {"press": [str(ms) for ms in (240, 250, 260, 255, 245, 251)], "back": "/practice/reaction"}
    assert "250 ms" in headline(client.post("/plan/reaction", data=presses))


def test_a_change_of_the_kit_is_noted_watched_and_taken_back(practised_client):
    client = practised_client
    client.post("/in-hand", data={"setup": "4"})
    answer = client.post("/practice/changes", data={"what": "screen", "note": "brighter", "made_at": "2026-01-31"})
    said = text_of(answer)
    assert re.search(r"Focusing screen, 31 January 2026: brighter", said)
    assert re.search(r"Split image: scatter [\d.]+× before, [\d.]+× since", said)
    for change, words in (({"made_at": "2031-01-01"}, "has not come yet"), ({"what": "lens cap"}, "none of that name"),
                          ({"made_at": "spring"}, "not a date")):  # fmt: skip
        refused = client.post("/practice/changes", data={"what": "screen", "note": "", "made_at": "", **change})
        assert refused.status_code == 422
        assert words in text_of(refused)
    client.post(undo_path(answer), data={"back": "/practice/hand"})
    assert "brighter" not in text_of(client.get("/practice/hand"))


def test_my_hand_of_three_months(practised_client):
    said = text_of(practised_client.get("/practice/hand"))
    assert re.search(r"24 guesses", said)
    assert "6: somebody else’s hand" in said
    assert "1: the ring stood at an end of its travel" in said
    assert len(soup(practised_client.get("/practice/hand")).select(".learning-plot")) >= 2


def test_a_session_is_given_to_whom_it_was_and_that_is_undone(client):
    for _ in range(3):
        keep(client, "/practice/guess", "guess", guess="3", taped="2")
    form = soup(client.get("/practice/guess")).select_one('form[action^="/practice/sessions/"]')
    given = client.post(form["action"], data={"person": "Ove"})
    assert "3: somebody else’s hand" in text_of(given)
    client.post(undo_path(given), data={"back": "/practice/hand"})
    assert "3 guesses" in text_of(client.get("/practice/hand"))


def test_a_tape_trial_of_before_the_ring_was_measured_again_is_set_aside(practised_client, practised_folder):
    """The Norrvik on the reflex was taped twice; it is measured between the two evenings."""
    database = Database(practised_folder)
    with database.session() as uow:
        held = kit.get_setup(uow, 4)
        survey = Survey(
            points=(Point(0.5, math.inf), Point(70.0, 1200.0), Point(140.0, 700.0)), kind=SurveyKind.MEASURED
        )
        ring_records.save_record(
            uow, ring_records.RecordKind.MEASURED, held.lens_id, held.id, survey, dt.date(2026, 2, 1)
        )
        uow.commit()
    database.close()
    assert "read on a ring that was measured again since" in text_of(practised_client.get("/practice/hand"))


def test_days_on_which_every_trial_was_on_the_line_break_no_page(client, demo_folder):
    """Two of them, a day apart: nothing scatters, and nobody is taken for somebody else."""
    url = begin(client)
    for _ in range(12):
        keep(client, url, reading="0", where="on")
    with sqlite3.connect(demo_folder / DATABASE_NAME) as connection:
        connection.execute("UPDATE drill SET taken_at = '2026-03-13 10:00:00.000000' WHERE id % 2 = 0")
    answer = client.get("/practice/hand")
    assert answer.status_code == 200
    assert "12 tape trials" in text_of(answer)


def said_of_the_last(answer):
    return " ".join(soup(answer).select_one("p[role=status]").get_text(" ").split())


def test_a_distance_may_be_counted_in_paces_and_arms(client):
    """The table's pace is 750 mm, its arm 650 mm; five halves of a pace are 1.875 m."""
    answer = keep(client, "/practice/guess", "guess", guess="2½ paces", taped="2.5 m")
    assert "1.88 m for 2.50 m: 25 % too near" in said_of_the_last(answer)
    answer = keep(client, "/practice/guess", "guess", guess="2 m", taped="2 arm-lengths")
    assert "2.00 m for 1.30 m: 54 % too far" in said_of_the_last(answer)
    assert keep(client, "/practice/guess", "guess", guess="2 strides", taped="2 m").status_code == 422


def test_nobody_is_sent_across_the_street_to_lean(client):
    url = begin(client, "lean")
    for _ in range(12):
        where = float(re.search(r"Set the ring to ([\d.]+)", headline(client.get(url))).group(1))
        assert where <= 2
        keep(client, url, "lean", taped=f"{where} m")


def test_trials_set_aside_say_nothing_of_a_hand(client):
    url = begin(client, distance="inf")
    for _ in range(4):
        answer = keep(client, url, reading="0", where="on")
    assert "set aside" in text_of(answer)
    assert "scatters" not in text_of(answer)


def test_a_ring_without_a_diameter_is_read_in_degrees(client):
    assert soup(client.get(begin(client))).select_one("[name=unit] [selected]")["value"] == "mm"
    lens = fields_of(client.get("/kit/lenses/1"), "/kit/lenses/1")
    client.post("/kit/lenses/1", data={**lens, "diameter": "", "throw": "200°"})
    assert soup(client.get(begin(client))).select_one("[name=unit] [selected]")["value"] == "deg"
