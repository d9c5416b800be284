"""The focal length a set-up stands at; devices that may come over the local network; what a queue brought already."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("setup", sa.Column("zoom_mm", sa.Double(), nullable=True))
    op.create_table(
        "device",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("secret_hash", sa.String(), nullable=False),
        sa.Column("paired", sa.DateTime(), nullable=False),
        sa.Column("seen", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_device"),
        sa.UniqueConstraint("secret_hash", name="uq_device_secret_hash"),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "received",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("became", sa.String(), nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_received"),
    )


def downgrade() -> None:
    op.drop_table("received")
    op.drop_table("device")
    op.drop_column("setup", "zoom_mm")
