"""The pocket file: one file without a link to anywhere, and its log on the way back."""

import json
import re

import pytest

from tests.web.pages import soup, text_of
from tests.web.rooms.field.entries import frame, mark
from welotrope.store.queries import kit, log
from welotrope.web.rooms.field.page import bundled


def log_text(*entries, **change):
    return json.dumps({"format": "welotrope-field-log", "version": 1, "made": "", "entries": list(entries)} | change)


def count(database):
    with database.session() as uow:
        return len(list(log.every_frame(uow)))


def test_it_holds_everything_and_asks_for_nothing(client):
    answer = client.get("/field/pocket.html")
    assert 'filename="welotrope-pocket-20260315.html"' in answer.headers["content-disposition"]
    page = soup(answer)
    assert not page.select("link, script[src], img[src^=http], a[href^=http]")
    assert re.findall(r"url\((?!data:|#)[^)]*\)", page.select_one("style").string) == []
    uow = json.loads(page.select_one("#field-book").string)
    assert [hand["lens"] for hand in uow["hands"]].count("Lindmere 35–70") == 3


def test_ten_set_ups_are_no_more_than_600_kb(client):
    with client.app.state.database.session() as uow:
        first = kit.list_setups(uow)[0]
        for index in range(4):
            kit.save_setup(uow, first.body_id, 1 + index % 2, first.setup.standard)
        uow.commit()
    assert len(client.get("/field/pocket.html").content) < 600_000


def test_the_script_has_no_formula_of_optics(client):
    """It knows how to read a table and to write a number; nothing in it works out an extension or a blur."""
    script = soup(client.get("/field/pocket.html")).select("script")[-1].string
    for word in ("Math.log2", "Math.sqrt", "Math.tan", "focal_mm *", "focal_mm /", "stop *", "blur_mm *", "hyperfocal"):
        assert word not in script.replace("focal_mm: hand", "")


def test_its_log_is_shown_first_then_taken_over_once(client, database):
    taken = frame()
    text = log_text(taken, mark(taken, "in front"))
    before = count(database)
    shown = client.post("/field/pocket", data={"text": text})
    assert "New entries: 2 of 2" in text_of(shown)
    assert count(database) == before
    assert "of a pocket file" in text_of(client.post("/field/pocket/store", data={"text": text}))
    assert count(database) == before + 1
    again = client.post("/field/pocket", data={"text": text})
    assert "New entries: 0 of 2" in text_of(again)
    client.post("/field/pocket/store", data={"text": text})
    assert count(database) == before + 1


def test_a_log_edited_by_hand_is_read_entry_by_entry(client, database):
    before = count(database)
    text = log_text(frame(), frame(stop="f/8!"), {"kind": "frame"})
    shown = client.post("/field/pocket", data={"text": text})
    assert shown.status_code == 422
    assert "Entry 2: stop" in text_of(shown)
    assert "Entry 3" in text_of(shown)
    client.post("/field/pocket/store", data={"text": text})
    assert count(database) == before + 1


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "choose the file"), ("{", "not a field log"), ("[]", "not a field log"), ("[" * 100_000, "not a field log"),
        (log_text(version=2), "of version 2"), (log_text(entries="x"), "must be a list"),
        (json.dumps({"format": "welotrope-kit", "version": 1}), "not a field log"),
    ],
)  # fmt: skip
def test_what_is_no_log_is_refused_in_a_sentence(client, text, words):
    answer = client.post("/field/pocket", data={"text": text})
    assert answer.status_code == 422
    assert words in text_of(answer)


def test_a_log_of_a_set_up_that_is_gone_says_what_was_put_right(client):
    client.post("/kit/setups/1/delete")
    answer = client.post("/field/pocket/store", data={"text": log_text(frame())})
    assert "keeps the names Norrvik 50 on Ostrel 6" in text_of(answer)


def test_a_script_of_another_kind_is_not_bundled_in_silence(tmp_path):
    (tmp_path / "a.js").write_text('import { b } from "./b.js";\nexport const a = b;\n')
    (tmp_path / "b.js").write_text("export default 3;\n")
    with pytest.raises(ValueError, match=r"b\.js imports or exports"):
        bundled(tmp_path / "a.js")
    (tmp_path / "b.js").write_text('import { a } from "./a.js";\nexport const b = 3;\n')
    with pytest.raises(ValueError, match="imports itself"):
        bundled(tmp_path / "a.js")


def book_of(client):
    return json.loads(soup(client.get("/field")).select_one("#field-book").string)


def test_every_stop_of_every_focal_length_has_its_exposure(client):
    """A zoom's widest stop between its ends is no marked one, and a preset may have a stop of its own."""
    uow = book_of(client)
    for hand in uow["hands"]:
        columns = {len(row) for light in hand["lights"]["rows"] for row in light}
        assert columns == {len(hand["table"]["stops"])}, hand["id"]
        assert len(hand["lights"]["rows"]) == len(uow["lights"]["names"])
        assert {one["stop"] for one in hand["settings"]} <= set(hand["table"]["stops"]), hand["id"]
        assert len(hand["zones"]) == len(hand["table"]["stops"])


def test_the_index_is_told_as_engraved_where_focus_shift_parts_it_from_the_plane(client):
    """The Tarnholt's shift was tried: stopped down, what stands under the index is not where the plane is."""
    uow = book_of(client)
    (hand,) = (one for one in uow["hands"] if one["lens"] == "Tarnholt 35")
    with client.app.state.database.session() as session:
        setup = kit.get_setup(session, hand["setup"]).setup
    for one in hand["settings"]:
        under = float(setup.known.scale.distance_at_angle(one["angle"]))
        assert one["engraved"] == pytest.approx(under, rel=1e-3)
    assert any(abs(one["engraved"] / one["focus"] - 1) > 0.01 for one in hand["settings"] if one["focus"])


def test_the_one_in_hand_is_there_however_many_there_are_and_the_rest_is_counted(client):
    with client.app.state.database.session() as uow:
        first = kit.list_setups(uow)[0]
        made = [kit.save_setup(uow, first.body_id, first.lens_id, first.setup.standard) for _ in range(60)]
        kit.select_setup(uow, made[-1])
        uow.commit()
    uow = book_of(client)
    assert uow["in_hand"] in {hand["id"] for hand in uow["hands"]}
    assert (len(uow["hands"]), uow["left_out"]) == (60, 60 + 9 - 60)
