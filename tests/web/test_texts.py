"""Every text of the demo's pages: usual words, short sentences, and no number parted from its unit."""

import re

import pytest

from tests.web.pages import soup

PAGES = (
    "/kit", "/kit/setups/1", "/kit/setups/1/sheet", "/kit/setups/1/sheet?school=place", "/kit/lenses/1",
    "/kit/bodies/1", "/kit/bodies/2", "/kit/adapters/1", "/kit/attachments/1", "/kit/mounts/1", "/kit/add/lens",
    "/kit/add/camera", "/kit/backups", "/scale", "/scale/measure", "/scale/marks", "/scale/infinity", "/scale/shift",
    "/scale/print", "/plan", "/plan?name=a&distance=2m&name=b&distance=5m", "/plan/zones", "/plan/light",
    "/plan/moving", "/plan/sitter", "/plan/close", "/plan/night", "/plan/compare", "/aids",
    "/aids?at=inf&light=dark&place=corner", "/aids/constants", "/practice", "/practice/tape", "/practice/guess",
    "/practice/approach", "/practice/lean", "/practice/daily", "/practice/reaction", "/practice/hand", "/field",
    "/field/cards", "/log", "/log?outing=all", "/log/new", "/log/why", "/log/report", "/log/type", "/log/rolls",
    "/log/review", "/log/pictures", "/log/sidecars", "/help", "/devices",
)  # fmt: skip
# Words of our own, or old ones, for which there is a usual term; what is meant instead stands beside.
BANNED = {
    r"\bin hand\b": "selected", r"\bregisters?\b": "flange distance", r"\bon one leg\b": "monopod",
    r"\bblur circle\b": "circle of confusion", r"\bbelieved\b": "estimated", r"\bpencilled\b": "handwritten",
    r"\bsighted?\b": "checked", r"\bballpark\b": "rough", r"\bcrispest\b": "sharpest", r"\bthe thing\b": "subject",
    r"\bparted by\b": "separated by", r"\bplan it\b": "calculate", r"\bresolves? it\b": "precise enough",
    r"\bnobody has\b": "not yet", r"\bput in your own\b": "enter your own", r"\bgiven back\b": "restored",
    r"(?<!Twin-lens )\breflex\b": "SLR", r"\bfocus indicator\b": "focus confirmation",
    r"\broom (?:from|before|for)\b": "working distance", r"\bstandard\b(?! (?:deviation|fields|name))": "criterion",
}  # fmt: skip
# The names and notes of the demo's own kit are its owner's.
OWN = re.compile(r"Kyrstad Reflex")
UNIT = r"(?:mm|cm|km|m|s|ms|%|ft|dpi|kB|MB|GB|stops?|dioptres?)"


def texts(page):
    """The pieces of text of a page that no tag divides, as they are sent."""
    main = soup(page).select_one("main")
    for part in main.select("script, style, svg, textarea"):
        part.decompose()
    return list(main.strings())


def sentences(page):
    """What the paragraphs and list entries of a page say, sentence by sentence."""
    main = soup(page).select_one("main")
    for part in main.select("script, style, svg, textarea, table, select, dl, form, nav"):
        part.decompose()
    paragraphs = [" ".join(one.get_text(" ").split()) for one in main.select("p, li, h1")]
    return [said for text in paragraphs for said in re.split(r"(?<=[.?!;:])\s+(?=[A-Z∞f])", text) if " " in said]


@pytest.mark.parametrize("path", PAGES)
def test_no_line_ends_between_a_number_and_its_unit(client, path):
    page = client.get(path)
    assert page.status_code == 200
    parted = [text.strip()[:80] for text in texts(page) if re.search(rf"\d[ \n\t]+{UNIT}(?![\w’])", text)]
    assert parted == []


@pytest.mark.parametrize("path", PAGES)
def test_no_page_speaks_in_words_of_its_own(client, path):
    said = OWN.sub("", " ".join(" ".join(texts(client.get(path))).split()))
    found = {
        said[max(match.start() - 40, 0) : match.end() + 30]: meant
        for word, meant in BANNED.items()
        for match in re.finditer(word, said, re.IGNORECASE)
    }
    assert found == {}


def test_sentences_are_short(client):
    lengths = sorted(len(one.split()) for path in PAGES for one in sentences(client.get(path)))
    assert len(lengths) > 300
    assert lengths[int(0.95 * len(lengths))] <= 25
