"""What is graded next is found without looking at all that waits."""

from collections.abc import Sequence

from alembic import op

revision: str = "0017"
down_revision: str | None = "0016"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None

IN_ORDER = ["priority", "tries", "turn", "queued_at", "submission_id"]


def upgrade() -> None:
    op.create_index("ix_grading_tasks_in_order", "grading_tasks", IN_ORDER)


def downgrade() -> None:
    op.drop_index("ix_grading_tasks_in_order", "grading_tasks")
