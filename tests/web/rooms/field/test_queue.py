"""What the field page sends: each entry once, in whatever order, from a wrong clock, for what is gone meanwhile."""

import itertools
import json

import pytest

from tests.conftest import NOW
from tests.web.pages import text_of
from tests.web.rooms.field.entries import frame, key, mark, tick, undo
from welotrope.core.review.outcomes import Outcome
from welotrope.store.queries import kit, log, sheets


def send(client, *entries, now="2026-03-15T10:30:00"):
    answer = client.post("/field/queue", json={"now": now, "entries": list(entries)})
    assert answer.status_code == 200, answer.text
    return answer.json()


def took(answer):
    return {one["key"]: one["took"] for one in answer["results"]}


def frames(database):
    with database.session() as uow:
        return {found.id: found for _, found in log.every_frame(uow)}


def test_a_queue_sent_twice_counts_once(client, database):
    before = frames(database)
    entries = [frame(), frame(), tick()]
    assert set(took(send(client, *entries)).values()) == {"stored"}
    assert set(took(send(client, *entries)).values()) == {"already"}
    new = [found for id, found in frames(database).items() if id not in before]
    assert len(new) == 2
    assert {found.setup_id for found in new} == {1}


def test_a_frame_is_reckoned_by_the_book_not_by_the_phone(client, database):
    before = frames(database)
    send(client, frame(near_mm=10, far_mm=9_000_000))
    (new,) = (found for id, found in frames(database).items() if id not in before)
    with database.session() as uow:
        ring = kit.get_setup(uow, 1).setup.ring(8)
    assert new.angle_deg == pytest.approx(float(ring.angle_at_distance(3000)), abs=0.01)
    assert 2_000 < new.near_mm < 2_700


@pytest.mark.parametrize("order", list(itertools.permutations(range(3)))[::2])
@pytest.mark.parametrize("batches", [False, True])
def test_in_any_order_a_frame_taken_back_is_gone_and_a_marked_one_is_marked(client, database, order, batches):
    before = frames(database)
    kept, lost = frame(), frame()
    parts = [[kept, lost], [undo(lost)], [mark(kept, "behind")]]
    ordered = [parts[index] for index in order]
    for _ in range(2):  # what waited comes again
        if batches:
            for part in ordered:
                send(client, *part)
        else:
            send(client, *[entry for part in ordered for entry in part])
    new = [found for id, found in frames(database).items() if id not in before]
    assert [found.outcome for found in new] == [Outcome.BEHIND]


def test_a_mark_that_comes_before_its_frame_waits(client):
    taken = frame()
    early = mark(taken, "hit")
    assert took(send(client, early)) == {early["key"]: "waiting"}
    send(client, taken)
    assert took(send(client, early)) == {early["key"]: "stored"}


def test_the_later_of_two_marks_and_ticks_holds_whatever_comes_first(client, database):
    taken = frame()
    late, early = mark(taken, "hit", at="2026-03-15T10:20:00"), mark(taken, "moved", at="2026-03-15T10:10:00")
    off, on = tick(done=False, at="2026-03-15T10:20:00"), tick(done=True, at="2026-03-15T10:10:00")
    before = frames(database)
    send(client, taken, late, off)
    send(client, early, on)
    (new,) = (found for id, found in frames(database).items() if id not in before)
    assert new.outcome is Outcome.HIT
    with database.session() as uow:
        assert "manual-focus" not in sheets.ticked(uow, 1, 0)


def test_a_wrong_clock_is_put_right_and_said(client, database):
    before = frames(database)
    answer = send(client, frame(at="2026-03-15T13:05:00"), now="2026-03-15T13:30:20")
    assert "180 min ahead" in answer["clock"]
    (new,) = (found for id, found in frames(database).items() if id not in before)
    assert new.taken_at.isoformat() == "2026-03-15T10:05:00"
    assert send(client, frame(), now="2026-03-15T10:29:10")["clock"] == ""
    assert send(client, frame(), now="long ago")["clock"] == ""
    client.app.state.clock_is_made_up = True
    assert "clock of its own" in send(client, frame(), now="2026-11-29T13:30:20")["clock"]


def test_what_was_deleted_meanwhile_is_told_and_the_frame_kept(client, database):
    before = frames(database)
    client.post("/kit/setups/1/delete")
    answer = send(client, frame(), tick(), frame(setup=2, lens="Velloise 20", focal_mm=20, outing=777))
    said = [one["sentence"] for one in answer["results"] if one["sentence"]]
    assert any("set-up was deleted meanwhile, so it keeps the names Norrvik 50 on Ostrel 6" in one for one in said)
    assert any("outing was deleted meanwhile" in one for one in said)
    assert any("tick was for a set-up that was deleted" in one for one in said)
    new = [found for id, found in frames(database).items() if id not in before]
    assert {(found.setup_id, found.lens_name, found.distance_mm) for found in new} >= {(None, "Norrvik 50", 3000.0)}
    assert len(new) == 2


