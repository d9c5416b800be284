"""What each test costs in time of a processor, browsers and servers it starts included; writes which are long.

python scripts/suite_cost.py   runs all tests, prints what they cost, and writes tests/long.txt: `make test` leaves out
what stands there, `make test-long` runs it.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
LONG = ROOT / "tests" / "long.txt"
LONG_S, LONG_IN_BROWSER_S = 0.5, 2.0  # mean of the cases of a test, from which on it is long
_STILL_LONG = 0.7  # share of that down to which one that was long stays so: times differ from run to run
_COSTS = "WELOTROPE_SUITE_COSTS"


def processor_s(root: int) -> float:
    """Return what a process and all it started have used so far, seconds; those that ended count with their parent."""
    times: dict[int, tuple[int, int]] = {}
    for entry in Path("/proc").iterdir():
        if not entry.name.isdigit():
            continue
        try:
            values = (entry / "stat").read_text().rpartition(")")[2].split()
        except OSError:  # it ended just now
            continue
        times[int(entry.name)] = int(values[1]), sum(map(int, values[11:15]))
    used, todo = 0, [root]
    while todo:
        process = todo.pop()
        used += times.get(process, (0, 0))[1]
        todo += [child for child, (parent, _) in times.items() if parent == process]
    return used / os.sysconf("SC_CLK_TCK")


@pytest.hookimpl(wrapper=True)
def pytest_runtest_protocol(item: pytest.Item) -> Iterator[None]:
    """Note what a test cost: the tests load this file as a plugin."""
    before = processor_s(os.getpid())
    result = yield
    with Path(os.environ[_COSTS], f"{os.getpid()}").open("a") as notes:
        notes.write(f"{processor_s(os.getpid()) - before:.2f} {item.nodeid}\n")
    return result


def means_of(folder: Path) -> tuple[dict[str, float], Counter[str]]:
    """Return what a case of each test costs on average, seconds, and how many cases it has."""
    total, count = Counter[str](), Counter[str]()
    for notes in folder.iterdir():
        for line in notes.read_text().splitlines():
            cost, node = line.split(" ", 1)
            name = node.split("[")[0]
            total[name] += max(float(cost), 0)  # a browser that ended meanwhile takes along what it had used
            count[name] += 1
    return {name: total[name] / count[name] for name in total}, count


def main() -> int:
    """Run the tests, print what they cost, write which are long; returns what the tests ended with."""
    with tempfile.TemporaryDirectory() as folder:
        environment = {**os.environ, _COSTS: folder, "PYTHONPATH": str(Path(__file__).parent)}
        command = [sys.executable, "-m", "pytest", "-p", "suite_cost", "-n", str(os.cpu_count() or 2), "-q"]
        ended = subprocess.run([*command, "--dist", "worksteal", *sys.argv[1:]], cwd=ROOT, env=environment).returncode
        means, count = means_of(Path(folder))
    was = set(LONG.read_text().split()) if LONG.exists() else set[str]()
    least = {name: LONG_IN_BROWSER_S if name.startswith("tests/browser/") else LONG_S for name in means}
    long = [name for name, mean in means.items() if mean > least[name] * (_STILL_LONG if name in was else 1)]
    LONG.write_text("".join(f"{name}\n" for name in sorted(long)))
    every = sum(mean * count[name] for name, mean in means.items())
    those = sum(means[name] * count[name] for name in long)
    print(f"{every / 60:.1f} minutes of a processor for {sum(count.values())} cases: {those / 60:.1f} for those of")
    print(f"{len(long)} long tests, {(every - those) / 60:.1f} for the others")
    return ended


if __name__ == "__main__":
    sys.exit(main())
