"""Rounds in the simulated finder, the photographer's own constants, and microprisms."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "trial",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("round_key", sa.String(), nullable=False),
        sa.Column("setup_id", sa.Integer(), nullable=True),
        sa.Column("body_name", sa.String(), nullable=False),
        sa.Column("lens_name", sa.String(), nullable=False),
        sa.Column("taken_at", sa.DateTime(), nullable=False),
        sa.Column("exercise", sa.String(), nullable=False),
        sa.Column("aid", sa.String(), nullable=False),
        sa.Column("scene", sa.String(), nullable=False),
        sa.Column("seed", sa.Integer(), nullable=False),
        sa.Column("stop", sa.Double(), nullable=False),
        sa.Column("error_deg", sa.Double(), nullable=False),
        sa.Column("outcome", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_trial")),
        sa.UniqueConstraint("round_key", name=op.f("uq_trial_round_key")),
    )
    with op.batch_alter_table("trial", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_trial_setup_id"), ["setup_id"], unique=False)
    op.create_table(
        "eye_constant",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("value", sa.Double(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_eye_constant")),
    )
    with op.batch_alter_table("body", schema=None) as batch_op:
        batch_op.add_column(sa.Column("microprism_deviation_deg", sa.Double(), nullable=True))
