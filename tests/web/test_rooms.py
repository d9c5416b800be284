"""The rooms as pages: the answer they open on, bad input kept, undo, and no script needed."""

import html
import math
import re

import pytest

from tests.web.pages import fields_of, headline, soup, text_of, undo_path
from tests.web.pages import words as words_of
from welotrope.web.forms.text_form import KEPT_TEXT


def test_scale_opens_on_the_answer_for_the_set_up_in_hand(client):
    answer = client.get("/scale")
    assert headline(answer).startswith("Index on 2.40 m at f/5.6 . Sharp from".replace(" .", "."))
    assert "2 of 4 subjects are sharp" in text_of(answer)


def test_scale_reads_its_state_from_the_url(client):
    answer = client.get("/scale", params={"at": "8ft", "stop": "f/8", "subject": "Ida@7ft"})
    assert headline(answer).startswith("Index on 2.44 m at f/8")
    assert "The subject is sharp" in text_of(answer)


@pytest.mark.parametrize(
    ("params", "words"),
    [
        ({"at": "10 cm"}, "Focus distance: read “10 cm”"),
        ({"at": "0.3 m"}, "Give 0.45 m (1′5½″) or more"),
        ({"at": "🙂"}, "read “🙂”"),
        ({"stop": "0"}, "between f/0.5 and f/128"),
        ({"subject": "Ida"}, "has no distance"),
        ({"at": "x" * 5000}, "longer than 60 characters"),
    ],
)
def test_scale_survives_any_url_and_says_what_is_wrong(client, params, words):
    answer = client.get("/scale", params=params)
    assert answer.status_code == 200
    assert words in text_of(answer)
    assert headline(answer).startswith("Index on")


def test_feet_lead_when_asked_for(client):
    client.post("/unit", data={"unit": "ft", "back": "/scale"})
    assert headline(client.get("/scale")).startswith("Index on 7′10″ at f/5.6")
    assert headline(client.get("/scale", params={"at": "8"})).startswith("Index on 8′0″")


def test_infinity_side_decides_the_words(client):
    assert "∞ on the right-hand 5.6 mark" in text_of(client.get("/scale"))
    client.post("/in-hand", data={"setup": "2", "back": "/scale"})
    assert "∞ on the left-hand 8 mark" in text_of(client.get("/scale"))


def test_an_assumed_throw_is_said_to_be_assumed(client):
    form = {"name": "Bare", "focal": "28", "stops": "2.8 4 8", "closest_focus": "0.3 m"}
    client.post("/kit/lenses", data=form)
    client.post("/kit/setups", data={"body_id": "1", "lens_id": "6", "standard": "print"})
    assert "a throw of 180° is a guess" in text_of(client.get("/scale"))


def test_plan_answers_with_setting_and_what_is_outside(client):
    params = [("name", "rope"), ("distance", "1.9 m"), ("name", "Ove"), ("distance", "3.2m")]
    answer = client.get("/plan", params=params)
    assert re.match(r"Set 2\.38 m \(7′10″\) at f/11\. Sharp from 1\.86 m to 3\.33 m", headline(answer))
    words = text_of(answer)
    assert "All of it is inside. The zone needs f/9.9" in words
    assert "too near" in words


@pytest.mark.parametrize(
    ("distances", "words"),
    [
        (("0.5 m", "inf"), "No marked stop holds all of it"),
        (("10 cm", "3 m"), "the ring stops before that"),
        (("0.4 m", "3 m"), "Give 0.45 m (1′5½″) or more"),
        (("ten", "3 m"), "Distance of a: read “ten”; that is not a distance"),
        (("-1 m", "3 m"), "cannot be negative"),
        (("1000000000", "3 m"), "more than 10 km"),
    ],
)
def test_plan_keeps_what_was_typed_and_says_what_is_wrong(client, distances, words):
    answer = client.get(
        "/plan", params=[("name", "a"), ("distance", distances[0]), ("name", "b"), ("distance", distances[1])]
    )
    assert words in text_of(answer)
    assert f'value="{html.escape(distances[0])}"' in answer.text


def test_a_crowded_scene_says_how_many_it_holds(client):
    answer = client.get(
        "/plan", params=[pair for k in range(14) for pair in (("name", f"n{k}"), ("distance", f"{k + 2} m"))]
    )
    assert "a scene holds at most 12" in text_of(answer)
    assert headline(answer).startswith("Set ")


