"""A scene as a page: setting and what is outside, typed text kept, presets kept and undone."""

import html
import re

import pytest

from tests.web.pages import headline, text_of, undo_path


def test_plan_answers_with_setting_and_what_is_outside(client):
    params = [("name", "rope"), ("distance", "1.9 m"), ("name", "Ove"), ("distance", "3.2m")]
    answer = client.get("/plan", params=params)
    assert re.match(r"Index on 2\.38 m \(7′10″\) at f/11\. Sharp from 1\.86 m to 3\.33 m", headline(answer))
    words = text_of(answer)
    assert "All subjects are sharp. The zone needs f/9.9" in words
    assert "too near" in words


@pytest.mark.parametrize(
    ("distances", "words"),
    [
        (("0.5 m", "inf"), "No marked stop makes all of it sharp"),
        (("10 cm", "3 m"), "this lens does not focus so near"),
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
    assert headline(answer).startswith("Index on ")


def test_diffraction_is_named_as_the_limit(client):
    client.post("/in-hand", data={"setup": "5", "back": "/scale"})
    answer = client.get("/plan", params=[("name", "a"), ("distance", "21 m"), ("name", "b"), ("distance", "40 m")])
    assert "Diffraction is the limit" in text_of(answer)
    assert "comes closest" in text_of(answer)


def test_preset_is_kept_drawn_on_the_ring_and_undone(client):
    answer = client.post(
        "/presets", data={"name": "gangway", "at": "3000.0mm", "stop": "8", "subject": "Mats@2500", "back": "scale"}
    )
    assert "Saved preset “gangway”" in text_of(answer)
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
