"""The marking desk: the answers to an exercise in their outcome groups, the largest first."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Final, Literal, TypeAlias

from sqlalchemy.orm import Session

from jentrow.core.comparison.findings import FINDING_WORDS
from jentrow.core.errors import JentrowError
from jentrow.core.exercises.grading.outcomes import UNDECIDED_WORDS
from jentrow.core.exercises.outcome_groups import RIGHT
from jentrow.records.decisions import counts_by_decision, decisions_on
from jentrow.records.exercises import last_version, list_exercises, sheet_titles
from jentrow.records.explanations import explanations_of, texts_of
from jentrow.records.marks import (
    answers_to,
    first_findings,
    open_questions,
    phrases_of,
    regrades_of,
)
from jentrow.records.models import Course, Decision, Exercise, Question
from jentrow.records.people import learners_of
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.marking.course_answers import course_answers, standings_of
from jentrow.services.marking.explanations import Explanation, read_explanation, text_digest
from jentrow.services.marking.standing import Answer, State
from jentrow.services.scope import CourseScope, course_in_scope

Attempts: TypeAlias = Literal["counting", "all"]
"""The attempts on the desk: those that count as their sheets say, or every one."""

WAITING_GROUP: Final = "waiting"


@dataclass(frozen=True)
class DeskAnswer:
    """An answer in a group.

    ``wording`` and ``codes`` are places in the group's lists. ``single`` says that its mark was
    decided for itself, ``joined`` that it came after its group was decided.
    """

    id: int
    learner: str
    submitted_at: datetime
    wording: int
    codes: int
    mark: float | None
    auto: float | None
    state: State
    single: bool
    joined: bool
    late_days: int
    outdated: bool
    contradicted: bool


@dataclass(frozen=True)
class Wording:
    """Texts of one wording in a group; ``typical`` is the first of them that came."""

    key: str
    count: int
    typical: int


@dataclass(frozen=True)
class CodeSplit:
    """What was found in a part of a group; ``words`` say the kinds."""

    codes: str
    words: str
    count: int


@dataclass(frozen=True)
class GroupExplained:
    """What is known of a group's texts from looking on made-up rows.

    ``known`` answers were looked at. ``near_miss`` is the edit that mends the commonest of them, in
    words, ``kind`` its kind; both are empty where none does. ``lucky`` answers were right by luck
    as far as rows like the open data tell.
    """

    known: int
    near_miss: str
    kind: str
    lucky: int


@dataclass(frozen=True)
class OutcomeGroup:
    """Answers that behave the same on every dataset.

    ``title`` is the kind of difference in few words, ``says`` the first finding of the ``typical``
    answer. ``marks`` are the different marks that grading gave, from the least on.
    """

    key: str
    verdict: str
    title: str
    says: str
    size: int
    decided: int
    typical: int
    marks: list[float]
    wordings: list[Wording]
    splits: list[CodeSplit]
    answers: list[DeskAnswer]
    explained: GroupExplained


@dataclass(frozen=True)
class DecisionLine:
    """A decision in the history: ``count`` answers got a mark by it, ``joined`` of them later."""

    id: int
    at: datetime
    by: str
    mark: float | None
    comment: str
    reason: str
    ledger: list[dict[str, object]]
    groups: int
    count: int
    joined: int
    undone_at: datetime | None
    undone_by: str


@dataclass(frozen=True)
class QuestionLine:
    """A question that waits at an answer."""

    id: int
    exercise: str
    submission: int
    by_learner: bool
    asked_by: str
    asked_at: datetime
    text: str


@dataclass(frozen=True)
class RegradeLine:
    """Answers that were graded anew, by a version of the exercise."""

    id: int
    at: datetime
    by: str
    version: int
    count: int
    undone_at: datetime | None
    undone_by: str


@dataclass(frozen=True)
class DeskView:
    """The desk of one exercise.

    ``total`` counts the answers on it, ``decided`` those that are. ``last_decision`` is the number
    that a decision says it has seen, so that nobody decides over somebody else's head unawares.
    """

    slug: str
    title: str
    prompt: str
    sample: str
    points: float
    version: int
    attempts: Attempts
    total: int
    decided: int
    outdated: int
    contradicted: int
    last_decision: int
    groups: list[OutcomeGroup]
    history: list[DecisionLine]
    regrades: list[RegradeLine]
    questions: list[QuestionLine]
    phrases: list[str]


@dataclass(frozen=True)
class DeskLine:
    """An exercise in the list of what is to be marked; counts are of the attempts that count."""

    slug: str
    title: str
    sheets: list[str]
    points: float
    total: int
    undecided: int
    outdated: int
    questions: int


def desk_view(scope: CourseScope, slug: str, attempts: Attempts = "counting") -> DeskView:
    """The answers to an exercise in their groups. Raises :class:`NotFound`."""
    with scope.records.session() as session:
        exercise = exercise_named(session, slug)
        course = session.get_one(Course, exercise.course_id)
        answers = standings_of(scope, session, course, [exercise]).of(
            answers_to(session, exercise.id)
        )
        decisions = decisions_on(session, exercise.id)
        counts = counts_by_decision(session, exercise.id)
        names = {one.id: one.name for one in learners_of(session, course.id)}
        on_desk = [one for one in answers if one.counts or attempts == "all"]
        single = {one.id for one in decisions if not one.groups}
        groups = _groups(session, on_desk, names, single, _known_of(scope, session, exercise))
        return DeskView(
            slug=exercise.slug,
            title=exercise.title,
            prompt=exercise.prompt,
            sample=exercise.sample.name,
            points=exercise.points,
            version=last_version(session, exercise.id),
            attempts=attempts,
            total=len(on_desk),
            decided=sum(one.state == "decided" for one in on_desk),
            outdated=sum(one.outdated for one in answers),
            contradicted=sum(one.contradicted for one in answers),
            last_decision=max((one.id for one in decisions), default=0),
            groups=groups,
            history=[decision_line(one, *counts.get(one.id, (0, 0))) for one in decisions],
            regrades=[
                RegradeLine(
                    one.id, one.at, one.by, one.version, len(one.before), one.undone_at,
                    one.undone_by,
                )
                for one in regrades_of(session, exercise.id)
            ],
            questions=[
                question_line(one)
                for one in open_questions(session, course.id)
                if one.exercise_id == exercise.id
            ],
            phrases=[one.text for one in phrases_of(session, course.id)],
        )  # fmt: skip


def desk_lines(scope: CourseScope) -> list[DeskLine]:
    """What there is to mark, exercise by exercise, in their order."""
    with scope.records.session() as session:
        course = course_in_scope(session)
        exercises = list(list_exercises(session, course.id))
        on = sheet_titles(session, course.id)
        answers = list(course_answers(scope, session, course, exercises))
        questions = Counter(one.exercise_id for one in open_questions(session, course.id))
    counting = [one for one in answers if one.counts]
    total = Counter(one.row.exercise_id for one in counting)
    undecided = Counter(one.row.exercise_id for one in counting if one.state == "undecided")
    outdated = Counter(one.row.exercise_id for one in answers if one.outdated)
    return [
        DeskLine(
            one.slug, one.title, on.get(one.id, []), one.points, total[one.id], undecided[one.id],
            outdated[one.id], questions[one.id],
        )
        for one in exercises
    ]  # fmt: skip


def decision_line(one: Decision, count: int, joined: int) -> DecisionLine:
    """A decision as the history shows it."""
    return DecisionLine(
        one.id, one.at, one.by, one.mark, one.comment, one.reason, list(one.ledger),
        len(one.groups), count, joined, one.undone_at, one.undone_by,
    )  # fmt: skip


def question_line(one: Question) -> QuestionLine:
    """A question as pages show it."""
    return QuestionLine(
        one.id, one.exercise.slug, one.submission_id, one.by_learner, one.asked_by, one.asked_at,
        one.text,
    )  # fmt: skip


def _known_of(scope: CourseScope, session: Session, exercise: Exercise) -> dict[int, Explanation]:
    """What is known of each answer to an exercise, by the answer's number."""
    try:
        measure = scope.runtime.graders.made_with(exercise).measure
    except JentrowError:
        return {}
    found = explanations_of(session, exercise.id, measure)
    if not found:
        return {}
    read = {text: read_explanation(one) for text, one in found.items()}
    digests = {id: text_digest(sql) for id, sql in texts_of(session, exercise.id).items()}
    return {id: read[digest] for id, digest in digests.items() if digest in read}


