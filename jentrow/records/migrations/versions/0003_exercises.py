"""Exercises with drafts, versions, construct and layout rules and mark schemes; sheets."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0003"
down_revision: str | None = "0002"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None


def upgrade() -> None:
    op.create_table(
        "sheets",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("course_id", sa.Integer(), nullable=False),
        sa.Column("slug", sa.Text(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("title", sa.Text(), nullable=False),
        sa.Column("opens", sa.DateTime(), nullable=True),
        sa.Column("closes", sa.DateTime(), nullable=True),
        sa.Column("attempts", sa.Integer(), nullable=True),
        sa.Column("late", sa.JSON(), nullable=False),
        sa.Column("origin", sa.Text(), server_default="", nullable=False),
        sa.ForeignKeyConstraint(
            ["course_id"],
            ["courses.id"],
            name=op.f("fk_sheets_course_id_courses"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sheets")),
        sa.UniqueConstraint("course_id", "slug", name=op.f("uq_sheets_course_id")),
    )
    op.create_table(
        "exercise_versions",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("exercise_id", sa.Integer(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("content", sa.JSON(), nullable=False),
        sa.Column("summary", sa.Text(), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["exercise_id"],
            ["exercises.id"],
            name=op.f("fk_exercise_versions_exercise_id_exercises"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_exercise_versions")),
        sa.UniqueConstraint("exercise_id", "number", name=op.f("uq_exercise_versions_exercise_id")),
    )
    op.create_table(
        "sheet_entries",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sheet_id", sa.Integer(), nullable=False),
        sa.Column("exercise_id", sa.Integer(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("points", sa.Double(), nullable=True),
        sa.ForeignKeyConstraint(
            ["exercise_id"],
            ["exercises.id"],
            name=op.f("fk_sheet_entries_exercise_id_exercises"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["sheet_id"],
            ["sheets.id"],
            name=op.f("fk_sheet_entries_sheet_id_sheets"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sheet_entries")),
        sa.UniqueConstraint("sheet_id", "exercise_id", name=op.f("uq_sheet_entries_sheet_id")),
    )
    with op.batch_alter_table("exercises", schema=None) as batch_op:
        batch_op.add_column(sa.Column("tags", sa.JSON(), server_default="[]", nullable=False))
        batch_op.add_column(sa.Column("constructs", sa.JSON(), server_default="[]", nullable=False))
        batch_op.add_column(sa.Column("layout", sa.JSON(), server_default="{}", nullable=False))
        batch_op.add_column(sa.Column("marks", sa.JSON(), server_default="{}", nullable=False))
        batch_op.add_column(sa.Column("feedback", sa.JSON(), server_default="{}", nullable=False))
        batch_op.add_column(sa.Column("origin", sa.Text(), server_default="", nullable=False))
        batch_op.add_column(sa.Column("draft", sa.JSON(), nullable=True))
        batch_op.add_column(sa.Column("drafted_at", sa.DateTime(), nullable=True))

    with op.batch_alter_table("gradings", schema=None) as batch_op:
        batch_op.add_column(sa.Column("ledger", sa.JSON(), server_default="[]", nullable=False))

    with op.batch_alter_table("trials", schema=None) as batch_op:
        batch_op.add_column(sa.Column("mark", sa.Double(), nullable=True))


def downgrade() -> None:
    with op.batch_alter_table("trials", schema=None) as batch_op:
        batch_op.drop_column("mark")

    with op.batch_alter_table("gradings", schema=None) as batch_op:
        batch_op.drop_column("ledger")

    with op.batch_alter_table("exercises", schema=None) as batch_op:
        batch_op.drop_column("drafted_at")
        batch_op.drop_column("draft")
        batch_op.drop_column("origin")
        batch_op.drop_column("feedback")
        batch_op.drop_column("marks")
        batch_op.drop_column("layout")
        batch_op.drop_column("constructs")
        batch_op.drop_column("tags")

    op.drop_table("sheet_entries")
    op.drop_table("exercise_versions")
    op.drop_table("sheets")
