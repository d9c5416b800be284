"""Drills away from the screen, who did a round, and changes to the kit whose effect is watched."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("trial", sa.Column("person", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "drill",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("person", sa.String(), nullable=False),
        sa.Column("session", sa.String(), nullable=False),
        sa.Column("setup_id", sa.Integer(), nullable=True),
        sa.Column("body_name", sa.String(), nullable=False),
        sa.Column("lens_name", sa.String(), nullable=False),
        sa.Column("taken_at", sa.DateTime(), nullable=False),
        sa.Column("data", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_drill"),
        sqlite_autoincrement=True,
    )
    op.create_index("ix_drill_session", "drill", ["session"])
    op.create_table(
        "kit_change",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("setup_id", sa.Integer(), nullable=True),
        sa.Column("what", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_kit_change"),
        sqlite_autoincrement=True,
    )
    op.create_index("ix_kit_change_setup_id", "kit_change", ["setup_id"])
    _bring_along(op.get_bind())


def _bring_along(connection: sa.Connection) -> None:
    """Rounds in undo entries take the new column."""
    for id, text in connection.execute(sa.text("SELECT id, changes FROM journal")).all():
        changes = json.loads(text)
        rounds = [
            change[side]
            for change in changes
            for side in ("before", "after")
            if change["table"] == "trial" and change[side] is not None
        ]
        for row in rounds:
            row["person"] = ""
        if rounds:
            connection.execute(
                sa.text("UPDATE journal SET changes = :changes WHERE id = :id"),
                {"changes": json.dumps(changes), "id": id},
            )


def downgrade() -> None:
    op.drop_table("kit_change")
    op.drop_table("drill")
    op.drop_column("trial", "person")
