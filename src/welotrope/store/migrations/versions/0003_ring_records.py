"""Records of a lens's ring: surveys, sightings of infinity, focus-shift trials and depth marks."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "measurement",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("lens_id", sa.Integer(), nullable=False),
        sa.Column("setup_id", sa.Integer(), nullable=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.Column("taken", sa.Date(), nullable=False),
        sa.ForeignKeyConstraint(["lens_id"], ["lens.id"], name=op.f("fk_measurement_lens_id"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["setup_id"], ["setup.id"], name=op.f("fk_measurement_setup_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_measurement")),
        sa.UniqueConstraint("lens_id", "setup_id", "kind", name=op.f("uq_measurement_lens_id")),
    )
    with op.batch_alter_table("measurement", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_measurement_lens_id"), ["lens_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_measurement_setup_id"), ["setup_id"], unique=False)
