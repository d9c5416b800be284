"""One regime for bodies and lenses, ring records with their history, files by hash, jobs.

Undo entries are brought along: rows of bodies, lenses and records in them take the new shape.
"""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

_LENS = (
    "focal_mm", "stops", "closest_mm", "throw_deg", "infinity_side", "ring_diameter_mm", "engraved_units", "engraved_m",
    "engraved_ft",
)  # fmt: skip
_OLD_LENS = (*_LENS, "reading_deg", "reading_mm", "fit", "planes")
_REBUILT: dict[str, Any] = {"recreate": "always", "table_kwargs": {"sqlite_autoincrement": True}}
_OLD_BODY = ("width_mm", "height_mm", "width_px", "aids", "traits")


def upgrade() -> None:
    connection = op.get_bind()
    counted = connection.execute(sa.text("SELECT name, seq FROM sqlite_sequence")).all()
    for table, old, document in (("body", _OLD_BODY, _body), ("lens", _OLD_LENS, _lens)):
        with op.batch_alter_table(table) as batch_op:
            batch_op.add_column(sa.Column("data", sa.JSON(), nullable=False, server_default="{}"))
        rows = connection.execute(sa.text(f"SELECT id, {', '.join(old)} FROM {table}")).mappings().all()
        for row in rows:
            values = {name: _loaded(value) for name, value in row.items()}
            connection.execute(
                sa.text(f"UPDATE {table} SET data = :data WHERE id = :id"),
                {"data": json.dumps(document(values)), "id": row["id"]},
            )
        with op.batch_alter_table(table, **_REBUILT) as batch_op:
            for column in old:
                batch_op.drop_column(column)
            batch_op.alter_column("data", server_default=None)
    op.execute("DROP INDEX uq_measurement_of")
    with op.batch_alter_table("measurement") as batch_op:
        batch_op.add_column(sa.Column("withdrawn", sa.Boolean(), nullable=False, server_default=sa.false()))
        batch_op.create_index("ix_measurement_of", ["lens_id", "setup_id", "kind"])
    with op.batch_alter_table("measurement", **_REBUILT) as batch_op:
        batch_op.alter_column("withdrawn", server_default=None)
    op.create_table(
        "file",
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("path", sa.String(), nullable=False),
        sa.Column("media_type", sa.String(), nullable=False),
        sa.Column("bytes", sa.Integer(), nullable=False),
        sa.Column("added", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("sha256", name="pk_file"),
    )
    op.create_table(
        "job",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("total", sa.Integer(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("leads_to", sa.String(), nullable=False),
        sa.Column("began", sa.DateTime(), nullable=False),
        sa.Column("ended", sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_job"),
        sqlite_autoincrement=True,
    )
    _carry_journal(connection)
    # A rebuilt table counts from the highest key it holds; it must go on from the highest there ever was.
    for name, seq in counted:
        connection.execute(sa.text("DELETE FROM sqlite_sequence WHERE name = :name"), {"name": name})
        connection.execute(sa.text("INSERT INTO sqlite_sequence VALUES (:name, :seq)"), {"name": name, "seq": seq})


def _loaded(value: object) -> object:
    """Return what a JSON column holds; other values as they are."""
    return json.loads(value) if isinstance(value, str) and value[:1] in "[{" else value


def _bare(value: Any) -> object:
    """Leave out the version of a part: the whole has one."""
    return {key: held for key, held in (value or {}).items() if key != "v"}


def _body(row: dict[str, Any]) -> dict[str, Any]:
    image = {name: row[name] for name in ("width_mm", "height_mm", "width_px")}
    return {"v": 1, "image": image, "aids": [_bare(aid) for aid in row["aids"]], "traits": _bare(row["traits"])}


def _lens(row: dict[str, Any]) -> dict[str, object]:
    angle, distance = row["reading_deg"], row["reading_mm"]
    reading = None if angle is None or distance is None else {"angle_deg": angle, "distance_mm": distance}
    planes = row["planes"] or {}
    return {
        "v": 1, **{name: row[name] for name in _LENS}, "reading": reading,
        **{name: planes[name] for name in ("h_mm", "shortens", "closest_magnification", "beyond") if name in planes},
        "fit": _bare(row["fit"]),
    }  # fmt: skip


def _carry_journal(connection: sa.Connection) -> None:
    """Give the rows that entries hold their new shape; those of older updates are retired already."""
    for id, changes in connection.execute(sa.text("SELECT id, changes FROM journal WHERE retired = 0")).all():
        carried = [
            {"table": c["table"], **{side: _carried(c["table"], c[side]) for side in ("before", "after")}}
            for c in json.loads(changes or "[]")
        ]
        connection.execute(
            sa.text("UPDATE journal SET changes = :changes WHERE id = :id"), {"changes": json.dumps(carried), "id": id}
        )


def _carried(table: str, row: dict[str, object] | None) -> dict[str, object] | None:
    if row is None:
        return None
    if table in ("body", "lens"):
        document = _body(row) if table == "body" else _lens(row)
        return {"id": row["id"], "name": row["name"], "mount_id": row["mount_id"], "data": document}
    return row | {"withdrawn": False} if table == "measurement" else row
