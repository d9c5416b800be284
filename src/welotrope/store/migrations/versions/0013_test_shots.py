"""Measured pictures of printed sheets, one row each."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "test_shot",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("series", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("person", sa.String(), nullable=False, server_default=""),
        sa.Column("setup_id", sa.Integer(), nullable=True),
        sa.Column("body_name", sa.String(), nullable=False),
        sa.Column("lens_name", sa.String(), nullable=False),
        sa.Column("aid", sa.String(), nullable=False, server_default=""),
        sa.Column("taken_at", sa.DateTime(), nullable=False),
        sa.Column("made_up", sa.Boolean(), nullable=False, server_default=sa.false()),
        sa.Column("preview_sha", sa.String(), nullable=True),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_test_shot"),
        sa.ForeignKeyConstraint(["preview_sha"], ["file.sha256"], name="fk_test_shot_preview_sha"),
        sqlite_autoincrement=True,
    )
    op.create_index("ix_test_shot_series", "test_shot", ["series"])
    op.create_index("ix_test_shot_setup_id", "test_shot", ["setup_id"])


def downgrade() -> None:
    op.drop_table("test_shot")
