"""What browsers and tools ask for besides pages."""

import io

import pytest
from PIL import Image

from tests.web.pages import soup

PATHS = [
    "/scale",
    "/plan/zones",
    "/kit",
    "/help",
    "/static/icon.svg",
    "/kit/export.json",
    "/api/calc/trail?focal_mm=20&pitch_mm=0.006&pixels=2",
]


@pytest.mark.parametrize("path", PATHS)
def test_head_is_get_without_its_body(client, path):
    whole, head = client.get(path), client.head(path)
    assert (head.status_code, head.content) == (whole.status_code, b"")
    assert head.headers["content-type"] == whole.headers["content-type"]


def test_head_changes_nothing_and_finds_nothing_where_get_does_not(client):
    assert client.head("/undo/1").status_code == client.get("/undo/1").status_code
    assert client.head("/nowhere").status_code == 404


def test_crawlers_are_asked_to_stay_out(client):
    assert "Disallow: /" in client.get("/robots.txt").text


@pytest.mark.parametrize(("path", "side"), [("/favicon.ico", 192), ("/apple-touch-icon.png", 180)])
def test_icons_are_pictures(client, path, side):
    answer = client.get(path)
    assert Image.open(io.BytesIO(answer.content)).size == (side, side)


def test_the_manifest_names_icons_that_are_there(client):
    manifest = client.get("/manifest.webmanifest")
    assert manifest.headers["content-type"].startswith("application/manifest+json")
    for icon in manifest.json()["icons"]:
        assert client.get(icon["src"]).status_code == 200


def test_titles_tell_pages_and_set_ups_apart(client):
    titles = {
        soup(client.get(path)).select_one("title").get_text()
        for path in ("/scale", "/plan", "/plan/zones", "/aids", "/kit", "/log")
    }
    assert len(titles) == 6
    before = soup(client.get("/scale")).select_one("title").get_text()
    client.post("/in-hand", data={"setup": "2", "back": "/scale"})
    assert soup(client.get("/scale")).select_one("title").get_text() != before
