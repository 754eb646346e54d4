"""The tables of the records."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import (
    JSON,
    ColumnElement,
    DateTime,
    ForeignKey,
    Index,
    MetaData,
    Text,
    TypeDecorator,
    UniqueConstraint,
    case,
    text,
)
from sqlalchemy.ext.hybrid import hybrid_property
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from jentrow.core.exercises.outcomes import UNDECIDED, standing_of


class Instant(TypeDecorator[datetime]):
    """A point in time, kept in UTC; SQLite has no zones of its own."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Any) -> datetime | None:
        """To naive UTC; a time without a zone is taken as UTC."""
        if value is None or value.tzinfo is None:
            return value
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Any) -> datetime | None:
        """From naive UTC."""
        return None if value is None else value.replace(tzinfo=UTC)


class Base(DeclarativeBase):
    """The base of all models; constraints have names, so that migrations can change them."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {datetime: Instant, dict[str, Any]: JSON, list[Any]: JSON, str: Text}  # noqa: RUF012


class Course(Base):
    """A course, with everything that belongs to it.

    ``slug`` is its name in addresses. ``zone`` is the time zone that its sheets' times are in.
    Whoever has the ``join_code`` may join; None where nobody may. Totals are rounded to a
    ``mark_step``.
    """

    __tablename__ = "courses"

    id: Mapped[int] = mapped_column(primary_key=True)
    slug: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    zone: Mapped[str] = mapped_column(default="UTC", server_default="UTC")
    join_code: Mapped[str | None] = mapped_column(unique=True)
    archived_at: Mapped[datetime | None]
    grading_paused: Mapped[bool] = mapped_column(default=False, server_default="0")
    mark_step: Mapped[float] = mapped_column(default=0.01, server_default="0.01")


class Person(Base):
    """Somebody who signs in. ``login`` is case-folded; None until they have chosen one.

    ``teaches`` says that they may make courses.
    """

    __tablename__ = "people"

    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str | None] = mapped_column(unique=True)
    name: Mapped[str]
    email: Mapped[str] = mapped_column(default="", server_default="")
    password: Mapped[str] = mapped_column(default="", server_default="")
    teaches: Mapped[bool] = mapped_column(default=False, server_default="0")
    made_at: Mapped[datetime]


class Instructor(Base):
    """Somebody who teaches a course."""

    __tablename__ = "instructors"

    course_id: Mapped[int] = mapped_column(
        ForeignKey("courses.id", ondelete="CASCADE"), primary_key=True
    )
    person_id: Mapped[int] = mapped_column(
        ForeignKey("people.id", ondelete="CASCADE"), primary_key=True
    )

    person: Mapped[Person] = relationship(lazy="joined")


class SignIn(Base):
    """A browser that somebody is signed in with; only a digest of its token is kept."""

    __tablename__ = "sign_ins"

    token: Mapped[str] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"), index=True)
    guard: Mapped[str]
    browser: Mapped[str]
    made_at: Mapped[datetime]
    seen_at: Mapped[datetime]

    person: Mapped[Person] = relationship(lazy="joined")


class Link(Base):
    """A link that works once: it lets somebody choose a password, and be who it is for.

    ``kind`` is ``first`` (the first instructor), ``instructor`` or ``learner`` (of a course), or
    ``password``. Only a digest of the token is kept.
    """

    __tablename__ = "links"

    token: Mapped[str] = mapped_column(primary_key=True)
    kind: Mapped[str]
    course_id: Mapped[int | None] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    learner_id: Mapped[int | None] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    person_id: Mapped[int | None] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"))
    ends_at: Mapped[datetime]


class LinkEvent(Base):
    """A link that was made, used, or made useless (``revoked``), for whom it concerns to see.

    ``by`` is who did it, empty for whoever runs the server; ``course`` is the course's title.
    """

    __tablename__ = "link_events"

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    what: Mapped[str]
    kind: Mapped[str]
    course: Mapped[str]
    learner_id: Mapped[int | None] = mapped_column(
        ForeignKey("learners.id", ondelete="SET NULL"), index=True
    )
    person_id: Mapped[int | None] = mapped_column(
        ForeignKey("people.id", ondelete="CASCADE"), index=True
    )
    by: Mapped[str]


class Throttle(Base):
    """How often signing in failed lately, by name or by address."""

    __tablename__ = "throttles"

    key: Mapped[str] = mapped_column(primary_key=True)
    failures: Mapped[int]
    last_at: Mapped[datetime]


class Sample(Base):
    """A sample database; its datasets lie in ``folder``, below the data folder.

    ``notes`` says what was left out and what is to be known of how it was made; ``table_notes`` is
    what its instructor noted on tables and columns, as
    :func:`~jentrow.core.samples.tablenotes.read_notes` takes it.
    """

    __tablename__ = "samples"
    __table_args__ = (UniqueConstraint("course_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    name: Mapped[str]
    folder: Mapped[str]
    notes: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    table_notes: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")

    datasets: Mapped[list[Dataset]] = relationship(
        cascade="all, delete-orphan", order_by="Dataset.position", lazy="selectin"
    )


class Dataset(Base):
    """A dataset of a sample, kept in a folder of its own; the open one has position 0."""

    __tablename__ = "datasets"
    __table_args__ = (UniqueConstraint("sample_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    sample_id: Mapped[int] = mapped_column(ForeignKey("samples.id", ondelete="CASCADE"))
    name: Mapped[str]
    position: Mapped[int]
    folder: Mapped[str]


class Explanation(Base):
    """What was found out about a text on made-up rows, by what its gradings are measured with.

    ``text`` is a digest of it; ``found`` is as :mod:`jentrow.services.marking.explanations` writes
    it.
    """

    __tablename__ = "explanations"
    __table_args__ = (
        UniqueConstraint(
            "exercise_id", "measure", "text", name="uq_explanations_exercise_id_measure_text"
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    measure: Mapped[str]
    text: Mapped[str]
    found: Mapped[dict[str, Any]]


class TriedQuery(Base):
    """A query that somebody tried on a sample; ``rows`` is None where it gave no result.

    Those of instructors have no learner. A learner's belong to the exercise that they were run
    for. One with a ``name`` is kept until the name is taken away.
    """

    __tablename__ = "tried_queries"

    id: Mapped[int] = mapped_column(primary_key=True)
    sample_id: Mapped[int] = mapped_column(ForeignKey("samples.id", ondelete="CASCADE"), index=True)
    learner_id: Mapped[int | None] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), index=True
    )
    exercise_id: Mapped[int | None] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    name: Mapped[str] = mapped_column(server_default="")
    dataset: Mapped[str]
    sql: Mapped[str]
    rows: Mapped[int | None]
    said: Mapped[str]
    tried_at: Mapped[datetime]


class Exercise(Base):
    """An exercise; ``slug`` is its id in packs, ``rules`` to ``feedback`` as packs hold them.

    ``origin`` is the digest of the content as it was taken in from a pack, empty for one that was
    made here. ``draft`` is a content that is not kept yet, as it was typed.
    """

    __tablename__ = "exercises"
    __table_args__ = (UniqueConstraint("course_id", "slug"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    sample_id: Mapped[int] = mapped_column(ForeignKey("samples.id"))
    slug: Mapped[str]
    position: Mapped[int]
    title: Mapped[str]
    prompt: Mapped[str]
    engine: Mapped[str]
    points: Mapped[float]
    reference: Mapped[str]
    rules: Mapped[dict[str, Any]]
    tags: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    constructs: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    layout: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    marks: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    feedback: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    origin: Mapped[str] = mapped_column(default="", server_default="")
    draft: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    drafted_at: Mapped[datetime | None]

    sample: Mapped[Sample] = relationship(lazy="joined")
    alternatives: Mapped[list[Alternative]] = relationship(
        cascade="all, delete-orphan", order_by="Alternative.position", lazy="selectin"
    )
    trials: Mapped[list[Trial]] = relationship(
        cascade="all, delete-orphan", order_by="Trial.position", lazy="selectin"
    )


class Alternative(Base):
    """An accepted alternative of an exercise."""

    __tablename__ = "alternatives"
    __table_args__ = (UniqueConstraint("exercise_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    position: Mapped[int]
    name: Mapped[str]
    sql: Mapped[str]


class Trial(Base):
    """A trial answer of an exercise."""

    __tablename__ = "trials"
    __table_args__ = (UniqueConstraint("exercise_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    position: Mapped[int]
    name: Mapped[str]
    sql: Mapped[str]
    expected: Mapped[str]
    mark: Mapped[float | None]
    words: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")


class ExerciseVersion(Base):
    """An exercise as it was kept once; numbers count from 1 and never fall."""

    __tablename__ = "exercise_versions"
    __table_args__ = (UniqueConstraint("exercise_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    number: Mapped[int]
    content: Mapped[dict[str, Any]]
    summary: Mapped[str]
    by: Mapped[str]
    made_at: Mapped[datetime]


class Sheet(Base):
    """An exercise sheet; its times are the course's own and have no zone.

    ``counting`` says which attempts count, ``best_of`` how many of its exercises (None: all), and
    ``weight`` what it weighs in the course's total (None: as much as it has points). Its marks are
    told to learners from ``published_at`` on.
    """

    __tablename__ = "sheets"
    __table_args__ = (UniqueConstraint("course_id", "slug"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    slug: Mapped[str]
    position: Mapped[int]
    title: Mapped[str]
    opens: Mapped[datetime | None] = mapped_column(DateTime)
    closes: Mapped[datetime | None] = mapped_column(DateTime)
    attempts: Mapped[int | None]
    late: Mapped[dict[str, Any]]
    origin: Mapped[str] = mapped_column(default="", server_default="")
    counting: Mapped[str] = mapped_column(default="best", server_default="best")
    best_of: Mapped[int | None]
    weight: Mapped[float | None]
    published_at: Mapped[datetime | None]
    published_by: Mapped[str] = mapped_column(default="", server_default="")

    entries: Mapped[list[SheetEntry]] = relationship(
        cascade="all, delete-orphan", order_by="SheetEntry.position", lazy="selectin"
    )


class SheetEntry(Base):
    """An exercise on a sheet, with what it is worth there."""

    __tablename__ = "sheet_entries"
    __table_args__ = (UniqueConstraint("sheet_id", "exercise_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    sheet_id: Mapped[int] = mapped_column(ForeignKey("sheets.id", ondelete="CASCADE"))
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    position: Mapped[int]
    points: Mapped[float | None]

    exercise: Mapped[Exercise] = relationship(lazy="joined")


class Learner(Base):
    """Somebody who hands in. ``code`` is the learner id of the roster.

    ``person_id`` is None as long as nobody has signed in as this learner.
    """

    __tablename__ = "learners"
    __table_args__ = (
        UniqueConstraint("course_id", "code"),
        UniqueConstraint("person_id", "course_id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    code: Mapped[str]
    name: Mapped[str]
    email: Mapped[str] = mapped_column(default="", server_default="")
    person_id: Mapped[int | None] = mapped_column(ForeignKey("people.id", ondelete="SET NULL"))


class Extension(Base):
    """Another closing time of a sheet for one learner, in the course's own time."""

    __tablename__ = "extensions"

    sheet_id: Mapped[int] = mapped_column(
        ForeignKey("sheets.id", ondelete="CASCADE"), primary_key=True
    )
    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True
    )
    closes: Mapped[datetime] = mapped_column(DateTime)


