"""No issue on any page in any look, at both widths; pages stay usable with thumbs and keys.

The pages of the hand are looked at where there is a record of it, in test_hand.
"""

from pathlib import Path

import pytest

from welotrope.interchange.calc_verbs import VERBS
from welotrope.interchange.json_verbs import JSON_VERBS

AXE = (Path(__file__).parent / "vendor/axe.min.js").read_text()
PAGES = [
    "/scale?at=2.4m&stop=5.6&subject=Ida@2300&subject=Ove@4000", "/scale?at=inf&stop=1cm", "/plan", "/plan/zones", "/plan/light", "/plan/moving", "/plan/sitter", "/plan/close?depth=5", "/plan/night", "/plan/compare", "/kit/attachments/1",
    "/plan?name=a&distance=ten&name=b&distance=3m", "/aids?at=2.4m&stop=8", "/aids/constants", "/aids/live?setup=1", "/practice", "/practice/trials/1", "/log", "/log/new", "/log/frames/1",
    "/kit", "/kit/lenses/1", "/kit/bodies/1", "/kit/setups/1", "/kit/setups/3", "/kit/setups/1/sheet", "/kit/bodies/1/slots", "/kit/adapters/1", "/kit/mounts/new",
    "/kit/import", "/scale/measure", "/scale/marks", "/scale/infinity", "/scale/shift", "/scale/print", "/setups", "/jobs", "/jump", "/help", "/field", "/field/cards", "/field/pocket", "/log/type", "/devices", "/nowhere",
    "/practice/approach", "/log/pictures?outing=1", "/log/report?outing=1", "/log/rolls", "/log/rolls/1",
    "/log/clock", "/log/sidecars", "/kit/backups", "/kit/add/lens", "/kit/add/camera", "/start",
]  # fmt: skip


# What the others are made of: tables, facts, fields, the ring.
CONTRASTS = [PAGES[0], "/plan/moving", "/aids?at=2.4m&stop=8", "/practice", "/log", "/kit/setups/3", "/scale/measure"]


def test_what_is_looked_at_in_every_look_is_looked_at_at_all():
    assert set(CONTRASTS) <= set(PAGES)


def test_a_look_that_could_not_be_read_is_found(open_page, site):
    page = open_page(site, "/kit")
    page.evaluate("document.body.insertAdjacentHTML('beforeend', '<p id=faint>can this be read?</p>')")
    page.evaluate("document.getElementById('faint').style.color = 'color-mix(in srgb, var(--ink) 30%, var(--paper))'")
    found = looks_without_contrast(page, "/kit")
    assert sum("faint" in one for one in found) == 3


@pytest.mark.parametrize("part", [0, 1, 2, 3])
def test_axe_finds_nothing(site, open_page, part):
    """A look changes colours only, so that those alone are looked at in the others; see the test of looks below."""
    page = open_page(site, "/help")
    found = []
    for path in PAGES[part::4]:
        if path != "/nowhere":
            page.goto(path)
            found += violations(page, path)
            found += looks_without_contrast(page, path) if path in CONTRASTS else []
    assert not found, "\n".join(found)


@pytest.mark.parametrize("part", [0, 1])
def test_axe_finds_nothing_on_a_phone(site, open_page, part):
    page = open_page(site, "/help", size="phone")
    found = []
    for path in CONTRASTS[part::2]:
        page.goto(path)
        found += violations(page, path)
    assert not found, "\n".join(found)


def looks_without_contrast(page, path):
    found = []
    for look in ("room", "sun", "night"):
        page.evaluate("(look) => { document.documentElement.dataset.look = look; }", look)
        found += violations(page, f"{path} {look}", "runOnly: ['color-contrast'],")
    return found


def violations(page, where, more=""):
    """What axe finds on a page; styles are at hand, and what a drawing is made of has no roles of its own."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE)
    options = f"{{{more} resultTypes: ['violations'], preload: false}}"
    found = page.evaluate(f"axe.run({{exclude: [['svg > *']]}}, {options}).then((r) => r.violations)")
    return [
        f"{where} {rule['id']} {node['target']} {node['failureSummary']}" for rule in found for node in rule["nodes"]
    ]


@pytest.mark.parametrize("look", ["room", "sun", "night"])
def test_a_look_stands_alone(site, open_page, look):
    """What the test above switches to on the page is what the server sends for that look."""
    page = open_page(site, "/kit", look=look)
    read = "() => getComputedStyle(document.body).backgroundColor + getComputedStyle(document.body).color"
    sent = page.evaluate(read)
    page.evaluate("document.documentElement.dataset.look = 'bench'")
    assert page.evaluate(read) != sent
    page.evaluate("(look) => { document.documentElement.dataset.look = look; }", look)
    assert page.evaluate(read) == sent


def test_field_targets_are_thumb_sized(site, open_page):
    page = open_page(site, "/log", size="phone")
    for path in ("/scale", "/log"):
        page.goto(path)
        heights = page.evaluate(
            """[...document.querySelectorAll('.btn, .stops a, .marks button, .rail li a')].filter((one) => one.checkVisibility())
            .map((one) => [one.innerText, one.getBoundingClientRect().height])"""
        )
        assert len(heights) > 12
        assert [words for words, height in heights if height < 43.9] == []


def test_focus_can_be_seen(site, open_page):
    page = open_page(site)
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    outline = page.evaluate("getComputedStyle(document.activeElement).outlineStyle")
    assert outline == "solid"


def test_api_documentation_loads_from_the_application_alone(site, open_page):
    page = open_page(site, "/api/docs")
    page.wait_for_selector(".opblock")
    assert page.locator(".opblock").count() == sum(1 + verb.flat for verb in VERBS) + len(JSON_VERBS) + 6 + 2
