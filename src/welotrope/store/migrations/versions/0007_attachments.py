"""Attachments for coming closer: close-up lenses, tubes, bellows."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "attachment",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_attachment"),
        sqlite_autoincrement=True,
    )


def downgrade() -> None:
    op.drop_table("attachment")
