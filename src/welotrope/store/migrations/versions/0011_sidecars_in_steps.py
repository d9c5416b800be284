"""What is being done to a sidecar is noted before it is done: begun, written, being put back, put back."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sidecar", sa.Column("state", sa.String(), nullable=False, server_default="written"))
    op.execute("UPDATE sidecar SET state = 'undone' WHERE undone")
    op.drop_column("sidecar", "undone")


def downgrade() -> None:
    op.add_column("sidecar", sa.Column("undone", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.execute("UPDATE sidecar SET undone = 1 WHERE state = 'undone'")
    op.execute("DELETE FROM sidecar WHERE state = 'begun'")
    op.drop_column("sidecar", "state")
