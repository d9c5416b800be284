"""Every kind of camera on every page: what it has not got is not spoken of."""

import re
from types import SimpleNamespace

import pytest

from tests.web.pages import fields_of, soup
from welotrope.core.kit.camera_kind import CAMERA_KINDS, FILM, SetBy
from welotrope.web.request.layout import Layout

# Words by which an aid is spoken of.
AIDS = {
    "matte": r"\bmatte\b|ground glass|focusing screen",
    "split_image": r"\bsplit\b|\bprisms?\b(?!-centre)",
    "microprism": r"microprism|shimmer",
    "rangefinder": r"(?<!accessory )\brangefinders?\b(?! camera)|\bpatch\b",
    "confirmation": r"focus confirmation|\blamp lights\b",
    "magnified": r"\bmagnif(y|ied|ier)\b|live view",
    "peaking": r"\bpeak(s|ing)?\b",
}
OF_A_MOUNT = r"\badapters?\b|\bregister\b|flange|\bpin\b|coupling lever|\bmounts?\b"
BEHIND_A_LENS = r"extension tube|helicoid or bellows|focusing helicoid|reversing ring"
OF_A_RING = r"(?<!aperture )(?<!front )(?<!reversing )\brings?\b(?! that sets the stop)|\bcollar\b"
OF_A_TURNED_RING = r"\bcollar\b|tape round|\bthrow\b(?! the focus)"
PAGES = (
    "/kit", "/kit/bodies/1", "/kit/lenses/1", "/kit/setups/1", "/kit/setups/1/sheet", "/kit/setups/1/sheet?school=place",
    "/kit/attachments/new",
    "/scale", "/scale?at=3m&stop=8", "/scale/infinity", "/scale/measure", "/scale/marks", "/scale/shift", "/scale/print",
    "/plan", "/plan?name=a&distance=2m&name=b&distance=5m", "/plan/zones", "/plan/sitter", "/plan/close", "/plan/moving",
    "/plan/night", "/plan/light", "/plan/compare", "/aids?at=3m&stop=8", "/aids?at=3m&stop=5.6&place=corner",
    "/aids?at=inf&light=dark", "/practice", "/practice/guess", "/practice/approach", "/practice/daily", "/practice/hand",
    "/practice/reaction", "/practice/tape", "/practice/lean", "/field", "/field/cards", "/log", "/log/new", "/log/why",
    "/log/report", "/log/type", "/log/rolls", "/log/review",
)  # fmt: skip


def spoken(page):
    """What a page says to one who looks at it: its main part, what is offered in forms included."""
    main = soup(page).select_one("main")
    for part in main.select("script, form[action='/seen'], #f-kind"):
        part.decompose()
    return " ".join(main.get_text(" ").split())


def first_kit(client, kind):
    answer = client.post(
        "/start",
        data={"kind": kind.id, "focal": "50", "stops": "2.8", "nearest": "0.7 m", "near": "2 m", "far": "4 m",
              "throw": "half" if kind.turns else "", "prisms": "both"},
    )  # fmt: skip
    assert answer.status_code == 200


def reached(client):
    """The pages but those whose tab such a camera does not show."""
    shown = {link["href"] for room in ("/scale", "/practice") for link in soup(client.get(room)).select("nav.tabs a")}
    assert "/scale" in shown
    tabbed = [path for path in PAGES if path.startswith(("/scale/", "/practice/"))]
    return [path for path in PAGES if path not in tabbed or path in shown]


@pytest.mark.parametrize("kind", CAMERA_KINDS, ids=lambda kind: kind.id)
def test_no_page_names_what_a_kind_has_not_got(empty_client, kind):
    first_kit(empty_client, kind)
    words = [pattern for tag, pattern in AIDS.items() if tag not in kind.aids]
    if FILM in kind.media:  # such a camera was started with film, which shows no live picture
        words += [AIDS["magnified"], AIDS["peaking"]]
    if not kind.has_mount:
        words += [OF_A_MOUNT, BEHIND_A_LENS]
    if not kind.turns:
        words.append(OF_A_TURNED_RING if kind.set_by is SetBy.WIRE else OF_A_RING)
    found = {}
    for path in reached(empty_client):
        text = spoken(empty_client.get(path))
        for word in words:
            for match in re.finditer(word, text, re.IGNORECASE):
                found.setdefault(path, []).append(text[max(match.start() - 50, 0) : match.end() + 40])
    assert found == {}


@pytest.mark.parametrize("kind", CAMERA_KINDS, ids=lambda kind: kind.id)
def test_no_page_sends_one_to_a_page_the_kind_has_not_got(empty_client, kind):
    first_kit(empty_client, kind)
    pages = reached(empty_client)
    missing = {path for path in PAGES if path.startswith(("/scale/", "/practice/")) and path not in pages}
    for path in pages:
        page = empty_client.get(path)
        links = {link["href"].split("?")[0] for link in soup(page).select("main a[href]")}
        assert not links & missing, path
        if "/scale/shift" in missing:
            assert "test it once in Scale" not in spoken(page), path


@pytest.mark.parametrize("kind", CAMERA_KINDS, ids=lambda kind: kind.id)
def test_a_lens_and_a_tube_saved_as_shown_stay_what_they_are(empty_client, kind):
    first_kit(empty_client, kind)
    tube = {"name": "tube", "kind": "extension tube", "least": "20"}
    empty_client.post("/kit/attachments", data=tube)
    before = empty_client.get("/kit/export.json").json()
    for path in ("/kit/lenses/1", "/kit/attachments/1"):
        answer = empty_client.post(path, data=fields_of(empty_client.get(path), path))
        assert answer.status_code == 200
    after = empty_client.get("/kit/export.json").json()
    assert [after[part] for part in ("lenses", "attachments")] == [before[part] for part in ("lenses", "attachments")]


def test_a_link_with_a_query_leads_to_the_page_it_names():
    layout = SimpleNamespace(hidden=frozenset({"/scale/shift"}))
    assert not Layout.offers(layout, "/scale/shift?setup=2")
    assert not Layout.offers(layout, "/scale/shift")
    assert Layout.offers(layout, "/scale/infinity?setup=2")
