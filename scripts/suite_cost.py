"""What the tests cost: time of a processor, as it is and as on a core that nobody else uses.

A shared machine may give a fifth of a core and count it as a whole one. So a loop of additions runs beside the tests
every few seconds, and what they cost meanwhile is divided by how much longer it takes than on a core of its own.
"""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time
from pathlib import Path

ADDITIONS = 2_000_000
ALONE_S = 0.12  # that they take on a core of its own
EVERY_S = 8.0


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


def slowness() -> float:
    """Return how many times longer additions take than on a core of its own, in time of a processor."""
    start, total = time.process_time(), 0
    for number in range(ADDITIONS):
        total += number
    return (time.process_time() - start) / ALONE_S


class Meter(threading.Thread):
    """Adds up what a process costs while it runs."""

    def __init__(self, process: subprocess.Popen[bytes]) -> None:
        super().__init__(daemon=True)
        self.process, self.as_it_is, self.alone = process, 0.0, 0.0

    def run(self) -> None:
        """Measure until the process ends."""
        while self.process.poll() is None:
            self.count(EVERY_S)

    def count(self, seconds: float) -> None:
        """Wait so long, and count what was used meanwhile."""
        slow = slowness()
        time.sleep(seconds)
        used = processor_s(self.process.pid)
        if used > self.as_it_is:
            self.alone += (used - self.as_it_is) / slow
            self.as_it_is = used


def main() -> int:
    """Run the tests and print what they cost; returns what they ended with."""
    workers = (os.cpu_count() or 2) * 3 // 2
    command = [sys.executable, "-m", "pytest", "-n", str(workers), "--dist", "worksteal", "-q", *sys.argv[1:]]
    process = subprocess.Popen(command)
    meter = Meter(process)
    meter.start()
    process.wait()
    print(f"{meter.as_it_is / 60:.1f} minutes of a processor; {meter.alone / 60:.1f} on a core of its own")
    return process.returncode


if __name__ == "__main__":
    sys.exit(main())
