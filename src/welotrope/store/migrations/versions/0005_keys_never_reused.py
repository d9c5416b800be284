"""Keys never given twice, one list of aids a body, both scales and the planes of a lens, scores of rounds.

Also a unique index that holds, and names of presets that part them.
"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

_TABLES = (
    "mount", "adapter", "body", "lens", "setup", "measurement", "preset", "outing", "frame", "slot", "sheet_line",
    "sheet_tick", "trial", "journal",
)  # fmt: skip
_AID_COLUMNS = (
    "finder_magnification", "screen_stop", "split_deviation_deg", "microprism_deviation_deg", "display_px",
    "magnify_steps", "peaking_levels",
)  # fmt: skip
_AID_TRAITS = (
    "rangefinder_base_mm", "rangefinder_magnification", "rangefinder_reads_mm", "confirmation", "confirmation_stop",
)  # fmt: skip


def upgrade() -> None:
    connection = op.get_bind()
    with op.batch_alter_table("adapter", schema=None) as batch_op:
        batch_op.add_column(sa.Column("factor", sa.Double(), nullable=True))
    with op.batch_alter_table("lens", schema=None) as batch_op:
        batch_op.add_column(sa.Column("planes", sa.JSON(), nullable=False, server_default="{}"))
        batch_op.add_column(sa.Column("engraved_m", sa.JSON(), nullable=False, server_default="[]"))
        batch_op.add_column(sa.Column("engraved_ft", sa.JSON(), nullable=False, server_default="[]"))
    with op.batch_alter_table("trial", schema=None) as batch_op:
        batch_op.add_column(sa.Column("z", sa.Double(), nullable=True))
    with op.batch_alter_table("journal", schema=None) as batch_op:
        batch_op.add_column(sa.Column("retired", sa.Boolean(), nullable=False, server_default=sa.false()))
    with op.batch_alter_table("body", schema=None) as batch_op:
        batch_op.add_column(sa.Column("aids", sa.JSON(), nullable=False, server_default="[]"))
    _gather_aids(connection)
    _part_scales(connection)
    _part_presets(connection)
    _retire(connection)
    _drop_doubles(connection)
    for table in _TABLES:
        with op.batch_alter_table(
            table, schema=None, recreate="always", table_kwargs={"sqlite_autoincrement": True}
        ) as batch_op:
            if table == "body":
                for column in _AID_COLUMNS:
                    batch_op.drop_column(column)
                batch_op.alter_column("aids", server_default=None)
            elif table == "lens":
                batch_op.drop_column("engraved_mm")
                for column in ("planes", "engraved_m", "engraved_ft"):
                    batch_op.alter_column(column, server_default=None)
            elif table == "journal":
                batch_op.alter_column("retired", server_default=None)
            elif table == "measurement":
                batch_op.drop_constraint("uq_measurement_lens_id", type_="unique")
    op.execute("CREATE UNIQUE INDEX uq_measurement_of ON measurement (lens_id, ifnull(setup_id, 0), kind)")
    _raise_keys(connection)


def _gather_aids(connection: sa.Connection) -> None:
    rows = connection.execute(sa.text(f"SELECT id, traits, {', '.join(_AID_COLUMNS)} FROM body")).mappings().all()
    for row in rows:
        traits = json.loads(row["traits"] or "{}")
        aids = _aids(row, traits)
        rest = {key: value for key, value in traits.items() if key not in _AID_TRAITS}
        connection.execute(
            sa.text("UPDATE body SET aids = :aids, traits = :traits WHERE id = :id"),
            {"aids": json.dumps(aids), "traits": json.dumps(rest), "id": row["id"]},
        )


def _aids(row: sa.RowMapping, traits: dict[str, object]) -> list[dict[str, object]]:
    aids: list[dict[str, object]] = []
    finder = row["finder_magnification"]
    for kind, column, field in (
        ("matte", "screen_stop", "screen_stop"),
        ("split_image", "split_deviation_deg", "deviation_deg"),
        ("microprism", "microprism_deviation_deg", "prism_deg"),
    ):
        if finder is not None and row[column] is not None:
            aids.append({"kind": kind, "finder_magnification": finder, field: row[column]})
    if row["display_px"] is not None:
        steps, levels = json.loads(row["magnify_steps"] or "[]"), json.loads(row["peaking_levels"] or "[]")
        if steps:
            aids.append({"kind": "magnified", "display_px": row["display_px"], "steps": steps})
        if levels:
            named = [{"name": str(name), "threshold_per_px": value} for name, value in levels]
            aids.append({"kind": "peaking", "display_px": row["display_px"], "levels": named})
    if traits.get("rangefinder_base_mm") is not None:
        aids.append(
            {
                "kind": "rangefinder", "base_mm": traits["rangefinder_base_mm"],
                "finder_magnification": traits.get("rangefinder_magnification", 0.7),
                "reads_mm": traits.get("rangefinder_reads_mm", 2000.0),
            }
        )  # fmt: skip
    if traits.get("confirmation"):
        aids.append({"kind": "confirmation", "base_stop": traits.get("confirmation_stop", 5.6)})
    return aids


def _retire(connection: sa.Connection) -> None:
    """Entries that hold a body or a lens with its old columns can be applied no more."""
    for id, changes in connection.execute(sa.text("SELECT id, changes FROM journal")).all():
        if any(change.get("table") in ("body", "lens") for change in json.loads(changes or "[]")):
            connection.execute(sa.text("UPDATE journal SET retired = 1 WHERE id = :id"), {"id": id})


def _part_scales(connection: sa.Connection) -> None:
    """Put what was one list in mm on the scale it was read from: feet where feet alone are engraved."""
    for id, units, listed in connection.execute(sa.text("SELECT id, engraved_units, engraved_mm FROM lens")).all():
        feet = json.loads(units or "[]") == ["ft"]
        values = [round(mm / (304.8 if feet else 1000.0), 6) for mm in json.loads(listed or "[]")]
        connection.execute(
            sa.text(f"UPDATE lens SET {'engraved_ft' if feet else 'engraved_m'} = :values WHERE id = :id"),
            {"values": json.dumps(values), "id": id},
        )


def _part_presets(connection: sa.Connection) -> None:
    """Give later presets of one lens and name a number behind it."""
    taken: set[tuple[int, str]] = set()
    for id, lens_id, name in connection.execute(sa.text("SELECT id, lens_id, name FROM preset ORDER BY id")).all():
        fresh, number = name, 2
        while (lens_id, fresh) in taken:
            fresh, number = f"{name[:35]} {number}", number + 1
        taken.add((lens_id, fresh))
        if fresh != name:
            connection.execute(sa.text("UPDATE preset SET name = :name WHERE id = :id"), {"name": fresh, "id": id})


def _drop_doubles(connection: sa.Connection) -> None:
    """Of records of one kind and ring only the newest was ever shown."""
    connection.execute(
        sa.text(
            "DELETE FROM measurement WHERE id NOT IN (SELECT id FROM (SELECT id, row_number() OVER "
            "(PARTITION BY lens_id, ifnull(setup_id, 0), kind ORDER BY taken DESC, id DESC) AS place FROM measurement) "
            "WHERE place = 1)"
        )
    )


def _raise_keys(connection: sa.Connection) -> None:
    """Count on from the highest key there ever was, undone records included."""
    highest: dict[str, int] = {}
    for (changes,) in connection.execute(sa.text("SELECT changes FROM journal")).all():
        for change in json.loads(changes or "[]"):
            for row in (change.get("before"), change.get("after")):
                if row and isinstance(row.get("id"), int):
                    highest[change["table"]] = max(highest.get(change["table"], 0), row["id"])
    for table in _TABLES:
        there = connection.execute(sa.text(f"SELECT max(id) FROM {table}")).scalar() or 0
        top = max(there, highest.get(table, 0))
        connection.execute(sa.text("DELETE FROM sqlite_sequence WHERE name = :name"), {"name": table})
        connection.execute(sa.text("INSERT INTO sqlite_sequence VALUES (:name, :top)"), {"name": table, "top": top})