class AnswerDraft(Base):
    """What a learner has typed for an exercise and not handed in."""

    __tablename__ = "answer_drafts"

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True
    )
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), primary_key=True
    )
    sql: Mapped[str]
    saved_at: Mapped[datetime]


class Submission(Base):
    """One hand-in of one query. ``sheet_id`` is None for one that belongs to no sheet.

    ``key`` is what the learner's page calls the hand-in: sent twice, it counts once. ``grading`` is
    the one of its gradings that stands, ``decided`` the mark that was decided for it, if one was.
    """

    __tablename__ = "submissions"
    __table_args__ = (UniqueConstraint("learner_id", "key"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), index=True
    )
    sheet_id: Mapped[int | None] = mapped_column(
        ForeignKey("sheets.id", ondelete="SET NULL"), index=True
    )
    key: Mapped[str | None]
    sql: Mapped[str]
    submitted_at: Mapped[datetime]
    grading_id: Mapped[int | None] = mapped_column(
        ForeignKey("gradings.id", ondelete="SET NULL", use_alter=True), index=True
    )
    decided_id: Mapped[int | None] = mapped_column(
        ForeignKey("decided_marks.id", ondelete="SET NULL", use_alter=True), index=True
    )

    exercise: Mapped[Exercise] = relationship()
    sheet: Mapped[Sheet | None] = relationship()
    learner: Mapped[Learner] = relationship(lazy="joined")
    grading: Mapped[Grading | None] = relationship(
        foreign_keys=[grading_id], lazy="joined", viewonly=True
    )
    decided: Mapped[DecidedMark | None] = relationship(foreign_keys=[decided_id], viewonly=True)


