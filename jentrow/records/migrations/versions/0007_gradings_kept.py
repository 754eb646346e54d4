"""Gradings are a history that says what each was made with; tasks are claimed; grading is paused."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0007"
down_revision: str | None = "0006"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None

CARRIED = "verdict, mark, answer, findings, ledger, engine, graded_at, undecided"


def upgrade() -> None:
    op.rename_table("gradings", "gradings_before")
    op.create_table(
        "gradings",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("submission_id", sa.Integer(), nullable=False),
        sa.Column("verdict", sa.Text(), nullable=False),
        sa.Column("mark", sa.Double(), nullable=False),
        sa.Column("answer", sa.Text(), nullable=False),
        sa.Column("findings", sa.JSON(), nullable=False),
        sa.Column("ledger", sa.JSON(), server_default="[]", nullable=False),
        sa.Column("engine", sa.Text(), nullable=False),
        sa.Column("graded_at", sa.DateTime(), nullable=False),
        sa.Column("undecided", sa.Text(), server_default="", nullable=False),
        sa.Column("exercise_version", sa.Integer(), server_default="0", nullable=False),
        sa.Column("dataset_versions", sa.JSON(), server_default="{}", nullable=False),
        sa.Column("measure", sa.Text(), server_default="", nullable=False),
        sa.Column("datasets", sa.JSON(), server_default="[]", nullable=False),
        sa.ForeignKeyConstraint(
            ["submission_id"],
            ["submissions.id"],
            name=op.f("fk_gradings_submission_id_submissions"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_gradings")),
    )
    op.create_index(op.f("ix_gradings_submission_id"), "gradings", ["submission_id"])
    op.execute(
        f"INSERT INTO gradings (submission_id, {CARRIED}) "
        f"SELECT submission_id, {CARRIED} FROM gradings_before ORDER BY submission_id"
    )
    op.drop_table("gradings_before")
    with op.batch_alter_table("submissions") as batch_op:
        batch_op.add_column(sa.Column("grading_id", sa.Integer(), nullable=True))
        batch_op.create_foreign_key(
            op.f("fk_submissions_grading_id_gradings"),
            "gradings",
            ["grading_id"],
            ["id"],
            ondelete="SET NULL",
        )
        batch_op.create_index(op.f("ix_submissions_grading_id"), ["grading_id"])
    op.execute(
        "UPDATE submissions SET grading_id = "
        "(SELECT id FROM gradings WHERE gradings.submission_id = submissions.id)"
    )
    with op.batch_alter_table("grading_tasks") as batch_op:
        batch_op.add_column(
            sa.Column("generation", sa.Integer(), server_default="1", nullable=False)
        )
        batch_op.add_column(sa.Column("claimed_by", sa.Text(), nullable=True))
        batch_op.add_column(sa.Column("claimed_at", sa.DateTime(), nullable=True))
        batch_op.add_column(sa.Column("tries", sa.Integer(), server_default="0", nullable=False))
    with op.batch_alter_table("courses") as batch_op:
        batch_op.add_column(
            sa.Column("grading_paused", sa.Boolean(), server_default="0", nullable=False)
        )
    op.create_table(
        "settings",
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("value", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("name", name=op.f("pk_settings")),
    )


def downgrade() -> None:
    op.drop_table("settings")
    with op.batch_alter_table("courses") as batch_op:
        batch_op.drop_column("grading_paused")
    with op.batch_alter_table("grading_tasks") as batch_op:
        for name in ("tries", "claimed_at", "claimed_by", "generation"):
            batch_op.drop_column(name)
    op.create_table(
        "gradings_before",
        sa.Column("submission_id", sa.Integer(), nullable=False),
        sa.Column("verdict", sa.Text(), nullable=False),
        sa.Column("mark", sa.Double(), nullable=False),
        sa.Column("answer", sa.Text(), nullable=False),
        sa.Column("findings", sa.JSON(), nullable=False),
        sa.Column("ledger", sa.JSON(), server_default="[]", nullable=False),
        sa.Column("engine", sa.Text(), nullable=False),
        sa.Column("graded_at", sa.DateTime(), nullable=False),
        sa.Column("undecided", sa.Text(), server_default="", nullable=False),
        sa.ForeignKeyConstraint(
            ["submission_id"],
            ["submissions.id"],
            name=op.f("fk_gradings_submission_id_submissions"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("submission_id", name=op.f("pk_gradings")),
    )
    op.execute(
        f"INSERT INTO gradings_before (submission_id, {CARRIED}) "
        f"SELECT submission_id, {CARRIED} FROM gradings "
        "WHERE id IN (SELECT grading_id FROM submissions)"
    )
    with op.batch_alter_table("submissions") as batch_op:
        batch_op.drop_index(op.f("ix_submissions_grading_id"))
        batch_op.drop_constraint(op.f("fk_submissions_grading_id_gradings"), type_="foreignkey")
        batch_op.drop_column("grading_id")
    op.drop_table("gradings")
    op.rename_table("gradings_before", "gradings")
