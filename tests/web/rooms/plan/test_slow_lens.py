"""A slow lens of one stop: every section opens with a stop it has."""

import pytest

from tests.web.pages import soup, text_of

SLOW = {"kind": "mirrorless", "focal": "100", "stops": "8", "nearest": "1 m", "throw": "half", "near": "20 m"}


@pytest.mark.parametrize("stops", ["8", "11-22"])
@pytest.mark.parametrize(
    "path", ["/scale", "/aids", "/plan/zones", "/plan/light", "/plan/moving", "/plan/sitter", "/plan/close",
             "/plan/night", "/plan/compare", "/field", "/field/cards", "/practice", "/log/new"],
)  # fmt: skip
def test_a_page_that_nobody_asked_anything_of_refuses_no_stop(empty_client, path, stops):
    empty_client.post("/start", data=SLOW | {"stops": stops})
    page = empty_client.get(path)
    assert page.status_code == 200
    assert "opens no further" not in text_of(page)
    assert soup(page).select("p.error, p.problem") == []