class GradingTask(Base):
    """A submission that waits to be graded, or to be graded anew.

    It is deleted in the transaction that keeps the grading: a server that is killed in between
    grades the submission when it starts again. The smallest ``priority`` goes first. ``problem``
    says why grading cannot be done as things are. ``generation`` grows with every wish that it be
    graded anew: what was taken at an earlier one does not end the task. ``claimed_by`` is who
    grades it, and ``claimed_at`` since when it is judged; ``tries`` counts claims that ended with a process.
    ``turn`` orders what has the same priority, where learners take turns.
    """

    __tablename__ = "grading_tasks"

    submission_id: Mapped[int] = mapped_column(
        ForeignKey("submissions.id", ondelete="CASCADE"), primary_key=True
    )
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    priority: Mapped[int]
    turn: Mapped[int] = mapped_column(default=0, server_default="0")
    queued_at: Mapped[datetime]
    problem: Mapped[str] = mapped_column(default="", server_default="")
    generation: Mapped[int] = mapped_column(default=1, server_default="1")
    claimed_by: Mapped[str | None]
    claimed_at: Mapped[datetime | None]
    tries: Mapped[int] = mapped_column(default=0, server_default="0")


class Setting(Base):
    """Something that an administrator has set for the whole server."""

    __tablename__ = "settings"

    name: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[str]