def test_diffraction_is_named_as_the_limit(client):
    client.post("/in-hand", data={"setup": "5", "back": "/scale"})
    answer = client.get("/plan", params=[("name", "a"), ("distance", "21 m"), ("name", "b"), ("distance", "40 m")])
    assert "Diffraction is the limit" in text_of(answer)
    assert "comes closest" in text_of(answer)


def test_preset_is_kept_drawn_on_the_ring_and_undone(client):
    answer = client.post(
        "/presets", data={"name": "gangway", "at": "3000.0mm", "stop": "8", "subject": "Mats@2500", "back": "scale"}
    )
    assert "Kept preset “gangway”" in text_of(answer)
    assert ">gangway</text>" in answer.text
    undo = undo_path(answer)
    assert ">gangway</text>" not in client.post(undo, data={"back": "/scale"}).text


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"name": "", "at": "3m", "stop": "8"}, "it needs a name"),
        ({"name": "x", "at": "1cm", "stop": "8"}, "read “1cm”"),
    ],
)
def test_bad_presets_store_nothing(client, data, words):
    answer = client.post("/presets", data=data)
    assert answer.status_code == 422
    assert words in text_of(answer)


def test_aids_rank_what_the_body_has(client):
    words = text_of(client.get("/aids", params={"at": "2.4 m", "stop": "1.4"}))
    assert "Magnified view 6× resolves it" in words
    assert words.index("magnify 6×") < words.index("ballpark only")
    assert "Matte screen" not in words  # an electronic finder has none
    client.post("/in-hand", data={"setup": "4", "back": "/aids"})
    stopped = text_of(client.get("/aids", params={"at": "2.4 m", "stop": "8"}))
    assert "one half goes black at f/8" in stopped
    opened = text_of(client.get("/aids", params={"at": "2.4 m", "stop": "8", "view": "open"}))
    assert "lay a line across the split" in opened
    assert "unless this lens shifts" in opened


LENS = {
    "name": "Haldis 85", "focal": "85 mm", "stops": "2 2,8; 4 5.6 8 11 16", "closest_focus": "3 ft", "throw": "141 mm",
    "diameter": "62", "infinity_side": "left", "engraved_units": ["ft"], "engraved_m": "", "engraved_ft": "3ft; 4; 5ft; 7 1/2 ft; ∞",
}  # fmt: skip


def test_lens_form_round_trips_through_storage(client):
    client.post("/kit/lenses", data=LENS)
    answer = client.get("/kit/lenses/6")
    page = answer.text
    throw = 141 / (math.pi * 62 / 360)
    for shown in ("Haldis 85", "2 2.8 4 5.6 8 11 16", f"{throw:g}", "3 4 5 7.5", "3′"):
        assert f'value="{shown}"' in page
    fields = fields_of(answer, "/kit/lenses/6")
    assert (fields["infinity_side"], fields["engraved_units"]) == ("left", "ft")
    client.post("/kit/lenses/6", data=fields)
    again = client.get("/kit/lenses/6").text
    assert again == page


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("focal", "0", "Focal length"), ("focal", "fifty", "not a number"), ("stops", "", "no stop was found"),
        ("stops", "f/0", "between f/0.5"), ("closest_focus", "∞", "must turn nearer"),
        ("closest_focus", "🙂", "not a distance"), ("throw", "-90", "Write 5° to 1080°"), ("throw", "1000000000", "throw"),
        ("diameter", "0", "10 to 400 mm"), ("engraved_ft", "1ft; 5ft", "nearer than closest focus"),
        ("name", "", "it needs a name"), ("name", "x" * 1_000_000, "characters"), ("engraved_m", "🙂", "not a distance"),
    ],
)  # fmt: skip
def test_bad_lens_fields_are_named_and_nothing_is_lost_or_stored(client, field, value, words):
    answer = client.post("/kit/lenses", data=LENS | {field: value})
    assert answer.status_code == 422
    assert words in text_of(answer)
    kept = LENS | {field: value[:KEPT_TEXT]}
    for name in ("name", "focal", "stops", "closest_focus", "throw", "engraved_m", "engraved_ft"):
        assert f'value="{html.escape(kept[name])}"' in answer.text
    assert client.get("/kit/lenses/6").status_code == 404


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"width_px": "many"}, "not a number"), ({"size": "36"}, "width and a height"),
        ({"size": "0 x 24"}, "smaller than usual"), ({"size": "0 x 24 mm"}, "Picture width"), ({"screen_stop": "2.8"}, "seen through a finder"),
        ({"finder_magnification": "9"}, "0.2 to 3"), ({"steps": "6 900"}, "1 to 60"), ({"peaking": "low"}, "not a number"),
        ({"finder_magnification": "0.9", "split_deviation": "90"}, "2 to 20"), ({"peaking": "low 99"}, "threshold"),
    ],
)  # fmt: skip
def test_bad_body_fields_are_named(client, change, words):
    form = {"name": "Fjeldr", "size": "36 × 24", "medium": "digital", "width_px": "6000"} | change
    answer = client.post("/kit/bodies", data=form)
    assert answer.status_code == 422
    assert words in text_of(answer)
    assert 'value="Fjeldr"' in answer.text


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"lens_id": ""}, "none is chosen"), ({"body_id": "2", "standard": "pixel"}, "film has no pixels"),
        ({"standard": "own", "own": "9"}, "0.0001 to 2 mm"), ({"standard": "pixel", "pixels": "x"}, "not a number"),
        ({"standard": "viewing", "viewing": "here"}, "Viewing distance"),
    ],
)  # fmt: skip
def test_bad_set_ups_are_named(client, change, words):
    answer = client.post("/kit/setups", data={"body_id": "1", "lens_id": "1", "standard": "print"} | change)
    assert answer.status_code == 422
    assert words in text_of(answer)
    assert client.get("/kit/setups/7").status_code == 404


