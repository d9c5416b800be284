"""The Aids room: the subject from the URL, hints, constants kept and taken back."""

from tests.web.pages import headline, text_of


def test_the_subject_decides(client):
    client.post("/in-hand", data={"setup": "4"})
    plain = client.get("/aids?at=2 m&stop=1.4&view=open")
    assert headline(plain).startswith("Split image is precise enough")
    without = text_of(client.get("/aids?at=2 m&stop=1.4&view=open&lines=none"))
    assert "there is no line to break" in without
    corner = text_of(client.get("/aids?at=1 m&stop=1.4&place=corner"))
    assert "Do not focus and recompose" in corner
    assert "Of its screens" in corner


def test_unknown_choices_fall_back(client):
    assert client.get("/aids?lines=wavy&light=9&place=%F0%9F%99%82").status_code == 200


def test_constants_are_kept_checked_and_undone(client):
    before = headline(client.get("/aids?at=2.4m&stop=1.4"))
    bad = client.post("/aids/constants", data={"display_blur": "lots", "eye_blur": "2"})
    assert bad.status_code == 422
    assert 'value="lots"' in bad.text
    assert 'value="2"' in bad.text
    changed = client.post("/aids/constants", data={"display_blur": "4"})
    assert headline(client.get("/aids?at=2.4m&stop=1.4")) != before
    assert "your own" in text_of(client.get("/aids"))
    undo = changed.text.split('action="/undo/')[1].split('"')[0]
    client.post(f"/undo/{undo}", data={"back": "/aids"})
    assert headline(client.get("/aids?at=2.4m&stop=1.4")) == before
    client.post("/aids/constants", data={"display_blur": "4"})
    client.post("/aids/constants", data={"reset": "yes", "display_blur": "4"})
    assert headline(client.get("/aids?at=2.4m&stop=1.4")) == before


def test_new_aids_of_a_body_are_entered_and_judged(client):
    form = {
        "name": "Fjeldr R", "size": "36 x 24", "medium": "film", "finder_magnification": "0.9",
        "microprism_deviation": "5", "rangefinder_base": "47", "rangefinder_magnification": "0.72",
        "rangefinder_reads": "2.1 m", "confirmation": "yes", "confirmation_stop": "4",
    }  # fmt: skip
    client.post("/kit/bodies", data=form)
    page = client.get("/kit/bodies/3").text
    for value in ("5", "47", "0.72", "2.1 m", "4"):
        assert f'value="{value}"' in page
    client.post("/kit/setups", data={"body_id": "3", "lens_id": "1", "standard": "film"})
    words = text_of(client.get("/aids?at=2 m&stop=1.4"))
    for label in ("Microprism", "Rangefinder patch", "Focus confirmation", "it is out of adjustment"):
        assert label in words


def test_aids_rank_what_the_body_has(client):
    words = text_of(client.get("/aids", params={"at": "2.4 m", "stop": "1.4"}))
    assert "Magnified view 6× is precise enough" in words
    assert words.index("magnify 6×") < words.index("rough only")
    assert "Matte screen" not in words  # an electronic finder has none
    client.post("/in-hand", data={"setup": "4", "back": "/aids"})
    stopped = text_of(client.get("/aids", params={"at": "2.4 m", "stop": "8"}))
    assert "one half goes black at f/8" in stopped
    opened = text_of(client.get("/aids", params={"at": "2.4 m", "stop": "8", "view": "open"}))
    assert "lay a line across the split" in opened
    assert "unless this lens shifts" in opened
