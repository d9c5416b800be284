"""Mounts, adapters, body traits, slots and set-up sheets; the published thread standards as mounts."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

STANDARDS = (
    ("M42×1", 45.46, 42.0, "mechanical", "none", "not known", "not known"),
    ("M39×26 tpi", 28.8, 39.0, "none", "none", "not known", "no"),
    ("T2", 55.0, 42.0, "none", "none", "no", "no"),
    ("C", 17.526, 25.4, "none", "none", "not known", "no"),
)


def upgrade() -> None:
    op.create_table(
        "mount",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("register_mm", sa.Double(), nullable=True),
        sa.Column("throat_mm", sa.Double(), nullable=True),
        sa.Column("actuation", sa.String(), nullable=False),
        sa.Column("stop_report", sa.String(), nullable=False),
        sa.Column("protruding", sa.String(), nullable=False),
        sa.Column("pin", sa.String(), nullable=False),
        sa.Column("standard", sa.Boolean(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_mount")),
    )
    op.create_table(
        "adapter",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("lens_mount_id", sa.Integer(), nullable=False),
        sa.Column("body_mount_id", sa.Integer(), nullable=False),
        sa.Column("nominal_mm", sa.Double(), nullable=True),
        sa.Column("measured_mm", sa.Double(), nullable=True),
        sa.Column("optics", sa.Boolean(), nullable=False),
        sa.Column("presses_pin", sa.String(), nullable=False),
        sa.Column("works_aperture", sa.Boolean(), nullable=False),
        sa.Column("foot", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["body_mount_id"], ["mount.id"], name=op.f("fk_adapter_body_mount_id")),
        sa.ForeignKeyConstraint(["lens_mount_id"], ["mount.id"], name=op.f("fk_adapter_lens_mount_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_adapter")),
    )
    with op.batch_alter_table("adapter", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_adapter_body_mount_id"), ["body_mount_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_adapter_lens_mount_id"), ["lens_mount_id"], unique=False)

    op.create_table(
        "sheet_line",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("body_id", sa.Integer(), nullable=False),
        sa.Column("line", sa.String(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.Column("dropped", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["body_id"], ["body.id"], name=op.f("fk_sheet_line_body_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sheet_line")),
    )
    with op.batch_alter_table("sheet_line", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_sheet_line_body_id"), ["body_id"], unique=False)

    op.create_table(
        "slot",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("body_id", sa.Integer(), nullable=False),
        sa.Column("lens_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["body_id"], ["body.id"], name=op.f("fk_slot_body_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["lens_id"], ["lens.id"], name=op.f("fk_slot_lens_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_slot")),
    )
    with op.batch_alter_table("slot", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_slot_body_id"), ["body_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_slot_lens_id"), ["lens_id"], unique=False)

    op.create_table(
        "sheet_tick",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("setup_id", sa.Integer(), nullable=False),
        sa.Column("outing_id", sa.Integer(), nullable=False),
        sa.Column("line", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["setup_id"], ["setup.id"], name=op.f("fk_sheet_tick_setup_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sheet_tick")),
        sa.UniqueConstraint("setup_id", "outing_id", "line", name=op.f("uq_sheet_tick_setup_id")),
    )
    with op.batch_alter_table("sheet_tick", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_sheet_tick_setup_id"), ["setup_id"], unique=False)

    with op.batch_alter_table("body", schema=None) as batch_op:
        batch_op.add_column(sa.Column("mount_id", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("traits", sa.JSON(), nullable=False, server_default="{}"))
        batch_op.create_foreign_key(batch_op.f("fk_body_mount_id"), "mount", ["mount_id"], ["id"])

    with op.batch_alter_table("lens", schema=None) as batch_op:
        batch_op.add_column(sa.Column("mount_id", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("fit", sa.JSON(), nullable=False, server_default="{}"))
        batch_op.create_foreign_key(batch_op.f("fk_lens_mount_id"), "mount", ["mount_id"], ["id"])

    with op.batch_alter_table("setup", schema=None) as batch_op:
        batch_op.add_column(sa.Column("adapter_id", sa.Integer(), nullable=True))
        batch_op.create_foreign_key(batch_op.f("fk_setup_adapter_id"), "adapter", ["adapter_id"], ["id"])

    columns = ("name", "register_mm", "throat_mm", "actuation", "stop_report", "protruding", "pin")
    mount = sa.table("mount", *(sa.column(name) for name in (*columns, "standard")))
    op.bulk_insert(mount, [dict(zip(columns, row, strict=True)) | {"standard": True} for row in STANDARDS])
