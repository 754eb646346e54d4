"""People who sign in, several courses, drafts of answers, extensions."""

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

revision: str = "0005"
down_revision: str | None = "0004"
branch_labels: Sequence[str] | None = None
depends_on: Sequence[str] | None = None


def upgrade() -> None:
    op.create_table(
        "people",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("login", sa.Text(), nullable=True),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("email", sa.Text(), server_default="", nullable=False),
        sa.Column("password", sa.Text(), server_default="", nullable=False),
        sa.Column("teaches", sa.Boolean(), server_default="0", nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_people")),
        sa.UniqueConstraint("login", name=op.f("uq_people_login")),
    )
    op.create_table(
        "throttles",
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("failures", sa.Integer(), nullable=False),
        sa.Column("last_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_throttles")),
    )
    op.create_table(
        "instructors",
        sa.Column("course_id", sa.Integer(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["course_id"],
            ["courses.id"],
            name=op.f("fk_instructors_course_id_courses"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
            name=op.f("fk_instructors_person_id_people"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("course_id", "person_id", name=op.f("pk_instructors")),
    )
    op.create_table(
        "sign_ins",
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("person_id", sa.Integer(), nullable=False),
        sa.Column("guard", sa.Text(), nullable=False),
        sa.Column("browser", sa.Text(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.Column("seen_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
            name=op.f("fk_sign_ins_person_id_people"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("token", name=op.f("pk_sign_ins")),
    )
    with op.batch_alter_table("sign_ins", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_sign_ins_person_id"), ["person_id"], unique=False)

    op.create_table(
        "extensions",
        sa.Column("sheet_id", sa.Integer(), nullable=False),
        sa.Column("learner_id", sa.Integer(), nullable=False),
        sa.Column("closes", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["learner_id"],
            ["learners.id"],
            name=op.f("fk_extensions_learner_id_learners"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["sheet_id"],
            ["sheets.id"],
            name=op.f("fk_extensions_sheet_id_sheets"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("sheet_id", "learner_id", name=op.f("pk_extensions")),
    )
    op.create_table(
        "links",
        sa.Column("token", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("course_id", sa.Integer(), nullable=True),
        sa.Column("learner_id", sa.Integer(), nullable=True),
        sa.Column("person_id", sa.Integer(), nullable=True),
        sa.Column("ends_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["course_id"],
            ["courses.id"],
            name=op.f("fk_links_course_id_courses"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["learner_id"],
            ["learners.id"],
            name=op.f("fk_links_learner_id_learners"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["person_id"], ["people.id"], name=op.f("fk_links_person_id_people"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("token", name=op.f("pk_links")),
    )
    op.create_table(
        "answer_drafts",
        sa.Column("learner_id", sa.Integer(), nullable=False),
        sa.Column("exercise_id", sa.Integer(), nullable=False),
        sa.Column("sql", sa.Text(), nullable=False),
        sa.Column("saved_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["exercise_id"],
            ["exercises.id"],
            name=op.f("fk_answer_drafts_exercise_id_exercises"),
            ondelete="CASCADE",
        ),
        sa.ForeignKeyConstraint(
            ["learner_id"],
            ["learners.id"],
            name=op.f("fk_answer_drafts_learner_id_learners"),
            ondelete="CASCADE",
        ),
        sa.PrimaryKeyConstraint("learner_id", "exercise_id", name=op.f("pk_answer_drafts")),
    )
    with op.batch_alter_table("courses", schema=None) as batch_op:
        batch_op.add_column(sa.Column("slug", sa.Text(), server_default="", nullable=False))
        batch_op.add_column(sa.Column("zone", sa.Text(), server_default="UTC", nullable=False))
        batch_op.add_column(sa.Column("join_code", sa.Text(), nullable=True))
        batch_op.add_column(sa.Column("archived_at", sa.DateTime(), nullable=True))

    op.execute("UPDATE courses SET slug = 'course-' || id")
    with op.batch_alter_table("courses", schema=None) as batch_op:
        batch_op.alter_column(
            "slug", existing_type=sa.Text(), existing_nullable=False, server_default=None
        )
        batch_op.create_unique_constraint(batch_op.f("uq_courses_join_code"), ["join_code"])
        batch_op.create_unique_constraint(batch_op.f("uq_courses_slug"), ["slug"])

    with op.batch_alter_table("learners", schema=None) as batch_op:
        batch_op.add_column(sa.Column("code", sa.Text(), server_default="", nullable=False))
        batch_op.add_column(sa.Column("email", sa.Text(), server_default="", nullable=False))
        batch_op.add_column(sa.Column("person_id", sa.Integer(), nullable=True))

    op.execute("UPDATE learners SET code = name")
    with op.batch_alter_table("learners", schema=None) as batch_op:
        batch_op.alter_column(
            "code", existing_type=sa.Text(), existing_nullable=False, server_default=None
        )
        batch_op.drop_constraint(batch_op.f("uq_learners_course_id"), type_="unique")
        batch_op.create_unique_constraint(
            batch_op.f("uq_learners_course_id"), ["course_id", "code"]
        )
        batch_op.create_unique_constraint(
            batch_op.f("uq_learners_person_id"), ["person_id", "course_id"]
        )
        batch_op.create_foreign_key(
            batch_op.f("fk_learners_person_id_people"),
            "people",
            ["person_id"],
            ["id"],
            ondelete="SET NULL",
        )

    with op.batch_alter_table("submissions", schema=None) as batch_op:
        batch_op.add_column(sa.Column("sheet_id", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("key", sa.Text(), nullable=True))
        batch_op.create_index(batch_op.f("ix_submissions_sheet_id"), ["sheet_id"], unique=False)
        batch_op.create_unique_constraint(
            batch_op.f("uq_submissions_learner_id"), ["learner_id", "key"]
        )
        batch_op.create_foreign_key(
            batch_op.f("fk_submissions_sheet_id_sheets"),
            "sheets",
            ["sheet_id"],
            ["id"],
            ondelete="SET NULL",
        )


def downgrade() -> None:

    with op.batch_alter_table("submissions", schema=None) as batch_op:
        batch_op.drop_constraint(batch_op.f("fk_submissions_sheet_id_sheets"), type_="foreignkey")
        batch_op.drop_constraint(batch_op.f("uq_submissions_learner_id"), type_="unique")
        batch_op.drop_index(batch_op.f("ix_submissions_sheet_id"))
        batch_op.drop_column("key")
        batch_op.drop_column("sheet_id")

    with op.batch_alter_table("learners", schema=None) as batch_op:
        batch_op.drop_constraint(batch_op.f("fk_learners_person_id_people"), type_="foreignkey")
        batch_op.drop_constraint(batch_op.f("uq_learners_person_id"), type_="unique")
        batch_op.drop_constraint(batch_op.f("uq_learners_course_id"), type_="unique")
        batch_op.create_unique_constraint(
            batch_op.f("uq_learners_course_id"), ["course_id", "name"]
        )
        batch_op.drop_column("person_id")
        batch_op.drop_column("email")
        batch_op.drop_column("code")

    with op.batch_alter_table("courses", schema=None) as batch_op:
        batch_op.drop_constraint(batch_op.f("uq_courses_slug"), type_="unique")
        batch_op.drop_constraint(batch_op.f("uq_courses_join_code"), type_="unique")
        batch_op.drop_column("archived_at")
        batch_op.drop_column("join_code")
        batch_op.drop_column("zone")
        batch_op.drop_column("slug")

    op.drop_table("answer_drafts")
    op.drop_table("links")
    op.drop_table("extensions")
    with op.batch_alter_table("sign_ins", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_sign_ins_person_id"))

    op.drop_table("sign_ins")
    op.drop_table("instructors")
    op.drop_table("throttles")
    op.drop_table("people")
