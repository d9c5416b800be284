"""Sheets measured in the PDF itself, against the geometry of a thin lens on a helicoid worked out here anew."""

import csv
import io
import math
import re
import statistics

import numpy as np
import pytest

from tests.interchange import printed
from welotrope.core.ring.strip import MarkKind, StripMark, Wrap
from welotrope.demo import skarnmere
from welotrope.interchange.print.drawing import Paper
from welotrope.interchange.print.pdf import write_pdf
from welotrope.interchange.print.sheet import Strip, lay_out
from welotrope.interchange.print.svg import write_svg

VELLOISE = {"setup": "2"}
CHOSEN = (0.3, 0.4, 0.5, 0.7, 1.0, 2.0, math.inf)


def extension(distance_mm, f):
    """D = 2f + x + f²/x solved for the smaller x."""
    if math.isinf(distance_mm):
        return 0.0
    b = distance_mm - 2 * f
    return (b - math.sqrt(b * b - 4 * f * f)) / 2


def velloise_places(diameter, paper):
    """Millimetres from the infinity mark; infinity itself lies where it was sighted. Nearer is to the right."""
    per_degree = math.pi * (diameter + paper) / 360
    per_mm = 95 / extension(250, 20)
    return [extension(m * 1000, 20) * per_mm * per_degree for m in CHOSEN]


def sheet(client, query):
    client.post("/in-hand", data=VELLOISE)
    answer = client.get(f"/scale/print.pdf?chosen=1&{query}")
    assert answer.status_code == 200
    assert answer.headers["content-type"] == "application/pdf"
    return answer.content


def test_strip_lies_within_a_tenth_of_a_millimetre_over_its_whole_length(client, tmp_path):
    query = "part=strip&diameter=64&thickness=0.1&units=one&distances=0.3 0.4 0.5 0.7 1 2 inf"
    (page,) = printed.rasters(sheet(client, query), tmp_path)
    assert page.shape == (round(210 * printed.PX_PER_MM), pytest.approx(297 * printed.PX_PER_MM, abs=1))
    top, bottom = printed.rules(page, 180)[:2]
    assert bottom - top == pytest.approx(13, abs=0.1)

    left, *ticks, right = printed.centres(printed.row(page, top + 0.7))[: len(CHOSEN) + 2]
    assert right - left == pytest.approx(math.pi * 64.1, abs=0.1)
    expected = sorted(velloise_places(64, 0.1))
    assert np.subtract(ticks, ticks[0]) == pytest.approx(expected, abs=0.1)

    zero = statistics.mean(printed.centres(printed.row(page, bottom - 1.2))[1:3])  # both strokes of its arrow head
    sighted = statistics.mean(sighting.angle_deg for sighting in skarnmere.VELLOISE_SIGHTINGS.sightings)
    assert ticks[0] - zero == pytest.approx(sighted * math.pi * 64.1 / 360, abs=0.1)


def test_check_bar_is_fifty_millimetres_and_says_so(client, tmp_path):
    pdf = sheet(client, "part=strip&diameter=64")
    (page,) = printed.rasters(pdf, tmp_path)
    bar = printed.rules(page, 45)[-1]
    start, end = printed.centres(printed.row(page, bar - 1))[:2]
    assert end - start == pytest.approx(50, abs=0.05)
    assert "This bar is 50 mm" in printed.text(pdf, tmp_path)


def test_collar_degree_marks_are_evenly_spaced_round_the_ring(client, tmp_path):
    (page,) = printed.rasters(sheet(client, "part=collar&diameter=61"), tmp_path)
    _, bottom = printed.rules(page, 180)[:2]
    tens = printed.centres(printed.row(page, bottom - 3.6))[1:-1]
    tens = [at for at in tens if at - tens[0] <= 350 * math.pi * 61 / 360 + 1]
    assert len(tens) >= 36
    assert np.diff(tens[:36]) == pytest.approx(math.pi * 61 / 36, abs=0.1)
    assert tens[35] - tens[0] == pytest.approx(350 * math.pi * 61 / 360, abs=0.1)


