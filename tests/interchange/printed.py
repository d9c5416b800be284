"""Measuring a printed sheet as a reader of the PDF sees it: its pixels, in millimetres from the top left corner."""

import subprocess

import numpy as np

DPI = 600
PX_PER_MM = DPI / 25.4


def rasters(pdf, folder):
    """Every page as dark pixels (row, column), drawn by pdftoppm."""
    return [page < 128 for page in greys(pdf, folder, dpi=DPI)]


def greys(pdf, folder, *, dpi):
    """Every page as grey values (row, column), drawn by pdftoppm."""
    path = folder / "sheet.pdf"
    path.write_bytes(pdf)
    subprocess.run(["pdftoppm", "-r", str(dpi), "-gray", path, folder / "page"], check=True)
    return [_pgm(page.read_bytes()) for page in sorted(folder.glob("page-*.pgm"))]


def text(pdf, folder):
    path = folder / "text.pdf"
    path.write_bytes(pdf)
    return subprocess.run(["pdftotext", "-layout", path, "-"], check=True, capture_output=True, text=True).stdout


def _pgm(data):
    kind, width, height = data.split(maxsplit=4)[:3]
    assert kind == b"P5"
    shape = int(height), int(width)
    return np.frombuffer(data[-shape[0] * shape[1] :], np.uint8).reshape(shape)


def runs(line):
    """Start and end in mm of the dark runs along a line of pixels."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], line.astype(np.int8), [0]])))
    return [(start / PX_PER_MM, end / PX_PER_MM) for start, end in edges.reshape(-1, 2)]


def centres(line):
    return [(start + end) / 2 for start, end in runs(line)]


def rules(page, at_least_mm):
    """Rows in mm on which something dark runs for ``at_least_mm`` or more, thick lines once."""
    rows = [i for i in range(page.shape[0]) if page[i].sum() >= at_least_mm * PX_PER_MM]
    long = [i for i in rows if any(end - start >= at_least_mm for start, end in runs(page[i]))]
    return [i / PX_PER_MM for k, i in enumerate(long) if k == 0 or i - long[k - 1] > 2]


def row(page, y_mm):
    return page[round(y_mm * PX_PER_MM)]
