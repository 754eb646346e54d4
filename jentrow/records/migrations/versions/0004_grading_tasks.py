"""Submissions that wait to be graded."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0004"
down_revision: str | None = "0003"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None


def upgrade() -> None:
    op.create_table(
        "grading_tasks",
        sa.Column("submission_id", sa.Integer(), nullable=False),
        sa.Column("exercise_id", sa.Integer(), nullable=False),
        sa.Column("priority", sa.Integer(), nullable=False),
        sa.Column("queued_at", sa.DateTime(), nullable=False),
        sa.Column("problem", sa.Text(), server_default="", nullable=False),
        sa.ForeignKeyConstraint(
            ["exercise_id"],
            ["exercises.id"],
            name=op.f("fk_grading_tasks_exercise_id_exercises"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["submission_id"],
            ["submissions.id"],
            name=op.f("fk_grading_tasks_submission_id_submissions"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("submission_id", name=op.f("pk_grading_tasks")),
    )
    with op.batch_alter_table("grading_tasks", schema=None) as batch_op:
        batch_op.create_index(
            batch_op.f("ix_grading_tasks_exercise_id"), ["exercise_id"], unique=False
        )


def downgrade() -> None:
    with op.batch_alter_table("grading_tasks", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_grading_tasks_exercise_id"))

    op.drop_table("grading_tasks")
