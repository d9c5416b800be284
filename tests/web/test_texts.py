"""Every text of the demo's pages: usual words, short sentences, and no number parted from its unit."""

import re

import pytest

from tests.web.pages import soup
from welotrope.core.testshot.series_words import SeriesKind
from welotrope.web.rooms.registry import ROOMS

# What answers without being told which lens, frame or roll is meant; no page that is added is forgotten.
PLAIN = sorted(
    route.path for room in ROOMS for section in room.sections for route in section.router.routes
    if "GET" in route.methods and not re.search(r"[{.]|^/start|^/aids/live/scale", route.path)
)  # fmt: skip
PAGES = (
    *PLAIN, "/kit/setups/1", "/kit/setups/1/sheet", "/kit/setups/1/sheet?school=place", "/kit/lenses/1",
    "/kit/bodies/1", "/kit/bodies/2", "/kit/adapters/1", "/kit/attachments/1", "/kit/mounts/1", "/kit/add/lens",
    "/kit/add/camera", "/plan?name=a&distance=2m&name=b&distance=5m", "/aids?at=inf&light=dark&place=corner",
    "/log?outing=all", "/log/frames/1", "/log/rolls/1", "/practice/trials/1",
    *(f"/shots/series?kind={kind}" for kind in SeriesKind),
    *(f"/help/{room.key}" for room in ROOMS if room.label),
)  # fmt: skip
# Words of our own, or old ones, for which there is a usual term; what is meant instead stands beside.
BANNED = {
    r"\bin hand\b": "selected", r"\b(?:this|every|kit|other) rooms?\b": "page", r"\bregisters?\b": "flange distance", r"\bon one leg\b": "monopod",
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
    main = soup(page)
    for part in main.select("script, style, svg, textarea"):
        part.decompose()
    return list(main.strings())


def names(page):
    """What the fields, buttons and parts of a page are called where that is not to be seen."""
    return [one[name] for name in ("aria-label", "placeholder", "title") for one in soup(page).select(f"[{name}]")]


def sentences(page):
    """What the paragraphs and list entries of a page say, sentence by sentence."""
    main = soup(page).select_one("main") or soup(page)
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
    page = client.get(path)
    said = OWN.sub("", " ".join(" ".join([*texts(page), *names(page)]).split()))
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
