"""The ring as a page: the answer it opens on, its state in the address, feet and side, what is assumed."""

import pytest

from tests.web.pages import headline, soup, text_of


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
    assert "Hyperfocal: ∞ to the right-hand 5.6 mark" in text_of(client.get("/scale"))
    client.post("/in-hand", data={"setup": "2", "back": "/scale"})
    assert "∞ on the left-hand 8 mark" in text_of(client.get("/scale"))


def test_an_assumed_throw_is_said_to_be_assumed(client):
    form = {"name": "Bare", "focal": "28", "stops": "2.8 4 8", "closest_focus": "0.3 m"}
    client.post("/kit/lenses", data=form)
    client.post("/kit/setups", data={"body_id": "1", "lens_id": "6", "standard": "print"})
    assert "a throw of 180° is assumed" in text_of(client.get("/scale"))


@pytest.mark.parametrize("chosen", ["1.4", "5.6", "16"])
def test_the_stops_stand_in_their_order_and_the_chosen_marks_over_the_others(client, chosen):
    page = soup(client.get("/scale", params={"at": "2.4m", "stop": chosen}))
    stops = page.select(".stops a")
    assert [stop.text.strip() for stop in stops] == ["1.4", "2", "2.8", "4", "5.6", "8", "11", "16"]
    assert [stop.text.strip() for stop in stops if stop.get("aria-current")] == [chosen]
    assert [mark["data-stop"] for mark in page.select("#ring .bracket-group")[-2:]] == [chosen, chosen]
