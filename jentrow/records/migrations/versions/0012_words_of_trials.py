"""A trial carries words for learners whose answer behaves the same."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0012"
down_revision: str | None = "0011"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None


def upgrade() -> None:
    op.add_column("trials", sa.Column("words", sa.JSON(), nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("trials", "words")
