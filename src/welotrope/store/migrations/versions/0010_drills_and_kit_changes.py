"""Drills away from the screen, who did a round, changes to the kit whose effect is watched, and frames counted
and indexed by their words.

Counts and index are kept by triggers, so that nothing that writes frames can forget them; a migration that makes the
table of frames anew must make them anew too.
"""

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
    op.create_table(
        "frame_count",
        sa.Column("outing_id", sa.Integer(), nullable=False, autoincrement=False),
        sa.Column("outcome", sa.String(), nullable=False),
        sa.Column("frames", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("outing_id", "outcome", name="pk_frame_count"),
    )
    op.execute("INSERT INTO frame_count SELECT outing_id, coalesce(outcome, ''), count(*) FROM frame GROUP BY 1, 2")
    op.execute(_WORDS)
    op.execute("INSERT INTO frame_words (frame_words) VALUES ('rebuild')")
    for trigger in (*_COUNTING, *_INDEXING):
        op.execute(trigger)
    _bring_along(op.get_bind())


# Words are what stands between spaces, whole or by their beginnings; they are lower case already.
_WORDS = """
    CREATE VIRTUAL TABLE frame_words USING fts5(
        words, content='frame', content_rowid='id', detail=none, columnsize=0,
        tokenize="unicode61 remove_diacritics 0 categories 'L* N* M* P* S* Co'"
    )
"""
_INDEXED = "INSERT INTO frame_words (rowid, words) VALUES (NEW.id, NEW.words);"
_FORGOTTEN = "INSERT INTO frame_words (frame_words, rowid, words) VALUES ('delete', OLD.id, OLD.words);"
_INDEXING = (
    f"CREATE TRIGGER frame_words_came AFTER INSERT ON frame BEGIN {_INDEXED} END",
    f"CREATE TRIGGER frame_words_went AFTER DELETE ON frame BEGIN {_FORGOTTEN} END",
    f"""CREATE TRIGGER frame_words_changed AFTER UPDATE OF words ON frame
    WHEN OLD.words IS NOT NEW.words BEGIN {_FORGOTTEN} {_INDEXED} END""",
)
_ONE_MORE = """
    INSERT INTO frame_count VALUES (NEW.outing_id, coalesce(NEW.outcome, ''), 1)
    ON CONFLICT (outing_id, outcome) DO UPDATE SET frames = frames + 1;
"""
_ONE_LESS = """
    UPDATE frame_count SET frames = frames - 1
    WHERE outing_id = OLD.outing_id AND outcome = coalesce(OLD.outcome, '');
"""
_COUNTING = (
    f"CREATE TRIGGER frame_came AFTER INSERT ON frame BEGIN {_ONE_MORE} END",
    f"CREATE TRIGGER frame_went AFTER DELETE ON frame BEGIN {_ONE_LESS} END",
    f"""CREATE TRIGGER frame_marked AFTER UPDATE OF outing_id, outcome ON frame
    WHEN OLD.outing_id IS NOT NEW.outing_id OR OLD.outcome IS NOT NEW.outcome BEGIN {_ONE_LESS} {_ONE_MORE} END""",
)


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
    for happened in ("came", "went", "marked", "words_came", "words_went", "words_changed"):
        op.execute(f"DROP TRIGGER frame_{happened}")
    op.drop_table("frame_words")
    op.drop_table("frame_count")
    op.drop_table("kit_change")
    op.drop_table("drill")
    op.drop_column("trial", "person")
