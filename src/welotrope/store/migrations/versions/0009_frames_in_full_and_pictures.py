"""Frames in full, rolls, pictures, what was measured in them, and the sidecars that were written.

Undo entries are brought along: frames in them take the new shape.
"""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

_REBUILT: dict[str, Any] = {"recreate": "always", "table_kwargs": {"sqlite_autoincrement": True}}
_SETTING = ("focal_mm", "blur_mm", "stop", "distance_mm", "angle_deg", "near_mm", "far_mm")
_SEARCHED = ("taken_at", "id", "outing_id", "outcome", "lens_name", "stop", "distance_mm", "words")
_TEXTS = ("subject", "aid", "technique", "support", "light", "instead", "words")
_NEW: dict[str, object] = {
    "undated": False, "roll_id": None, "spot": None, "believed_mm": None, "miss_mm": None, "tags": [],
    **dict.fromkeys(_TEXTS, ""),
}  # fmt: skip
_WORDS = """
    UPDATE frame SET words = ' ' || lower(trim(replace(
        lens_name || ' ' || body_name || ' ' || preset_name || ' ' || note || ' ' || coalesce(outcome, '')
        || ' f/' || printf('%g', stop) || coalesce(' iso' || iso, '')
        || CASE film_frame WHEN '' THEN '' ELSE ' frame ' || film_frame END || ' ' || printf('%g', focal_mm) || 'mm',
        char(10), ' '))) || ' '
"""