def _explained(group: Sequence[Answer], known: Mapping[int, Explanation]) -> GroupExplained:
    found = [known[one.row.id] for one in group if one.row.id in known]
    mended = Counter(
        (one.near_misses[0].in_words, one.near_misses[0].label) for one in found if one.near_misses
    )
    (words, kind), _ = mended.most_common(1)[0] if mended else (("", ""), 0)
    lucky = sum(one.luck is not None and one.luck.grade == "usual" for one in found)
    return GroupExplained(len(found), words, kind, lucky)


def _groups(
    session: Session,
    answers: Sequence[Answer],
    names: dict[int, str],
    single: set[int],
    known: Mapping[int, Explanation],
) -> list[OutcomeGroup]:
    members: dict[str, list[Answer]] = {}
    for one in answers:
        key = WAITING_GROUP if one.row.verdict is None else (one.row.outcome or "")
        members.setdefault(key, []).append(one)
    typical = {key: _typical(group).row.id for key, group in members.items()}
    said = first_findings(session, typical.values())
    found = [
        _group(
            key,
            group,
            typical[key],
            said.get(typical[key], ""),
            names,
            single,
            _explained(group, known),
        )
        for key, group in members.items()
    ]
    # What is right needs nobody; it stands first as it is the measure of the others, and what is
    # not graded yet comes last.
    return sorted(
        found, key=lambda one: (one.key != RIGHT, one.key == WAITING_GROUP, -one.size, one.typical)
    )


