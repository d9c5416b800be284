"""The page of light: what it says of the whole agrees with what it says of each stop."""

from tests.web.pages import soup, words


def test_no_row_works_at_a_time_longer_than_the_page_allows(client):
    worked = 0
    for step in range(14):  # over two stops in sevenths, so that some limits lie just below a marked time
        asked = {
            "near": "2 m",
            "far": "5 m",
            "light": "overcast",
            "iso": "100",
            "speed": f"{0.1 * 2 ** (step / 7):.3f}",
        }
        said = soup(client.get("/plan/light", params=asked))
        facts = {
            one.select_one("dt").get_text(): one.select_one("dd").get_text()
            for one in said.select("dl div:has(> dt + dd)")
        }
        allowed = [seconds(facts[f"Slowest shutter speed for {who}"]) for who in ("your hands", "the subject")]
        table = said.select_one('[aria-label="Exposure over the stops"]')
        columns = [words(cell) for cell in table.select("th")]
        rows = [[words(cell) for cell in row.select("td")] for row in table.select("tbody tr")]
        working = [seconds(row[columns.index("Shutter")]) for row in rows if row[-1] == "works"]
        worked += len(working)
        assert max(working, default=0) <= min(allowed) * 1.001, asked
    assert worked > 10


def seconds(words):
    top, _, bottom = words.strip().removesuffix("s").strip().partition("/")
    return float(top) / float(bottom or 1)
