"""What an instructor has to decide of a grading."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0006"
down_revision: str | None = "0005"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None


def upgrade() -> None:
    with op.batch_alter_table("gradings", schema=None) as batch_op:
        batch_op.add_column(sa.Column("undecided", sa.Text(), server_default="", nullable=False))


def downgrade() -> None:
    with op.batch_alter_table("gradings", schema=None) as batch_op:
        batch_op.drop_column("undecided")
