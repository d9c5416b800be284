"""Plant a fixed set of small bugs, one at a time, and see that the tests which should notice each of them do.

``tests/mutants.toml`` lists them: a file under ``src/welotrope``, a line of it, what the line becomes, and the tests.
Each runs in a process of its own, forked from one that has the libraries loaded, on a copy of the project. Prints the
survivors, and how many there are in each layer; exits with 1 when more survive than a layer may have.
"""

from __future__ import annotations

import collections
import contextlib
import os
import shutil
import sys
import tempfile
import time
import tomllib
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
PACKAGE = Path("src/welotrope")
MOST_S = 180
# Of a hundred bugs in a layer, how many may go unnoticed.
ALLOWED = {"core": 5, "store": 5, "interchange": 10, "web": 10, "templates": 10, "scripts": 10}


@dataclass(frozen=True)
class Mutant:
    """A small bug: the file, its line and what becomes of it, and the tests that should notice."""

    file: str
    line: str
    becomes: str
    tests: tuple[str, ...]

    @property
    def layer(self) -> str:
        """Part of the product it is planted in."""
        suffix = Path(self.file).suffix
        if suffix != ".py":
            return {".html": "templates", ".js": "scripts"}[suffix]
        first = self.file.split("/")[0]
        return first if first in ("core", "store", "interchange") else "web"

    def plant(self, root: Path) -> str:
        """Write the bug into a copy; returns the text of the file before."""
        path = root / PACKAGE / self.file
        before = path.read_text(encoding="utf-8")
        lines = before.split("\n")
        places = [place for place, line in enumerate(lines) if line.strip() == self.line]
        if len(places) != 1:
            raise LookupError(f"{self.file}: {len(places)} lines read {self.line!r}")
        place = places[0]
        lines[place] = lines[place].replace(self.line, self.becomes)
        path.write_text("\n".join(lines), encoding="utf-8")
        return before


def load(path: Path = ROOT / "tests/mutants.toml") -> list[Mutant]:
    """Return the mutants of the list."""
    with path.open("rb") as file:
        return [Mutant(**{**one, "tests": tuple(one["tests"])}) for one in tomllib.load(file)["mutant"]]


def copied(to: Path) -> Path:
    """Copy what the tests need."""
    for name in ("src", "tests", "scripts", "docs"):
        shutil.copytree(
            ROOT / name, to / name, ignore=shutil.ignore_patterns("__pycache__", "screenshots", ".mypy_cache")
        )
    for name in ("pyproject.toml", "README.md", "CHANGELOG.md", "CONTRIBUTING.md", "Makefile"):
        shutil.copy(ROOT / name, to / name)
    return to


def load_libraries() -> None:
    """Import what every test needs and no mutant changes."""
    import fastapi.testclient
    import hypothesis
    import lxml.cssselect
    import lxml.html
    import numpy.random
    import playwright.sync_api
    import pytest
    import scipy.interpolate
    import scipy.special
    import sqlalchemy.orm

    _ = (fastapi, hypothesis, lxml, numpy, playwright, pytest, scipy, sqlalchemy)


def run_tests(root: Path, tests: tuple[str, ...], output: Path) -> str:
    """Return what the tests say: killed, survived, slow (ended) or broken (none was run)."""
    child = os.fork()
    if child == 0:
        _in_child(root, tests, output)
    until = time.monotonic() + MOST_S
    while time.monotonic() < until:
        done, status = os.waitpid(child, os.WNOHANG)
        if done:
            return {0: "survived", 5: "broken"}.get(os.waitstatus_to_exitcode(status), "killed")
        time.sleep(0.05)
    with contextlib.suppress(ProcessLookupError):
        os.killpg(child, 9)
    os.waitpid(child, 0)
    return "slow"


def _in_child(root: Path, tests: tuple[str, ...], output: Path) -> None:
    os.setsid()
    os.chdir(root)
    file = os.open(output, os.O_WRONLY | os.O_CREAT | os.O_TRUNC)
    os.dup2(file, 1)
    os.dup2(file, 2)
    sys.path[:] = [str(root / "src"), str(root)] + [path for path in sys.path if not path.startswith(str(ROOT / "src"))]
    os.environ["PYTHONPATH"] = str(root / "src")
    import pytest

    options = ("-x", "-q", "--assert=plain", "-p", "no:cacheprovider", "--no-header", "--tb=line")
    try:
        code = int(pytest.main([*options, *tests]))
    except BaseException:  # noqa: BLE001 - such as a bug that keeps the tests from being imported
        code = 1
    os._exit(code)


def main() -> int:
    """Run the list, or those whose file holds the text given."""
    wanted = sys.argv[1] if len(sys.argv) > 1 else ""
    mutants = [one for one in load() if wanted in one.file]
    load_libraries()
    begun, workers = time.monotonic(), max(os.cpu_count() or 1, 1)
    found: dict[Mutant, str] = {}
    with tempfile.TemporaryDirectory() as folder:
        roots = [copied(Path(folder) / str(index)) for index in range(workers)]
        free = collections.deque(roots)

        def work(one: Mutant) -> None:
            root = free.popleft()
            path = root / PACKAGE / one.file
            before = one.plant(root)
            try:
                found[one] = run_tests(root, one.tests, root / "output.txt")
            finally:
                path.write_text(before, encoding="utf-8")
                free.append(root)
            if found[one] in ("survived", "broken"):
                print(f"{found[one]}: {one.file}\n  - {one.line}\n  + {one.becomes}", flush=True)

        with ThreadPoolExecutor(workers) as pool:
            list(pool.map(work, mutants))
    return report(found, time.monotonic() - begun)


def report(found: dict[Mutant, str], seconds: float) -> int:
    """Print the table by layer; returns the exit status."""
    print(f"\n{'layer':12} {'planted':>8} {'survived':>9}")
    failed = False
    for layer, allowed in ALLOWED.items():
        ours = [said for one, said in found.items() if one.layer == layer]
        alive = sum(said in ("survived", "broken") for said in ours)
        failed |= alive * 100 > allowed * len(ours)
        print(f"{layer:12} {len(ours):8} {alive:9}")
    print(f"{len(found)} bugs in {seconds / 60:.1f} minutes")
    return int(failed)


if __name__ == "__main__":
    sys.exit(main())