def _typical(group: Sequence[Answer]) -> Answer:
    """The first answer of the commonest wording."""
    wordings = Counter(one.row.wording for one in group)
    commonest = max(wordings.values())
    return next(one for one in group if wordings[one.row.wording] == commonest)


def _group(
    key: str,
    group: Sequence[Answer],
    typical: int,
    said: str,
    names: dict[int, str],
    single: set[int],
    explained: GroupExplained,
) -> OutcomeGroup:
    # As long as one is not told yet, they are all of one.
    are_told = all(one.row.wording for one in group)
    told = {one.row.id: one.row.wording or "" if are_told else "" for one in group}
    wordings = Counter(told.values()).most_common()
    splits = Counter(one.row.codes or "" for one in group).most_common()
    first = {wording: next(one.row.id for one in group if one.row.wording == wording)
             for wording, _ in wordings if wording}  # fmt: skip
    at_wording = {wording: at for at, (wording, _) in enumerate(wordings)}
    at_codes = {codes: at for at, (codes, _) in enumerate(splits)}
    shown = next(one for one in group if one.row.id == typical)
    return OutcomeGroup(
        key=key,
        verdict=shown.verdict,
        title=_title(shown),
        says=said if said else _unsaid(shown),
        size=len(group),
        decided=sum(one.state == "decided" for one in group),
        typical=typical,
        marks=sorted({one.row.mark for one in group if one.row.mark is not None}),
        wordings=[
            Wording(wording, count, first.get(wording, typical)) for wording, count in wordings
        ],
        splits=[CodeSplit(codes, _kinds(codes), count) for codes, count in splits],
        answers=[
            _desk_answer(
                one,
                names.get(one.row.learner_id, ""),
                at_wording[told[one.row.id]],
                at_codes[one.row.codes or ""],
                is_single=one.row.decision_id in single,
            )
            for one in group
        ],
        explained=explained,
    )


def _desk_answer(
    one: Answer, learner: str, wording: int, split: int, *, is_single: bool
) -> DeskAnswer:
    return DeskAnswer(
        one.row.id,
        learner,
        one.row.submitted_at,
        wording,
        split,
        one.mark,
        one.row.mark,
        one.state,
        is_single,
        bool(one.row.joined),
        one.late_days,
        one.outdated,
        one.contradicted,
    )


def _title(one: Answer) -> str:
    if one.row.verdict is None:
        return "Not graded yet"
    if one.row.undecided:
        return "For you to decide"
    if one.row.verdict == RIGHT:
        return "Right"
    first = (one.row.codes or "").split()[:1]
    words = FINDING_WORDS[first[0]] if first else "the result is not what is due"  # type: ignore[index]
    return words[0].upper() + words[1:]


def _unsaid(one: Answer) -> str:
    undecided = one.row.undecided
    return UNDECIDED_WORDS.get(undecided, "") if undecided else ""  # type: ignore[call-overload]


def _kinds(codes: str) -> str:
    if not codes:
        return "nothing else found"
    return "; ".join(FINDING_WORDS[code] for code in codes.split())  # type: ignore[index]
