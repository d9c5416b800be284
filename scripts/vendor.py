"""Re-create the vendored browser files from the npm registry at pinned versions.

Needs npm, and ``pip install fonttools brotli`` for cutting the symbol font down. Run from the project root.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import tarfile
import tempfile
from pathlib import Path

STATIC = Path("src/welotrope/web/static")
SYMBOLS = "∞→←↑↓≤≥≈′″✓−×⅓⅔"

# package, version, {file in the package: where it goes below static/}
PACKAGES: list[tuple[str, str, dict[str, str]]] = [
    # 2.0.x on purpose: see docs/decisions/0003-htmx-2.md
    ("htmx.org", "2.0.11", {"dist/htmx.min.js": "vendor/htmx.min.js", "LICENSE": "vendor/htmx.LICENSE"}),
    ("swagger-ui-dist", "5.35.0", {
        "swagger-ui-bundle.js": "vendor/swagger-ui/swagger-ui-bundle.js",
        "swagger-ui.css": "vendor/swagger-ui/swagger-ui.css",
        "LICENSE": "vendor/swagger-ui/LICENSE",
        "NOTICE": "vendor/swagger-ui/NOTICE",
    }),
    ("@fontsource/barlow-condensed", "5.3.0", {
        "files/barlow-condensed-latin-500-normal.woff2": "fonts/barlow-condensed-500.woff2",
        "files/barlow-condensed-latin-600-normal.woff2": "fonts/barlow-condensed-600.woff2",
        "LICENSE": "fonts/barlow-condensed.LICENSE",
    }),
    ("@fontsource-variable/atkinson-hyperlegible-next", "5.3.0", {
        "files/atkinson-hyperlegible-next-latin-wght-normal.woff2": "fonts/atkinson-hyperlegible-next.woff2",
        "LICENSE": "fonts/atkinson-hyperlegible-next.LICENSE",
    }),
    ("@fontsource/noto-sans-math", "5.3.0", {
        "files/noto-sans-math-latin-400-normal.woff2": "fonts/symbols.woff2",
        "LICENSE": "fonts/symbols.LICENSE",
    }),
]  # fmt: skip
AXE = ("axe-core", "4.14.1", {"axe.min.js": "axe.min.js", "LICENSE": "axe.LICENSE"})


def fetch(package: str, version: str, files: dict[str, str], target: Path) -> None:
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run(["npm", "pack", "--silent", f"{package}@{version}", "--pack-destination", folder], check=True)
        archive = next(Path(folder).glob("*.tgz"))
        with tarfile.open(archive) as tar:
            tar.extractall(folder, filter="data")
        for source, name in files.items():
            (target / name).parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(Path(folder) / "package" / source, target / name)
    print(f"{package} {version}")


def cut_symbols(font: Path) -> None:
    subprocess.run(
        [sys.executable, "-m", "fontTools.subset", str(font), f"--text={SYMBOLS}", "--flavor=woff2",
         "--layout-features=", f"--output-file={font}.cut"],
        check=True,
    )  # fmt: skip
    Path(f"{font}.cut").replace(font)


if __name__ == "__main__":
    for package, version, files in PACKAGES:
        fetch(package, version, files, STATIC)
    cut_symbols(STATIC / "fonts/symbols.woff2")
    fetch(*AXE, Path("tests/browser/vendor"))
