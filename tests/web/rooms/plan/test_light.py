"""The page of light: what it says of the whole agrees with what it says of each stop."""

import re

import pytest

from tests.web.pages import soup


@pytest.mark.parametrize("speed", ["0.05", "0.1", "0.2", "0.4", "0.8"])
def test_no_row_works_at_a_time_longer_than_the_page_allows(client, speed):
    page = client.get("/plan/light", params={"near": "2 m", "far": "5 m", "light": "overcast", "most_iso": "6400",
                                             "speed": speed, "iso": "100"})  # fmt: skip
    said = soup(page)
    facts = {one.dt.get_text(): one.dd.get_text() for one in said.select("dl div") if one.dt and one.dd}
    allowed = [seconds(facts[f"Slowest the {who} allows"]) for who in ("hand", "subject")]
    table = said.find("h2", string=re.compile("Over the stops")).find_next("table")
    rows = [[cell.get_text(" ", strip=True) for cell in row.select("td")] for row in table.select("tbody tr")]
    working = [seconds(row[4]) for row in rows if row[-1] == "works"]
    assert working
    assert max(working) <= min(allowed) * 1.001


def seconds(words):
    top, _, bottom = words.strip().removesuffix("s").strip().partition("/")
    return float(top) / float(bottom or 1)
