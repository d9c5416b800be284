"""Kit, presets, log, settings and journal."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "body",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("width_mm", sa.Double(), nullable=False),
        sa.Column("height_mm", sa.Double(), nullable=False),
        sa.Column("width_px", sa.Integer(), nullable=True),
        sa.Column("finder_magnification", sa.Double(), nullable=True),
        sa.Column("screen_stop", sa.Double(), nullable=True),
        sa.Column("split_deviation_deg", sa.Double(), nullable=True),
        sa.Column("display_px", sa.Integer(), nullable=True),
        sa.Column("magnify_steps", sa.JSON(), nullable=False),
        sa.Column("peaking_levels", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_body")),
    )
    op.create_table(
        "journal",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("changes", sa.JSON(), nullable=False),
        sa.Column("undone", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_journal")),
    )
    op.create_table(
        "lens",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("focal_mm", sa.Double(), nullable=False),
        sa.Column("stops", sa.JSON(), nullable=False),
        sa.Column("closest_mm", sa.Double(), nullable=False),
        sa.Column("throw_deg", sa.Double(), nullable=True),
        sa.Column("reading_deg", sa.Double(), nullable=True),
        sa.Column("reading_mm", sa.Double(), nullable=True),
        sa.Column("infinity_side", sa.String(), nullable=False),
        sa.Column("ring_diameter_mm", sa.Double(), nullable=True),
        sa.Column("engraved_units", sa.JSON(), nullable=False),
        sa.Column("engraved_mm", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_lens")),
    )
    op.create_table(
        "outing",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_outing")),
    )
    op.create_table(
        "setting",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("value", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_setting")),
    )
    op.create_table(
        "frame",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("outing_id", sa.Integer(), nullable=False),
        sa.Column("setup_id", sa.Integer(), nullable=True),
        sa.Column("body_name", sa.String(), nullable=False),
        sa.Column("lens_name", sa.String(), nullable=False),
        sa.Column("focal_mm", sa.Double(), nullable=False),
        sa.Column("blur_mm", sa.Double(), nullable=False),
        sa.Column("stop", sa.Double(), nullable=False),
        sa.Column("distance_mm", sa.Double(), nullable=False),
        sa.Column("angle_deg", sa.Double(), nullable=False),
        sa.Column("near_mm", sa.Double(), nullable=False),
        sa.Column("far_mm", sa.Double(), nullable=False),
        sa.Column("preset_name", sa.String(), nullable=False),
        sa.Column("taken_at", sa.DateTime(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("shutter_s", sa.Double(), nullable=True),
        sa.Column("iso", sa.Integer(), nullable=True),
        sa.Column("film_frame", sa.String(), nullable=False),
        sa.Column("outcome", sa.String(), nullable=True),
        sa.ForeignKeyConstraint(["outing_id"], ["outing.id"], name=op.f("fk_frame_outing_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_frame")),
    )
    with op.batch_alter_table("frame", schema=None) as batch_op:
        batch_op.create_index("ix_frame_outing_taken", ["outing_id", "taken_at"], unique=False)

    op.create_table(
        "preset",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("lens_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("distance_mm", sa.Float(), nullable=False),
        sa.Column("stop", sa.Double(), nullable=False),
        sa.Column("subjects", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["lens_id"], ["lens.id"], name=op.f("fk_preset_lens_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_preset")),
    )
    with op.batch_alter_table("preset", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_preset_lens_id"), ["lens_id"], unique=False)

    op.create_table(
        "setup",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("body_id", sa.Integer(), nullable=False),
        sa.Column("lens_id", sa.Integer(), nullable=False),
        sa.Column("standard", sa.String(), nullable=False),
        sa.Column("standard_values", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["body_id"], ["body.id"], name=op.f("fk_setup_body_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["lens_id"], ["lens.id"], name=op.f("fk_setup_lens_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_setup")),
    )
    with op.batch_alter_table("setup", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_setup_body_id"), ["body_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_setup_lens_id"), ["lens_id"], unique=False)
