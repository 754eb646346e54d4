"""Decided marks, regrades, questions, adjustments; what sheets and courses make of marks."""

import json
from collections.abc import Sequence
from hashlib import sha256
from typing import Any

import sqlalchemy as sa
from alembic import op

revision: str = "0010"
down_revision: str | None = "0009"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None

_TABLES: dict[str, dict[str, tuple[Any, bool, str | None]]] = {
    "decisions": {
        "exercise_id": (sa.Integer(), False, None),
        "at": (sa.DateTime(), False, None),
        "by": (sa.Text(), False, None),
        "groups": (sa.JSON(), False, None),
        "measure": (sa.Text(), False, None),
        "mark": (sa.Double(), True, None),
        "ledger": (sa.JSON(), False, None),
        "comment": (sa.Text(), False, None),
        "reason": (sa.Text(), False, None),
        "undone_at": (sa.DateTime(), True, None),
        "undone_by": (sa.Text(), False, ""),
    },
    "decided_marks": {
        "submission_id": (sa.Integer(), False, None),
        "decision_id": (sa.Integer(), False, None),
        "grading_id": (sa.Integer(), True, None),
        "mark": (sa.Double(), False, None),
        "before_id": (sa.Integer(), True, None),
        "joined": (sa.Boolean(), False, None),
    },
    "regrades": {
        "exercise_id": (sa.Integer(), False, None),
        "at": (sa.DateTime(), False, None),
        "by": (sa.Text(), False, None),
        "version": (sa.Integer(), False, None),
        "before": (sa.JSON(), False, None),
        "undone_at": (sa.DateTime(), True, None),
        "undone_by": (sa.Text(), False, ""),
    },
    "questions": {
        "exercise_id": (sa.Integer(), False, None),
        "submission_id": (sa.Integer(), False, None),
        "by_learner": (sa.Boolean(), False, None),
        "asked_by": (sa.Text(), False, None),
        "asked_at": (sa.DateTime(), False, None),
        "text": (sa.Text(), False, None),
        "answer": (sa.Text(), False, ""),
        "answered_by": (sa.Text(), False, ""),
        "answered_at": (sa.DateTime(), True, None),
    },
    "adjustments": {
        "learner_id": (sa.Integer(), False, None),
        "sheet_id": (sa.Integer(), False, None),
        "exercise_id": (sa.Integer(), True, None),
        "kind": (sa.Text(), False, None),
        "points": (sa.Double(), False, None),
        "reason": (sa.Text(), False, None),
        "at": (sa.DateTime(), False, None),
        "by": (sa.Text(), False, None),
        "undone_at": (sa.DateTime(), True, None),
        "undone_by": (sa.Text(), False, ""),
    },
    "phrases": {
        "course_id": (sa.Integer(), False, None),
        "text": (sa.Text(), False, None),
    },
}
_OWNERS = {
    "exercise_id": ("exercises", "CASCADE"),
    "submission_id": ("submissions", "CASCADE"),
    "decision_id": ("decisions", "CASCADE"),
    "grading_id": ("gradings", "SET NULL"),
    "before_id": ("decided_marks", "SET NULL"),
    "learner_id": ("learners", "CASCADE"),
    "sheet_id": ("sheets", "CASCADE"),
    "course_id": ("courses", "CASCADE"),
}
_INDEXES = {
    "decisions": ["exercise_id"],
    "decided_marks": ["submission_id", "decision_id", "grading_id", "before_id"],
    "regrades": ["exercise_id"],
    "questions": ["exercise_id", "submission_id"],
    "adjustments": ["learner_id"],
    "phrases": [],
}
_SHEET = {
    "counting": (sa.Text(), False, "best"),
    "best_of": (sa.Integer(), True, None),
    "weight": (sa.Double(), True, None),
    "published_at": (sa.DateTime(), True, None),
    "published_by": (sa.Text(), False, ""),
}
_GRADING = ("outcome", "wording", "codes")


def upgrade() -> None:
    for name_of, columns in _TABLES.items():
        op.create_table(
            name_of,
            sa.Column("id", sa.Integer(), nullable=False),
            *(_column(name, *how) for name, how in columns.items()),
            *(
                sa.ForeignKeyConstraint(
                    [name],
                    [f"{_OWNERS[name][0]}.id"],
                    name=op.f(f"fk_{name_of}_{name}_{_OWNERS[name][0]}"),
                    ondelete=_OWNERS[name][1],
                )
                for name in columns
                if name in _OWNERS
            ),
            *(
                [sa.UniqueConstraint("course_id", "text", name=op.f("uq_phrases_course_id"))]
                if name_of == "phrases"
                else []
            ),
            sa.PrimaryKeyConstraint("id", name=op.f(f"pk_{name_of}")),
        )
        for name in _INDEXES[name_of]:
            op.create_index(op.f(f"ix_{name_of}_{name}"), name_of, [name])
    with op.batch_alter_table("submissions") as table:
        table.add_column(sa.Column("decided_id", sa.Integer(), nullable=True))
        table.create_foreign_key(
            op.f("fk_submissions_decided_id_decided_marks"),
            "decided_marks",
            ["decided_id"],
            ["id"],
            ondelete="SET NULL",
        )
        table.create_index(op.f("ix_submissions_decided_id"), ["decided_id"])
    with op.batch_alter_table("sheets") as table:
        for name, how in _SHEET.items():
            table.add_column(_column(name, *how))
    with op.batch_alter_table("courses") as table:
        table.add_column(_column("mark_step", sa.Double(), False, "0.01"))
    with op.batch_alter_table("gradings") as table:
        for name in _GRADING:
            table.add_column(_column(name, sa.Text(), False, ""))
    _fill_gradings()


def _column(name: str, kind: Any, nullable: bool, default: str | None) -> sa.Column[Any]:
    return sa.Column(name, kind, nullable=nullable, server_default=default)


def _fill_gradings() -> None:
    """Gives old gradings the group that they would have been given; wordings come with a regrade."""
    connection = op.get_bind()
    rows = connection.exec_driver_sql(
        "SELECT id, verdict, undecided, findings, datasets FROM gradings"
    ).fetchall()
    for id, verdict, undecided, findings, datasets in rows:
        codes = list(dict.fromkeys(one["code"] for one in json.loads(findings)))
        digests = [one.get("digest", "") for one in json.loads(datasets)]
        connection.exec_driver_sql(
            "UPDATE gradings SET outcome = ?, codes = ? WHERE id = ?",
            (_outcome(verdict, undecided, codes, digests), " ".join(codes), id),
        )


def _outcome(verdict: str, undecided: str, codes: list[str], digests: list[str]) -> str:
    if verdict == "correct" and not undecided:
        return verdict
    if verdict not in ("correct", "incorrect"):
        return f"{verdict} {codes[0]}" if codes else verdict
    return sha256(f"{verdict} {undecided} {' '.join(digests)}".encode()).hexdigest()[:16]


def downgrade() -> None:
    with op.batch_alter_table("gradings") as table:
        for name in _GRADING:
            table.drop_column(name)
    with op.batch_alter_table("courses") as table:
        table.drop_column("mark_step")
    with op.batch_alter_table("sheets") as table:
        for name in _SHEET:
            table.drop_column(name)
    with op.batch_alter_table("submissions") as table:
        table.drop_index(op.f("ix_submissions_decided_id"))
        table.drop_constraint(op.f("fk_submissions_decided_id_decided_marks"), type_="foreignkey")
        table.drop_column("decided_id")
    for name in reversed(_TABLES):
        op.drop_table(name)