class Grading(Base):
    """What a submission came to once, and what it was graded with.

    It is never changed, but that its ``wording``, for which nobody waits, is told a little later;
    and, where it is not ``explained`` yet, what reading the text adds to its findings.

    ``exercise_version``, ``dataset_versions`` (by the datasets' names) and ``engine`` say what it
    was made with, and ``measure`` is a digest of all that could change it: see
    :class:`jentrow.services.runtime.runtime.MadeWith`. ``datasets`` has, for each dataset, the verdict, the
    sizes and the digest of the result. ``outcome`` is equal for submissions that behave the same,
    ``wording`` for texts of one wording; ``codes`` are the kinds of findings, each once, with blanks
    between. ``undecided`` says what an instructor has to decide first;
    ``standing`` is then that word, else the verdict.
    """

    __tablename__ = "gradings"
    __table_args__ = (
        Index("ix_gradings_without_wording", "id", sqlite_where=text("wording = ''")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    submission_id: Mapped[int] = mapped_column(
        ForeignKey("submissions.id", ondelete="CASCADE"), index=True
    )
    verdict: Mapped[str]
    mark: Mapped[float]
    answer: Mapped[str]
    findings: Mapped[list[Any]]
    ledger: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    engine: Mapped[str]
    graded_at: Mapped[datetime]
    undecided: Mapped[str] = mapped_column(default="", server_default="")
    exercise_version: Mapped[int] = mapped_column(default=0, server_default="0")
    dataset_versions: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    measure: Mapped[str] = mapped_column(default="", server_default="")
    datasets: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    outcome: Mapped[str] = mapped_column(default="", server_default="")
    wording: Mapped[str] = mapped_column(default="", server_default="")
    codes: Mapped[str] = mapped_column(default="", server_default="")
    explained: Mapped[bool] = mapped_column(default=True, server_default="1")

    @hybrid_property
    def standing(self) -> str:
        """The verdict, or that it is undecided."""
        return standing_of(self.verdict, self.undecided)

    @standing.inplace.expression
    @classmethod
    def _standing_expression(cls) -> ColumnElement[str]:
        return case((cls.undecided != "", UNDECIDED), else_=cls.verdict)


class Decision(Base):
    """What an instructor decided about answers to an exercise, at one stroke. Only undoing changes it.

    ``groups`` are the outcome groups, or parts of them, that it holds for: an answer that comes
    later, graded by the same ``measure``, joins it. Each is ``{outcome, wording, codes}``, with
    empty text for any. ``mark`` is None where each answer keeps the mark that grading gave it.
    """

    __tablename__ = "decisions"

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    at: Mapped[datetime]
    by: Mapped[str]
    groups: Mapped[list[Any]]
    measure: Mapped[str]
    mark: Mapped[float | None]
    ledger: Mapped[list[Any]]
    comment: Mapped[str]
    reason: Mapped[str]
    undone_at: Mapped[datetime | None]
    undone_by: Mapped[str] = mapped_column(default="", server_default="")


class DecidedMark(Base):
    """The mark that a decision gave to a submission; never changed.

    ``grading_id`` is what the submission had come to then, ``before_id`` the decided mark that stood
    until then, ``joined`` that the submission came after the decision.
    """

    __tablename__ = "decided_marks"

    id: Mapped[int] = mapped_column(primary_key=True)
    submission_id: Mapped[int] = mapped_column(
        ForeignKey("submissions.id", ondelete="CASCADE"), index=True
    )
    decision_id: Mapped[int] = mapped_column(
        ForeignKey("decisions.id", ondelete="CASCADE"), index=True
    )
    grading_id: Mapped[int | None] = mapped_column(
        ForeignKey("gradings.id", ondelete="SET NULL"), index=True
    )
    mark: Mapped[float]
    before_id: Mapped[int | None] = mapped_column(
        ForeignKey("decided_marks.id", ondelete="SET NULL"), index=True
    )
    joined: Mapped[bool]

    decision: Mapped[Decision] = relationship(viewonly=True)
    grading: Mapped[Grading | None] = relationship(viewonly=True)


class Regrade(Base):
    """An exercise's answers graded anew; ``before`` has the grading that each had until then."""

    __tablename__ = "regrades"

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    at: Mapped[datetime]
    by: Mapped[str]
    version: Mapped[int]
    before: Mapped[dict[str, Any]]
    undone_at: Mapped[datetime | None]
    undone_by: Mapped[str] = mapped_column(default="", server_default="")


class Question(Base):
    """A question about a mark: a learner's, or one that an instructor asks a colleague.

    A learner asks about a ``submission``; an instructor about the outcome group that it stands for.
    It is open until it is answered.
    """

    __tablename__ = "questions"

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    submission_id: Mapped[int] = mapped_column(
        ForeignKey("submissions.id", ondelete="CASCADE"), index=True
    )
    by_learner: Mapped[bool]
    asked_by: Mapped[str]
    asked_at: Mapped[datetime]
    text: Mapped[str]
    answer: Mapped[str] = mapped_column(default="", server_default="")
    answered_by: Mapped[str] = mapped_column(default="", server_default="")
    answered_at: Mapped[datetime | None]

    submission: Mapped[Submission] = relationship(lazy="joined")
    exercise: Mapped[Exercise] = relationship(lazy="joined")


class Adjustment(Base):
    """An extra mark on a sheet (``extra``), or an exercise that a learner need not do (``excused``)."""

    __tablename__ = "adjustments"

    id: Mapped[int] = mapped_column(primary_key=True)
    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), index=True
    )
    sheet_id: Mapped[int] = mapped_column(ForeignKey("sheets.id", ondelete="CASCADE"))
    exercise_id: Mapped[int | None] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    kind: Mapped[str]
    points: Mapped[float]
    reason: Mapped[str]
    at: Mapped[datetime]
    by: Mapped[str]
    undone_at: Mapped[datetime | None]
    undone_by: Mapped[str] = mapped_column(default="", server_default="")


class Phrase(Base):
    """A comment that an instructor keeps, to be used again in the course."""

    __tablename__ = "phrases"
    __table_args__ = (UniqueConstraint("course_id", "text"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    text: Mapped[str]
