"""The cards of an outing ordered in the page: what is planned is on them, what cannot be is named and left out."""

import subprocess

import pytest

from tests.web.pages import headline, soup, text_of

EVERY = "part=settings&part=strip&part=light&part=moving&part=close&part=stack&part=night&part=sheet&part=log"


def printed(client, query, tmp_path):
    path = tmp_path / "cards.pdf"
    answer = client.get(f"/field/cards.pdf?{query}")
    assert answer.status_code == 200, answer.text
    path.write_bytes(answer.content)
    return subprocess.run(["pdftotext", "-layout", str(path), "-"], capture_output=True, text=True, check=True).stdout


def test_a_first_visit_shows_the_usual_cards(client):
    page = client.get("/field/cards")
    assert "pages to fold into your pocket" in headline(page)
    ticked = {box["value"] for box in soup(page).select("input[name=part][checked]")}
    assert ticked == {"settings", "strip", "light", "sheet", "log"}
    assert client.get(soup(page).select_one("a.sheet img")["src"]).headers["content-type"] == "image/svg+xml"


def test_everything_is_on_them(client, tmp_path):
    said = printed(client, f"{EVERY}&stack_near=0.5m&stack_far=0.55m&stop=8&trap=6m&iso=100&lines=30&first=5", tmp_path)
    words = ("far zone", "near zone", "shed bench", "Light, ISO 100", "Trap: walking", "Close up", "bench bellows",
             "Stack", "Night", "Magnify 12× on it", "Set-up sheet", "Focus mode: manual", "Log", "34", "Ring 61 mm")  # fmt: skip
    for word in words:
        assert word in said, word


@pytest.mark.parametrize(
    ("change", "words"),
    [("part=moving&trap=0.2m", "does not focus so near")],
)
def test_a_card_that_cannot_be_made_is_named_and_the_others_are_there(client, change, words):
    page = client.get(f"/field/cards?part=stack&part=log&stack_near=0.5m&stack_far=0.6m&stop=8&{change}")
    assert page.status_code == 200
    assert words in text_of(page)
    assert "1 page to fold" in headline(page)


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ("part=stack", "Give both distances"), ("part=stack&stack_near=2m&stack_far=1m", "at or beyond far"),
        ("part=light&iso=none", "not a number"), ("part=log&lines=900", "1 to 200"), ("part=moving&trap=up", "not a distance"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_said_at_its_field(client, query, words):
    page = client.get(f"/field/cards?{query}")
    assert page.status_code == 422
    assert words in text_of(page)
    assert client.get(f"/field/cards.pdf?{query}").status_code == 422


def test_nothing_ticked_prints_nothing(client):
    assert "Nothing to print yet" in headline(client.get("/field/cards?iso=400"))
    assert client.get("/field/cards.pdf?iso=400").status_code == 422


def test_a_ring_of_no_known_size_has_no_strip_and_says_so(client):
    assert "No strip" in text_of(client.get("/field/cards?setup=6"))
