"""The outcome groups of the marking desk: answers that behave the same on every dataset."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.comparison.findings import FINDING_WORDS
from jentrow.core.exercises.grading.outcomes import UNDECIDED_WORDS
from jentrow.core.exercises.outcome_groups import RIGHT
from jentrow.records.marks import (
    first_findings,
)
from jentrow.services.marking.explanations import Explanation
from jentrow.services.marking.standing import Answer, State

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


def _explained(group: Sequence[Answer], known: Mapping[int, Explanation]) -> GroupExplained:
    found = [known[one.row.id] for one in group if one.row.id in known]
    mended = Counter(
        (one.near_misses[0].in_words, one.near_misses[0].label) for one in found if one.near_misses
    )
    (words, kind), _ = mended.most_common(1)[0] if mended else (("", ""), 0)
    lucky = sum(one.luck is not None and one.luck.grade == "usual" for one in found)
    return GroupExplained(len(found), words, kind, lucky)


def grouped(
    session: Session,
    answers: Sequence[Answer],
    names: dict[int, str],
    single: set[int],
    known: Mapping[int, Explanation],
) -> list[OutcomeGroup]:
    """Answers in their groups: the right ones, then the largest first, those that wait last.

    ``names`` are the learners', ``single`` the decisions about one answer alone, ``known`` what is
    known of answers, by their numbers.
    """
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
