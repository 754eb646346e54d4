"""Runs of learners are kept too, and any of them can have a name."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0009"
down_revision: str | None = "0008"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None

_OWNERS = {"learner_id": "learners", "exercise_id": "exercises"}


def upgrade() -> None:
    with op.batch_alter_table("tried_queries") as table:
        table.add_column(sa.Column("name", sa.Text(), nullable=False, server_default=""))
        for column, owner in _OWNERS.items():
            table.add_column(sa.Column(column, sa.Integer(), nullable=True))
            table.create_foreign_key(
                op.f(f"fk_tried_queries_{column}_{owner}"),
                owner,
                [column],
                ["id"],
                ondelete="CASCADE",
            )
            table.create_index(op.f(f"ix_tried_queries_{column}"), [column])


def downgrade() -> None:
    with op.batch_alter_table("tried_queries") as table:
        for column, owner in _OWNERS.items():
            table.drop_index(op.f(f"ix_tried_queries_{column}"))
            table.drop_constraint(op.f(f"fk_tried_queries_{column}_{owner}"), type_="foreignkey")
            table.drop_column(column)
        table.drop_column("name")
