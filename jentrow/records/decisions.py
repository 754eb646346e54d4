"""Queries about decisions, the marks that they gave, and the answers that join them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, datetime
from typing import Any, NamedTuple, cast

from sqlalchemy import CursorResult, Select, func, insert, select, update
from sqlalchemy.orm import Session, joinedload

from jentrow.records.models import DecidedMark, Decision, Grading, Submission
from jentrow.records.numbers import among


class Markable(NamedTuple):
    """A graded submission as far as a decision needs it."""

    id: int
    grading_id: int
    decided_id: int | None
    mark: float
    outcome: str
    wording: str
    codes: str
    explained: bool
    measure: str

    def is_in(self, group: Mapping[str, str]) -> bool:
        """Whether it surely belongs to a group, or to the part of it that is meant."""
        return (
            self.outcome == group["outcome"]
            and group["wording"] in ("", self.wording)
            and (group["codes"] == "" or (self.explained and group["codes"] == self.codes))
        )


def _markable() -> Select[*tuple[Any, ...]]:
    return select(
        Submission.id,
        Submission.grading_id,
        Submission.decided_id,
        Grading.mark,
        Grading.outcome,
        Grading.wording,
        Grading.codes,
        Grading.explained,
        Grading.measure,
    ).join(Grading, Grading.id == Submission.grading_id)


def markable_named(session: Session, exercise_id: int, ids: Sequence[int]) -> list[Markable]:
    """Those of some submissions that belong to an exercise and are graded."""
    asked = _markable().where(among(Submission.id, ids), Submission.exercise_id == exercise_id)
    return [Markable._make(row) for row in session.execute(asked)]


def undecided_answers(session: Session, exercise_id: int) -> list[Markable]:
    """The graded submissions to an exercise for which nothing was decided."""
    asked = _markable().where(
        Submission.exercise_id == exercise_id, Submission.decided_id.is_(None)
    )
    return [Markable._make(row) for row in session.execute(asked)]


def decisions_on(session: Session, exercise_id: int) -> Sequence[Decision]:
    """All decisions about an exercise's answers, the last first; undone ones too."""
    return session.scalars(
        select(Decision).where(Decision.exercise_id == exercise_id).order_by(Decision.id.desc())
    ).all()


def find_decision(session: Session, exercise_id: int, decision_id: int) -> Decision | None:
    """A decision about an exercise's answers."""
    found = session.get(Decision, decision_id)
    return found if found is not None and found.exercise_id == exercise_id else None


def counts_by_decision(session: Session, exercise_id: int) -> dict[int, tuple[int, int]]:
    """For each decision, how many answers it gave a mark, and how many of them joined later."""
    rows = session.execute(
        select(
            DecidedMark.decision_id,
            func.count(),
            func.count().filter(DecidedMark.joined.is_(True)),
        )
        .join(Decision, Decision.id == DecidedMark.decision_id)
        .where(Decision.exercise_id == exercise_id)
        .group_by(DecidedMark.decision_id)
    )
    return {decision: (count, joined) for decision, count, joined in rows}


def decided_since(session: Session, submission_ids: Iterable[int], seen: int) -> list[Decision]:
    """The decisions after one that was seen last, about any of these submissions.

    One that was undone since counts too: it changed what was seen.
    """
    found = session.scalars(
        select(Decision)
        .join(DecidedMark, DecidedMark.decision_id == Decision.id)
        .where(among(DecidedMark.submission_id, submission_ids), Decision.id > seen)
        .order_by(Decision.id)
    )
    return list(found.unique())


def give_marks(
    session: Session, decision: Decision, answers: Sequence[Markable], *, joined: bool
) -> None:
    """Gives submissions the mark of a decision, or that of their grading, to stand from now on."""
    rows = [
        {
            "submission_id": one.id, "decision_id": decision.id, "grading_id": one.grading_id,
            "mark": one.mark if decision.mark is None else decision.mark,
            "before_id": one.decided_id, "joined": joined,
        }
        for one in answers
    ]  # fmt: skip
    if not rows:
        return
    session.execute(insert(DecidedMark), rows)
    _point_at_latest(session, [one.id for one in answers])


def _point_at_latest(session: Session, submission_ids: Sequence[int]) -> None:
    latest = (
        select(func.max(DecidedMark.id))
        .where(DecidedMark.submission_id == Submission.id)
        .scalar_subquery()
    )
    session.execute(
        update(Submission).where(among(Submission.id, submission_ids)).values(decided_id=latest),
        execution_options={"synchronize_session": False},
    )


def take_back(session: Session, decision: Decision, by: str) -> int:
    """Undoes a decision: what it decided is as it was before, where nothing was decided since.

    Returns how many submissions that is.
    """
    decision.undone_at = datetime.now(UTC)
    decision.undone_by = by
    session.flush()
    given = select(DecidedMark.id).where(DecidedMark.decision_id == decision.id)
    before = (
        select(DecidedMark.before_id)
        .where(DecidedMark.id == Submission.decided_id)
        .scalar_subquery()
    )
    # What stood before may have been undone itself meanwhile: then what stood before that does.
    changed = 0
    while True:
        result = session.execute(
            update(Submission).where(Submission.decided_id.in_(given)).values(decided_id=before),
            execution_options={"synchronize_session": False},
        )
        done = cast("CursorResult[Any]", result).rowcount
        changed = changed or done
        given = (
            select(DecidedMark.id)
            .join(Decision, Decision.id == DecidedMark.decision_id)
            .where(Decision.exercise_id == decision.exercise_id, Decision.undone_at.is_not(None))
        )
        if not done:
            return changed


def standing_decisions(session: Session, exercise_id: int) -> Sequence[Decision]:
    """The decisions about an exercise's answers that were not undone, the last first."""
    return [one for one in decisions_on(session, exercise_id) if one.undone_at is None]


def join_groups(session: Session, exercise_id: int, submission_ids: Sequence[int]) -> None:
    """Lets submissions that were just graded join what was decided for the groups they are in.

    Only those for which nothing was decided yet, and which were graded as the others were.
    """
    standing = [one for one in standing_decisions(session, exercise_id) if one.groups]
    if not standing or not submission_ids:
        return
    joining: dict[int, list[Markable]] = {}
    for one in markable_named(session, exercise_id, submission_ids):
        for at, decision in enumerate(standing):
            if (
                one.decided_id is None
                and decision.measure == one.measure
                and any(one.is_in(group) for group in decision.groups)
            ):
                joining.setdefault(at, []).append(one)
                break
    for at, answers in joining.items():
        give_marks(session, standing[at], answers, joined=True)


def comments_on(session: Session, submission_ids: Sequence[int]) -> dict[int, str]:
    """The comments of the decisions that stand for some submissions."""
    asked = (
        select(Submission.id, Decision.comment)
        .join(DecidedMark, DecidedMark.id == Submission.decided_id)
        .join(Decision, Decision.id == DecidedMark.decision_id)
        .where(among(Submission.id, submission_ids))
    )
    return {id: comment for id, comment in session.execute(asked)}  # noqa: C416


def decided_marks_of(session: Session, submission_id: int) -> Sequence[DecidedMark]:
    """All marks that were ever decided for a submission, the last first, with their decisions."""
    return session.scalars(
        select(DecidedMark)
        .where(DecidedMark.submission_id == submission_id)
        .options(joinedload(DecidedMark.decision))
        .order_by(DecidedMark.id.desc())
    ).all()
