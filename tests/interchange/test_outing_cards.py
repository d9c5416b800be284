"""Cards of an outing measured in their PDF: nothing leaves its panel, nothing is lost, black on white, true size."""

import itertools
import re
import subprocess

import pytest

from welotrope.core.plan.outing_cards import Blank, Card, Table, Ticks, Together, Words, log_card
from welotrope.interchange.print.drawing import Box, Line, Page, Paper, Text
from welotrope.interchange.print.outing import outing_pages
from welotrope.interchange.print.pdf import text_width, write_pdf
from welotrope.interchange.print.svg import write_svg

LONG = "a line that goes on for longer than any panel is wide, so that it has to be parted somewhere between words"
CARDS = [
    Card("Settings of a very long lens name on a very long body name", tuple(
        Together((Words(f"zone {index}: index 3.00 m at f/8", big=True), Words(LONG))) for index in range(9))),
    Card("Light", (Table(("", "f/2", "f/8"), tuple((f"light {index}, with shadows", "1/8000 s", "62 min") for index in range(30))),)),
    Card("Sheet", (Ticks(tuple((f"{LONG} {index}", LONG) for index in range(8))),)),
    log_card(40, first=12),
]  # fmt: skip
WAYS = list(itertools.product(Paper, (False, True)))


def texts(pages):
    return [item for page in pages for item in page.items if isinstance(item, Text)]


@pytest.mark.parametrize(("paper", "large"), WAYS)
def test_every_text_and_line_stays_in_its_panel(paper, large):
    across, down = (2, 2) if large else (4, 2)
    width, height = paper.size_mm[0] / across, paper.size_mm[1] / down
    for item in texts(outing_pages(CARDS, paper, large=large)):
        wide = text_width(item.text, item.size, bold=item.bold)
        left = item.x - (wide if item.anchor == "end" else 0)
        panel = int((left + 1e-6) // width)
        assert left + wide <= (panel + 1) * width + 1e-6, item.text
        row = int((item.y - item.size) // height)
        assert item.y <= (row + 1) * height, item.text


@pytest.mark.parametrize(("paper", "large"), WAYS)
def test_nothing_is_lost_on_the_way_to_paper(paper, large):
    said = " ".join(item.text for item in texts(outing_pages(CARDS, paper, large=large)))
    for index in range(9):
        assert f"zone {index}:" in said
    for index in range(30):
        assert f"light {index}," in said
    assert said.count("parted somewhere between words") == 9 + 2 * 8
    for number in range(12, 52):
        assert re.search(rf"\b{number}\b", said)


def test_what_belongs_together_stays_together():
    for page in outing_pages(CARDS[:1], Paper.A4, large=False):
        for item in page.items:
            if isinstance(item, Text) and item.text.startswith("zone"):
                under = [other for other in page.items if isinstance(other, Text)
                         and abs(other.x - item.x) < 0.1 and 0 < other.y - item.y < 6]  # fmt: skip
                assert under, item.text


def test_large_print_is_larger_and_has_larger_boxes():
    def sizes(large):
        pages = outing_pages(CARDS, Paper.A4, large=large)
        boxes = [item.width for page in pages for item in page.items if isinstance(item, Box)]
        return min(item.size for item in texts(pages)), min(boxes)

    for small, large in zip(sizes(False), sizes(True), strict=True):
        assert large == pytest.approx(1.5 * small)
    assert sizes(True)[0] >= 3.7  # about 10.5 point


def test_folds_lie_where_the_paper_is_halved():
    for paper in Paper:
        folds = {(item.x1, item.x2) for item in outing_pages(CARDS, paper, large=False)[0].items
                 if isinstance(item, Line) and item.dashed and item.x1 == item.x2}  # fmt: skip
        assert sorted(x for x, _ in folds) == pytest.approx([paper.size_mm[0] * part / 4 for part in (1, 2, 3)])


def test_the_pdf_is_black_on_white_and_says_infinity(tmp_path):
    card = Card("∞", (Words("sharp 5.49 m to ∞ (1′5⅝″ to ½ m)"),))
    path = tmp_path / "cards.pdf"
    path.write_bytes(write_pdf(outing_pages([card], Paper.LETTER, large=False), "Cards"))
    said = subprocess.run(["pdftotext", str(path), "-"], capture_output=True, text=True, check=True).stdout
    assert "∞" in said
    assert "1'5 5/8\"" in said
    assert "?" not in said
    size = subprocess.run(["pdfinfo", str(path)], capture_output=True, text=True, check=True).stdout
    assert re.search(r"Page size:\s+792 x 612", size)
    operators = re.findall(rb"[\d.]+ [\d.]+ [\d.]+ (?:rg|RG)", path.read_bytes())
    assert all(one.startswith(b"0 0 0") for one in operators)


def test_a_blank_table_has_its_rows_numbered_and_ruled():
    (block,) = log_card(3, first=7).blocks
    assert isinstance(block, Blank)
    page = outing_pages([log_card(3, first=7)], Paper.A4, large=False)[0]
    ruled = {
        round(item.y1, 2) for item in page.items if isinstance(item, Line) and not item.dashed and item.y1 == item.y2
    }
    assert len(ruled) == 4  # the head and three rows


def test_no_line_parts_a_number_from_its_unit():
    blocks = tuple(Words("i" * long + " and 0.475 m at ISO 400 for 8 min (B)") for long in range(1, 90))
    lines = [item.text for item in texts(outing_pages([Card("Lines", blocks)], Paper.A4, large=False))]
    assert any(line.endswith("and") for line in lines)
    assert not [
        line for line in lines if line.startswith(("m ", "400", "min")) or line.endswith(("0.475", "ISO", "for 8"))
    ]


def test_a_preview_in_any_type_keeps_the_columns_of_the_paper_apart():
    page = Page(100, 100)
    page.add(Text(x=0, y=0, text="2 min (B)", size=3, anchor="end"), Text(x=0, y=0, text="1/2", size=3, anchor="end"))
    drawn = write_svg([page], "Columns")
    assert drawn.count("textLength") == 1
    assert float(re.search('textLength="([^"]+)"', drawn)[1]) == pytest.approx(text_width("2 min (B)", 3), abs=1e-5)
