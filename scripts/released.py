"""Keep a filled and used database of the revision the code is at: before the next migration changes the tables."""

import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.store.released_databases import RELEASED, write_released

from welotrope.store.session import HEAD_REVISION

if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as scratch:
        write_released(HEAD_REVISION, RELEASED, Path(scratch))
    print(f"{HEAD_REVISION}: commit it with the migration that follows")
