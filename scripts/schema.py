"""Write the schema of a new database, as the migrations make it: after one was added."""

import tempfile
from pathlib import Path

from welotrope.store.new_database import SCHEMA_FILE, schema_of
from welotrope.store.session import upgrade

if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "new.sqlite3"
        upgrade(path)
        SCHEMA_FILE.write_text(schema_of(path), encoding="utf-8")
