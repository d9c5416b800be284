"""A converter beside the adapter of a set-up, and whether its lens was made for the camera."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # Not by a copy of the table, whose end would take the records of its set-ups along.
    op.execute(
        "ALTER TABLE setup ADD COLUMN converter_id INTEGER"
        " CONSTRAINT fk_setup_converter_id_adapter REFERENCES adapter (id)"
    )
    op.add_column("setup", sa.Column("made_for_body", sa.Boolean(), nullable=False, server_default=sa.false()))


def downgrade() -> None:
    op.drop_column("setup", "made_for_body")
    op.execute("UPDATE setup SET converter_id = NULL")