def test_a_frame_deleted_at_the_desk_can_still_be_taken_back_in_the_field(client, database):
    taken = frame()
    before = frames(database)
    send(client, taken)
    (id,) = set(frames(database)) - set(before)
    client.post(f"/log/frames/{id}/delete")
    assert set(took(send(client, undo(taken))).values()) == {"stored"}
    late = mark(taken, "hit")
    assert took(send(client, late)) == {late["key"]: "refused"}


BAD = [
    ({"distance_mm": -3}, "distance_mm"), ({"stop": "wide"}, "stop"), ({"at": "2026-03-15T10:05:00+01:00"}, "without a zone"),
    ({"kind": "magic"}, "kind"), ({"lens": "x" * 500}, "lens"),
    ({"outcome": "superb"}, "outcome"), ({"setup": 2**70}, "setup"), ({"near_mm": "1e999"}, "near_mm"),
]  # fmt: skip


@pytest.mark.parametrize(("change", "words"), BAD)
def test_a_bad_entry_is_named_and_the_others_are_taken(client, database, change, words):
    before = len(frames(database))
    bad, good = frame(**change), frame()
    answer = send(client, bad, good)
    told = {one["key"]: one for one in answer["results"]}
    assert told[good["key"]]["took"] == "stored"
    assert told[bad["key"]]["took"] == "refused"
    assert words in told[bad["key"]]["sentence"]
    assert len(frames(database)) == before + 1


@pytest.mark.parametrize("off_years", [-56, -3, 20, 150])
def test_a_clock_that_is_off_by_years_is_put_right(client, database, off_years):
    before = frames(database)
    wrong = NOW.replace(year=NOW.year + off_years)
    taken = frame(at=wrong.replace(hour=9).isoformat())
    assert took(send(client, taken, now=wrong.isoformat())) == {taken["key"]: "stored"}
    (new,) = (found for id, found in frames(database).items() if id not in before)
    assert abs((new.taken_at - NOW.replace(hour=9)).total_seconds()) < 2 * 86_400


@pytest.mark.parametrize("now", ["9999-12-31T23:59:59", "0001-01-01T00:00:00", "never", "2026-03-15T10:30:00"])
@pytest.mark.parametrize("at", ["0001-01-01T00:00:00", "9999-12-31T23:59:59", "1970-01-01T00:00:00"])
def test_a_time_that_makes_no_sense_at_all_becomes_the_time_it_came_and_is_said(client, database, now, at):
    before = frames(database)
    taken = frame(at=at)
    told = send(client, taken, now=now)["results"][0]
    (new,) = (found for id, found in frames(database).items() if id not in before)
    assert told["took"] in ("mended", "stored")
    assert new.taken_at == NOW or told["took"] == "stored"
    assert told["took"] == "stored" or "it has the time it came" in told["sentence"]
    assert client.get("/log").status_code == 200


def test_an_undo_of_itself_and_half_a_character_in_a_key_are_refused_and_the_rest_is_stored(client, database):
    before = len(frames(database))
    itself = undo(frame())
    itself["of"] = itself["key"]
    broken, good, again = frame(), frame(), undo(frame())
    broken["key"] = "half-\ud83d-of-it"
    answer = client.post(
        "/field/queue", content=json.dumps({"now": "\udc00", "entries": [itself, broken, good, again, {"key": "\ud800"}]}),
        headers={"content-type": "application/json"},
    )  # fmt: skip
    assert answer.status_code == 200
    results = answer.json()["results"]
    assert [one["took"] for one in results].count("refused") == 3
    assert {one["key"]: one["took"] for one in results}[good["key"]] == "stored"
    assert any("cannot take itself back" in one["sentence"] for one in results)
    assert len(frames(database)) == before + 1


@pytest.mark.parametrize("sent", [{"entries": "all"}, {"entries": [3, None, []]}, {}, {"entries": [{"key": 7}]}])
def test_what_is_no_queue_stores_nothing(client, database, sent):
    before = frames(database)
    assert client.post("/field/queue", json=sent).status_code == 200
    assert client.post("/field/queue", content=b"{", headers={"content-type": "application/json"}).status_code == 422
    assert frames(database) == before


def test_another_site_cannot_send_a_queue(client):
    answer = client.post("/field/queue", json={"entries": [frame()]}, headers={"origin": "http://elsewhere.example"})
    assert answer.status_code == 403


def test_what_came_from_the_field_is_one_change_that_can_be_undone(client, database):
    before = frames(database)
    send(client, frame(), frame())
    recent = text_of(client.get("/kit"))
    assert "Took over 2 entries from the field" in recent
    assert len(frames(database)) == len(before) + 2
    newest = max(frames(database).values(), key=lambda found: found.id)
    assert newest.taken_at.date() == NOW.date()


def test_a_limit_just_short_of_infinity_is_infinity(client, database):
    before = frames(database)
    client.post("/kit/setups/1/delete")
    send(client, frame(far_mm=90_144_230.8))
    (new,) = (found for id, found in frames(database).items() if id not in before)
    assert new.far_mm == float("inf")


def test_a_key_is_what_makes_an_entry_one(client, database):
    before = len(frames(database))
    same = key()
    send(client, frame(key=same), frame(key=same, stop=11))
    assert len(frames(database)) == before + 1
