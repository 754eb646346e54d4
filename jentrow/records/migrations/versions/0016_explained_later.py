"""A grading says whether reading its text may still add to what was found."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0016"
down_revision: str | None = "0015"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None


def upgrade() -> None:
    op.add_column(
        "gradings", sa.Column("explained", sa.Boolean(), nullable=False, server_default="1")
    )


def downgrade() -> None:
    op.drop_column("gradings", "explained")