def test_deleting_a_lens_takes_its_set_ups_and_undo_brings_them_back(client):
    before = text_of(client.get("/kit"))
    answer = client.post("/kit/lenses/1/delete")
    assert "Deleted lens Norrvik 50" in text_of(answer)
    assert "Norrvik 50 on" not in text_of(client.get("/setups"))
    client.post(undo_path(answer))
    after = text_of(client.get("/kit"))
    assert after.partition("Recent changes")[0].strip() == before.removesuffix("Keys, help, cautions").strip()


def test_empty_kit_leads_through_body_lens_and_ring(empty_client):
    start = empty_client.get("/")
    assert "Which body do you put the lens on?" in text_of(start)
    body = {"step": "1", "name": "Fjeldr", "size": "36 × 24", "medium": "film"}
    lens_step = empty_client.post("/kit/bodies", data=body)
    assert "what does its ring say?" in text_of(lens_step)
    refused = empty_client.post("/kit/lenses", data={"step": "2", "name": "Old 58", "focal": "58"})
    assert 'name="step" value="2"' in refused.text
    lens = {"step": "2", "name": "Old 58", "focal": "58", "stops": "2 2.8 4 5.6 8 11 16", "closest_focus": "0.5",
            "reading_angle": "40", "reading_distance": "2 m"}  # fmt: skip
    sharp_step = empty_client.post("/kit/lenses", data=lens)
    assert "What counts as sharp" in text_of(sharp_step)
    ring = empty_client.post("/kit/setups", data={"body_id": "1", "lens_id": "1", "standard": "film"})
    assert headline(ring).startswith("Index on")
    assert "one reading of the engraving; the far end is worked out from it" in text_of(ring)


@pytest.mark.parametrize("path", ["/scale", "/plan", "/aids", "/log/new"])
def test_rooms_that_need_a_set_up_lead_to_the_start(empty_client, path):
    assert str(empty_client.get(path).url).endswith("/start")


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
    at = fields_of(client.get(f"/log/new?{state}"), "/log/frames")["at"]
    assert at == "2955.7 mm"
    client.post("/log/frames", data={"at": at, "stop": "8", "numbers_in": "ft", "preset": ""})
    log = client.get("/log/export.csv").text
    assert ",2955.7," in log


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
    page = client.get("/log?outing=1")
    assert page.text.count('class="frame-row"') == 50
    more = client.get("/log?outing=1&offset=50", headers={"hx-request": "true"})
    assert more.text.count('class="frame-row"') == 34
    assert "<html" not in more.text


def test_look_is_remembered_and_jump_lists_everything(client):
    assert 'data-look="night"' in client.post("/look", data={"look": "night", "back": "/scale"}).text
    words = text_of(client.get("/jump"))
    for name in ("Scale", "shed bench", "Teal, from shed to launch", "Brannoch 135", "Kyrstad Reflex"):
        assert name in words


def test_subject_names_cannot_break_out_of_the_page(client):
    nasty = "</script><img src=x>"
    answer = client.get("/scale", params={"subject": f"{nasty}@2000"})
    assert "<img" not in answer.text
