"""What waits to be graded has a turn: learners take turns."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0015"
down_revision: str | None = "0014"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None


def upgrade() -> None:
    op.add_column(
        "grading_tasks", sa.Column("turn", sa.Integer(), nullable=False, server_default="0")
    )


def downgrade() -> None:
    op.drop_column("grading_tasks", "turn")