def test_card_is_the_size_of_a_bank_card_and_holds_both_units(client, tmp_path):
    pdf = sheet(client, "part=card&presets=yes")
    (page,) = printed.rasters(pdf, tmp_path)
    top, bottom = printed.rules(page, 85)[0], printed.rules(page, 85)[-1]
    assert bottom - top == pytest.approx(53.98, abs=0.15)
    words = printed.text(pdf, tmp_path)
    for expected in ("metres", "feet", "far end: set", "quay, far zone: 1.77 m at f/8", "Velloise 20 on Ostrel 6"):
        assert expected in words


@pytest.mark.parametrize(("paper", "size"), [("A4", (297, 210)), ("Letter", (279.4, 215.9))])
def test_paper_sizes_and_several_strips_a_page(client, tmp_path, paper, size):
    pages = printed.rasters(sheet(client, f"part=strip&diameter=64&copies=6&paper={paper}"), tmp_path)
    assert (pages[0].shape[1] / printed.PX_PER_MM, pages[0].shape[0] / printed.PX_PER_MM) == pytest.approx(
        size, abs=0.1
    )
    assert len(printed.rules(pages[0], 180)) == 2 * 6


def test_a_strip_longer_than_the_paper_is_cut_and_goes_on_where_it_stopped():
    wrap = Wrap(120)
    marks = tuple(StripMark(wrap.place(-angle), f"{angle}", MarkKind.LEADING) for angle in range(0, 350, 10))
    pages = lay_out([Strip("long", wrap, marks, "foot")], Paper.A4)
    texts = [item.text for page in pages for item in page.items if hasattr(item, "text")]
    assert [text for text in texts if text.startswith("long")] == [
        "long, piece 1 of 2; upper edge towards the front of the lens",
        "long, piece 2 of 2; upper edge towards the front of the lens",
    ]
    assert {f"{angle}" for angle in range(0, 350, 10)} <= set(texts)
    boxes = [item for page in pages for item in page.items if getattr(item, "height", 0) == 13 and not item.dashed]
    assert sum(box.width for box in boxes) == pytest.approx(math.pi * 120)


def test_svg_and_pdf_draw_the_same_lines(client, tmp_path):
    client.post("/in-hand", data=VELLOISE)
    query = "chosen=1&part=strip&diameter=64&units=one&distances=0.3 0.5 1 inf"
    svg = client.get(f"/scale/print.svg?{query}").text
    assert re.search(r'<svg [^>]*width="297mm" height="210mm" viewBox="0 0 297 210"', svg)
    ticks = {
        float(m[1]) for m in re.finditer(r'<line x1="([\d.]+)" y1="26" x2="\1" y2="[\d.]+" stroke-width="0.2"/>', svg)
    }
    (page,) = printed.rasters(client.get(f"/scale/print.pdf?{query}").content, tmp_path)
    seen = printed.centres(printed.row(page, 26.7))
    assert all(min(abs(at - tick) for at in seen) < 0.06 for tick in ticks)
    assert len(ticks) == 4


def test_the_same_sheet_is_the_same_file():
    wrap = Wrap(50)
    pages = lay_out([Strip("a & b <c>", wrap, (StripMark(0, "∞", MarkKind.LEADING),), "Ø ′")], Paper.A4)
    assert write_pdf(pages, "a") == write_pdf(pages, "a")
    assert "a &amp; b &lt;c&gt;" in write_svg(pages, "a & b <c>")


def test_table_as_csv_follows_the_true_scale(client):
    client.post("/in-hand", data=VELLOISE)
    text = client.get("/scale/print.csv?chosen=1&part=strip&diameter=64&distances=0.3 1 inf&stops=8").text
    rows = list(csv.DictReader(io.StringIO(text)))
    assert list(rows[0]) == [
        "true_m", "true_ft", "angle_deg", "strip_mm", "engraved_m", "near_m_f8", "far_m_f8",
    ]  # fmt: skip
    assert [row["true_m"] for row in rows] == ["0.300", "1.000", "inf"]
    assert float(rows[2]["angle_deg"]) == pytest.approx(3.78, abs=0.01)
    assert float(rows[1]["strip_mm"]) == pytest.approx(float(rows[1]["angle_deg"]) * math.pi * 64 / 360, abs=0.01)
    assert float(rows[1]["engraved_m"]) < 1  # infinity lies before its mark, so the engraving reads too near
