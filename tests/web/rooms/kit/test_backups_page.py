"""Everything as one file, made beside the pages."""

import io
import time
import zipfile

from tests.web.pages import soup, text_of


def test_the_archive_is_made_as_long_work_and_leads_to_its_file(client, demo_folder):
    for _ in range(2):
        answer = client.post("/kit/backups/everything")
        path = answer.url.path
        deadline = time.monotonic() + 20
        while "See what came of it" not in text_of(answer) and time.monotonic() < deadline:
            time.sleep(0.05)
            answer = client.get(path)
        file = client.get(soup(answer).holding("a", "See what came of it")["href"])
        names = zipfile.ZipFile(io.BytesIO(file.content)).namelist()
        assert "manifest.json" in names
        assert "tables/frame.jsonl" in names
    assert len(list((demo_folder / "exports").glob("*"))) == 1
    assert client.get("/kit/backups/exports/none.zip").status_code == 404
