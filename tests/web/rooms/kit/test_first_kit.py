"""The first form as a page: every way to look leads to a ring setting, and what cannot be is said."""

import pytest

from tests.web.pages import headline, soup, text_of, undo_path
from welotrope.core.kit.first_kit import FINDERS

LEAST = {"focal": "50", "stops": "2", "nearest": "0.5 m", "throw": "half", "near": "2 m", "far": "4 m"}


@pytest.mark.parametrize("looks", FINDERS, ids=lambda looks: looks.id)
def test_every_way_to_look_leads_to_a_ring_setting_and_back(empty_client, looks):
    sent = LEAST | {"looks": looks.id, "megapixels": "" if looks.film else "24"}
    answer = empty_client.post("/start", data=sent)
    assert headline(answer).startswith("Index on 2.6")
    aids = text_of(empty_client.get("/aids"))
    assert ("typical values" in aids) == bool(looks.aids)
    assert "180° by eye" in text_of(empty_client.get("/kit"))
    empty_client.post(undo_path(answer))
    assert headline(empty_client.get("/")) == "A minute to the first ring setting"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"looks": "display", "megapixels": ""}, "shows what a sensor sees"),
        ({"megapixels": "0"}, "Megapixels"),
        ({"focal": "wide"}, "Focal length"),
        ({"stops": "zero"}, "stops"),
        ({"near": "5 m"}, "at or beyond far"),
        ({"near": ""}, "half empty"),
        ({"nearest": "near"}, "that is not a distance"),
        ({"size": "huge"}, "picture size"),
    ],
)
def test_what_cannot_be_is_said_at_its_field_and_nothing_is_stored(empty_client, change, words):
    answer = empty_client.post("/start", data=LEAST | {"looks": "split"} | change)
    assert answer.status_code == 422
    assert words.lower() in text_of(answer).lower()
    assert headline(empty_client.get("/")) == "A minute to the first ring setting"


def test_the_backups_page_and_everything_as_one_file(client):
    assert headline(client.get("/kit/backups")) == "0 backups kept"
    archive = client.get("/kit/backups/everything.zip")
    assert archive.content[:2] == b"PK"
    assert archive.headers["content-type"] == "application/zip"
    assert client.get("/kit/backups/../welotrope.sqlite3").status_code == 404


def test_a_zoom_starts_with_both_its_ends(empty_client):
    answer = empty_client.post("/start", data=LEAST | {"looks": "split", "focal": "35-70", "stops": "3.5"})
    assert answer.status_code == 200
    assert "My 35–70 mm" in text_of(answer)
    assert [button["value"] for button in soup(answer).select(".zoom button")] == ["35", "70"]
