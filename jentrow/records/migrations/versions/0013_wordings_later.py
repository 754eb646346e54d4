"""Gradings whose wording is not told yet are found at once."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0013"
down_revision: str | None = "0012"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None


def upgrade() -> None:
    op.create_index(
        "ix_gradings_without_wording", "gradings", ["id"], sqlite_where=sa.text("wording = ''")
    )


def downgrade() -> None:
    op.drop_index("ix_gradings_without_wording", "gradings")
