"""Every page that a link leads to, at four widths: it answers, fits the screen, complains of nothing, has one heading."""

import re
from collections import deque
from urllib.parse import urlsplit

WIDTHS = (320, 640, 1280, 1920)  # 640 is a 1280 screen at 200 % zoom
ALSO = [
    "/scale?at=2.4m&stop=5.6&subject=Ida@2300&subject=Ove@4000&light=dim+room", "/scale?at=0.45m&stop=1.4",
    "/plan?name=a&distance=ten&name=b&distance=3m", "/plan?name=Ida&distance=2.3&name=Ove&distance=4&numbers_in=m",
    "/scale/measure?record=measured", "/kit/bodies/new", "/kit/lenses/new", "/kit/setups/new", "/kit/adapters/new",
]  # fmt: skip
_NO_PAGE = re.compile(r"\.(json|csv|svg|pdf|jpg)$|^/api|^/static")

# Tables of which a row shows more or fewer cells than there are heads: their heads stand over the wrong column.
UNEVEN = """() => {
  const width = (cells) => [...cells].filter((cell) => cell.offsetParent || getComputedStyle(cell).display !== 'none')
    .reduce((sum, cell) => sum + cell.colSpan, 0);
  return [...document.querySelectorAll('table')].filter((table) => table.tHead && table.tBodies[0]?.rows[0]
    && getComputedStyle(table.tHead).display !== 'none' && getComputedStyle(table.tBodies[0].rows[0]).display === 'table-row')
    .filter((table) => {
      const heads = width(table.tHead.rows[0].cells);
      return [...table.tBodies[0].rows].some((row) => row.cells.length > 1 && width(row.cells) !== heads);
    }).map((table) => table.tHead.innerText);
}"""


def kind_of(path):
    """Pages of one kind share their template: one of each is enough of those with a number."""
    return re.sub(r"\d+", "#", urlsplit(path).path)


def links(page):
    hrefs = page.eval_on_selector_all("a[href]:not([download])", "(all) => all.map((a) => a.getAttribute('href'))")
    return [href for href in hrefs if href.startswith("/") and not _NO_PAGE.search(urlsplit(href).path)]


def troubles_of(page, path):
    found = []
    for width in WIDTHS:
        page.set_viewport_size({"width": width, "height": 800})
        wide = page.evaluate("document.documentElement.scrollWidth")
        if wide > width:
            found.append(f"{path} is {wide} px wide on {width}")
        found += [
            f"{path} on {width}: heads of {table!r} do not stand over its cells" for table in page.evaluate(UNEVEN)
        ]
    if page.locator("h1").count() != 1:
        found.append(f"{path} has {page.locator('h1').count()} first headings")
    return found


def test_every_page_that_is_linked_fits_and_answers(site, open_page):
    page = open_page(site, "/scale")
    waiting, seen, found, titles = deque(["/scale", *ALSO]), set(), [], {}
    while waiting:
        path = waiting.popleft()
        if kind_of(path) in seen and path not in ALSO:
            continue
        seen.add(kind_of(path))
        answer = page.goto(path)
        if answer.status not in (200, 422) or (answer.status == 422 and "ten" not in path):
            found.append(f"{path} answers {answer.status}")
        found += troubles_of(page, path)
        titles.setdefault(kind_of(page.url), " ".join(page.locator("h1").all_inner_texts()))
        waiting.extend(links(page))
    assert not found, "\n".join(found)
    assert len(seen) >= 28
    twice = [path for path, title in titles.items() if list(titles.values()).count(title) > 1]
    assert twice == []
