"""Why it missed: a rangefinder that is out is named, its test taken along, cured, and watched."""

import datetime as dt
import re

import pytest

from tests.conftest import NOW
from tests.web.pages import headline, soup, text_of, undo_path
from welotrope.core.review.outcomes import Outcome
from welotrope.store.queries import log
from welotrope.store.session import Database


def marked(folder, ids, outcomes):
    database = Database(folder)
    with database.session() as uow:
        for id, outcome in zip(ids, outcomes, strict=True):
            log.mark_frame(uow, id, outcome)
        uow.commit()
    database.close()


def test_the_planted_fault_is_named_with_its_cure(practised_client):
    page = practised_client.get("/log/why")
    assert (found := re.match(r"The rangefinder is misaligned: focus is (\d\.\d)° in front", headline(page)))
    said = text_of(page)
    # The headline speaks of the same frames as the interval under it, and lies in it.
    low, high = (-float(end) for end in re.search(r"between −([\d.]+)° and −([\d.]+)° of ring", said).groups())
    assert low <= -float(found[1]) <= high < 0
    assert re.search(r"when the two pictures meet, turn the ring [\d.]+° .*towards ∞", said)
    amounts = [row.select("td") for row in soup(page).select("section table tbody tr") if "in front" in row.text]
    assert len(amounts) == 3
    assert all("towards ∞" in cells[2].text for cells in amounts)
    assert "Have it adjusted" in said
    assert "Adjusting it is a repairer’s job" in said
    causes = [row["data-cause"] for row in soup(page).select("tr[data-cause]")]
    assert causes[0] == "rangefinder"
    assert re.search(r"Scale, by eye \d of \d", said) or "scale" in said.lower()


def test_without_judged_frames_it_says_what_to_do(client):
    client.post("/in-hand", data={"setup": "7"})
    assert "No frame of Lindmere 35–70 was judged" in headline(client.get("/log/why"))
    assert "Mark what frames show" in text_of(client.get("/log/why"))


def test_a_few_frames_are_not_enough_and_their_test_is_taken_along(client):
    page = client.get("/log/why")
    told = re.fullmatch(r"Not enough data yet\. Shortest test: (\d+) frames", headline(page))
    assert int(told[1]) <= 6
    more = re.search(r"it would take about (\d+)", text_of(page))
    assert len(more[1].rstrip("0")) <= 2  # an estimate has no three figures
    heading = next(one for one in soup(page).select("h2") if one.text.startswith("Test to take next"))
    rows = heading.parent.select("tbody tr td:first-child")
    assert sum(int(row.text) for row in rows) == int(told[1])
    assert "not checked" not in text_of(page)  # all of them were
    answer = client.post("/log/why/test")
    assert answer.status_code == 200
    assert "Test: Norrvik 50" in text_of(answer)
    assert soup(answer).select(".frame-row")
    client.post(undo_path(answer), data={"back": "/log"})
    assert "Test: Norrvik 50" not in text_of(client.get("/log"))


def test_what_is_decided_needs_no_test(practised_client):
    answer = practised_client.post("/log/why/test")
    assert answer.status_code == 422
    assert "the frames there are decide it" in text_of(answer)


def test_a_cure_is_watched_from_the_day_it_was_noted(practised_client, practised_folder):
    client = practised_client
    note = {"what": "rangefinder", "note": "set by a repairer", "back": "/log/why"}
    answer = client.post("/practice/changes", data=note)
    assert "Not told yet." in text_of(answer)
    assert "23 earlier frames do not count any more" in text_of(answer)
    before = {frame["value"] for frame in soup(client.get("/log?outing=all")).select(".frame-row .pick")}
    for stop in ("2", "2", "2.8", "2", "2.8", "4", "2", "2.8", "2", "2"):
        sent = {
            "at": "2 m",
            "stop": stop,
            "aid": "rangefinder",
            "taken_at": (NOW + dt.timedelta(minutes=1)).isoformat()[:16],
        }
        assert client.post("/log/frames", data=sent).status_code == 200
    new = {frame["value"] for frame in soup(client.get("/log?outing=all")).select(".frame-row .pick")} - before
    assert len(new) == 10
    marked(practised_folder, [int(id) for id in new], [Outcome.HIT] * 9 + [Outcome.BEHIND])
    said = text_of(client.get("/log/why"))
    assert "It worked." in said
    assert "Since: 9 of 10 hit" in said


def test_what_missed_for_another_reason_is_counted_since_the_same_day(practised_client, practised_folder):
    client = practised_client
    first = min(int(one["value"]) for one in soup(client.get("/log?outing=2")).select(".frame-row .pick"))
    marked(practised_folder, [first], [Outcome.SHAKEN])
    assert "1 more missed for another reason than focus." in text_of(client.get("/log/why"))
    client.post("/practice/changes", data={"what": "rangefinder", "made_at": "2026-02-01"})
    assert "another reason than focus" not in text_of(client.get("/log/why"))


def test_a_cure_that_did_nothing_is_said_to_have_done_nothing(practised_client):
    answer = practised_client.post(
        "/practice/changes", data={"what": "rangefinder", "made_at": "2026-02-01", "back": "/log/why"}
    )
    said = text_of(answer)
    assert "It did not cure it." in said
    assert "rangefinder is misaligned" in headline(answer) or "to one side" in headline(answer)


def test_frames_of_before_the_ring_was_measured_again_do_not_count(practised_client, practised_folder):
    from welotrope.core.ring.survey import Point, Survey, SurveyKind
    from welotrope.store.queries import kit, ring_records

    database = Database(practised_folder)
    with database.session() as uow:
        held = kit.get_setup(uow, 8)
        survey = Survey(
            points=(Point(0.5, float("inf")), Point(60.0, 2000.0), Point(120.0, 1100.0)), kind=SurveyKind.MEASURED
        )
        ring_records.save_record(
            uow, ring_records.RecordKind.MEASURED, held.lens_id, held.id, survey, dt.date(2026, 2, 1)
        )
        uow.commit()
    database.close()
    assert "9 earlier frames do not count any more" in text_of(practised_client.get("/log/why"))


@pytest.mark.parametrize("unit", ["m", "ft"])
def test_it_is_told_in_the_leading_unit(client, unit):
    client.cookies.set("unit", "ft" if unit == "ft" else "m")
    page = text_of(client.get("/log/why"))
    assert ("′" in page) or unit == "m"
