"""Datasets of samples, and queries that were tried on them."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0002"
down_revision: str | None = "0001"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None


def upgrade() -> None:
    with op.batch_alter_table("samples", schema=None) as batch_op:
        batch_op.add_column(sa.Column("notes", sa.JSON(), server_default="[]", nullable=False))
    op.create_table(
        "datasets",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sample_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("folder", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["sample_id"],
            ["samples.id"],
            name=op.f("fk_datasets_sample_id_samples"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_datasets")),
        sa.UniqueConstraint("sample_id", "name", name=op.f("uq_datasets_sample_id")),
    )
    op.create_table(
        "tried_queries",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("sample_id", sa.Integer(), nullable=False),
        sa.Column("dataset", sa.Text(), nullable=False),
        sa.Column("sql", sa.Text(), nullable=False),
        sa.Column("rows", sa.Integer(), nullable=True),
        sa.Column("said", sa.Text(), nullable=False),
        sa.Column("tried_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["sample_id"],
            ["samples.id"],
            name=op.f("fk_tried_queries_sample_id_samples"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_tried_queries")),
    )
    with op.batch_alter_table("tried_queries", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_tried_queries_sample_id"), ["sample_id"], unique=False)


def downgrade() -> None:
    with op.batch_alter_table("tried_queries", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_tried_queries_sample_id"))
    op.drop_table("tried_queries")
    op.drop_table("datasets")
    with op.batch_alter_table("samples", schema=None) as batch_op:
        batch_op.drop_column("notes")
