"""Every page on paper: black on white, without anything to press; tables copy as text."""

import pytest

PAGES = [
    "/scale", "/plan", "/plan/zones", "/plan/light", "/plan/night", "/aids", "/practice", "/log", "/kit", "/help/scale",
    "/kit/setups/1/sheet", "/field/cards", "/jobs",
]  # fmt: skip
INK = """() => {
  const dark = (colour) => { const [r, g, b] = colour.match(/[\\d.]+/g).map(Number); return r + g + b; };
  return { paper: dark(getComputedStyle(document.documentElement).backgroundColor),
    ink: dark(getComputedStyle(document.querySelector('h1')).color),
    press: [...document.querySelectorAll('button:not([role]), .btn, .rail, .bar, .tabs')].filter(one => one.checkVisibility())
      .map(one => one.outerHTML.slice(0, 90)) }; }"""


@pytest.mark.parametrize(("look", "pages"), [("bench", PAGES[:2]), ("night", PAGES)])
def test_paper_is_white_and_holds_nothing_to_press(open_page, site, look, pages):
    page = open_page(site, "/help", look=look)
    page.emulate_media(media="print")
    for path in pages:
        page.goto(path)
        page.emulate_media(media="print")
        found = page.evaluate(INK)
        assert found["paper"] == 3 * 255, path
        assert found["ink"] < 120, path
        assert found["press"] == [], path


def test_what_is_folded_up_is_opened_on_paper_and_folded_again(open_page, site):
    page = open_page(site, "/plan/zones")
    folded = page.locator("main details:not([open])").count()
    page.evaluate("window.dispatchEvent(new Event('beforeprint'))")
    assert (
        page.locator("main details:not([open])").evaluate_all(
            "all => all.filter(one => !one.querySelector('form')).length"
        )
        == 0
    )
    page.evaluate("window.dispatchEvent(new Event('afterprint'))")
    assert page.locator("main details:not([open])").count() == folded


def test_a_table_copies_as_rows_and_columns(open_page, site):
    page = open_page(site, "/aids")
    text = page.evaluate("""() => { const table = document.querySelector('table.aids');
      getSelection().selectAllChildren(table); return getSelection().toString(); }""")
    lines = [line for line in text.splitlines() if line.strip()]
    assert any("\t" in line for line in lines)
    assert "Magnified view" in text