def upgrade() -> None:
    connection = op.get_bind()
    counted = connection.execute(sa.text("SELECT name, seq FROM sqlite_sequence")).all()
    _new_tables()
    with op.batch_alter_table("frame", **_REBUILT) as batch_op:
        for name in _SETTING:
            batch_op.alter_column(name, existing_type=sa.Double(), nullable=True)
        batch_op.add_column(sa.Column("undated", sa.Boolean(), nullable=False, server_default=sa.false()))
        batch_op.add_column(sa.Column("roll_id", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("spot", sa.JSON(), nullable=True))
        batch_op.add_column(sa.Column("believed_mm", sa.Double(), nullable=True))
        batch_op.add_column(sa.Column("miss_mm", sa.Double(), nullable=True))
        batch_op.add_column(sa.Column("tags", sa.JSON(), nullable=False, server_default="[]"))
        for name in _TEXTS:
            batch_op.add_column(sa.Column(name, sa.String(), nullable=False, server_default=""))
        batch_op.create_foreign_key("fk_frame_roll_id", "roll", ["roll_id"], ["id"], ondelete="SET NULL")
    with op.batch_alter_table("frame", **_REBUILT) as batch_op:
        for name in ("undated", "tags", *_TEXTS):
            batch_op.alter_column(name, server_default=None)
    op.create_index("ix_frame_tally", "frame", ["outing_id", "outcome"])
    op.create_index("ix_frame_search", "frame", list(_SEARCHED))
    op.create_index("ix_frame_lens_name", "frame", ["lens_name"])
    op.create_index("ix_frame_roll_id", "frame", ["roll_id"])
    op.execute(_WORDS)
    _pictures()
    for name, seq in counted:  # a key is never given twice, whatever was rebuilt
        connection.execute(sa.text("DELETE FROM sqlite_sequence WHERE name = :name"), {"name": name})
        connection.execute(sa.text("INSERT INTO sqlite_sequence VALUES (:name, :seq)"), {"name": name, "seq": seq})
    _bring_along(connection)


def _new_tables() -> None:
    op.create_table(
        "roll",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_roll"),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "picture_map",
        sa.Column("picture_id", sa.Integer(), nullable=False, autoincrement=False),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("picture_id", name="pk_picture_map"),
    )
    op.create_table(
        "picture_import",
        sa.Column("batch", sa.String(), nullable=False),
        sa.Column("source", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("added", sa.Integer(), nullable=False),
        sa.Column("known", sa.Integer(), nullable=False),
        sa.Column("refused", sa.JSON(), nullable=False),
        sa.Column("ended", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("batch", name="pk_picture_import"),
    )
    op.create_table(
        "sidecar",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("batch", sa.String(), nullable=False),
        sa.Column("picture_id", sa.Integer(), nullable=False),
        sa.Column("path", sa.String(), nullable=False),
        sa.Column("before_sha", sa.String(), nullable=True),
        sa.Column("after_sha", sa.String(), nullable=False),
        sa.Column("written", sa.DateTime(), nullable=False),
        sa.Column("undone", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["before_sha"], ["file.sha256"], name="fk_sidecar_before_sha"),
        sa.PrimaryKeyConstraint("id", name="pk_sidecar"),
        sqlite_autoincrement=True,
    )
    op.create_index("ix_sidecar_batch", "sidecar", ["batch"])


def _pictures() -> None:
    op.create_table(
        "picture",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("folder", sa.String(), nullable=False),
        sa.Column("media_type", sa.String(), nullable=False),
        sa.Column("bytes", sa.Integer(), nullable=False),
        sa.Column("width_px", sa.Integer(), nullable=False),
        sa.Column("height_px", sa.Integer(), nullable=False),
        sa.Column("taken_at", sa.DateTime(), nullable=True),
        sa.Column("clock_s", sa.Double(), nullable=False),
        sa.Column("exif", sa.JSON(), nullable=False),
        sa.Column("batch", sa.String(), nullable=False),
        sa.Column("outing_id", sa.Integer(), nullable=True),
        sa.Column("frame_id", sa.Integer(), nullable=True),
        sa.Column("thumb_sha", sa.String(), nullable=True),
        sa.Column("preview_sha", sa.String(), nullable=True),
        sa.Column("original_sha", sa.String(), nullable=True),
        sa.ForeignKeyConstraint(["outing_id"], ["outing.id"], name="fk_picture_outing_id", ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["frame_id"], ["frame.id"], name="fk_picture_frame_id", ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["thumb_sha"], ["file.sha256"], name="fk_picture_thumb_sha"),
        sa.ForeignKeyConstraint(["preview_sha"], ["file.sha256"], name="fk_picture_preview_sha"),
        sa.ForeignKeyConstraint(["original_sha"], ["file.sha256"], name="fk_picture_original_sha"),
        sa.PrimaryKeyConstraint("id", name="pk_picture"),
        sa.UniqueConstraint("sha256", name="uq_picture_sha256"),
        sqlite_autoincrement=True,
    )
    for column in ("batch", "outing_id", "frame_id"):
        op.create_index(f"ix_picture_{column}", "picture", [column])


def _bring_along(connection: sa.Connection) -> None:
    """Give frames in undo entries the new columns, as the table has them now where they stand as they were."""
    for id, text in connection.execute(sa.text("SELECT id, changes FROM journal")).all():
        changes = json.loads(text)
        if not any(change["table"] == "frame" for change in changes):
            continue
        for change in changes:
            for side in ("before", "after"):
                if change["table"] == "frame" and change[side] is not None:
                    words = connection.execute(
                        sa.text("SELECT words FROM frame WHERE id = :id"), {"id": change[side]["id"]}
                    ).scalar()
                    change[side] = {**_NEW, **change[side], "words": words or ""}
        connection.execute(
            sa.text("UPDATE journal SET changes = :changes WHERE id = :id"), {"changes": json.dumps(changes), "id": id}
        )


def downgrade() -> None:
    for table in ("picture", "sidecar", "picture_import", "picture_map"):
        op.drop_table(table)
    for index in ("ix_frame_tally", "ix_frame_search", "ix_frame_lens_name", "ix_frame_roll_id"):
        op.drop_index(index, "frame")
    with op.batch_alter_table("frame", **_REBUILT) as batch_op:
        batch_op.drop_constraint("fk_frame_roll_id", type_="foreignkey")
        for name in _NEW:
            batch_op.drop_column(name)
    op.drop_table("roll")
