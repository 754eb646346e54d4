"""Numbers behind the plots of marks: where a class stands, exercise by exercise."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from statistics import StatisticsError, correlation, fmean
from typing import Final

from jentrow.core.comparison.findings import FINDING_WORDS
from jentrow.core.exercises.deadlines import Window
from jentrow.core.exercises.grading.outcomes import standing_of
from jentrow.records.exercises import list_exercises, list_sheets
from jentrow.records.marks import answers_named
from jentrow.records.models import Exercise, Sheet
from jentrow.services.exercises.lateness import worth
from jentrow.services.marking.course_answers import course_answers
from jentrow.services.marking.standing import Answer, Standings
from jentrow.services.scope import CourseScope, course_in_scope

BINS: Final = 8
"""So many bars the distribution of whole marks has at most."""

RANGES: Final = 5
"""So many ranges there are where marks are no whole ones."""

MOST_LINKED: Final = 500
"""So many answers are named behind a point."""

STEP_HOURS: Final = 12
"""So many hours stand in one bar of the attempts before a sheet closes."""

FEWEST: Final = 4
"""Fewer learners than this tell nothing of how an exercise separates them."""


@dataclass(frozen=True)
class MarkBar:
    """Marks from ``least`` to ``most``, counted by whether they are decided; ``answers`` behind it."""

    least: float
    most: float
    decided: int
    undecided: int
    answers: list[int]


@dataclass(frozen=True)
class AttemptPoint:
    """At an attempt: how many tried, and how many were right by then."""

    attempt: int
    tried: int
    right: int
    answers: list[int]


@dataclass(frozen=True)
class FindingCount:
    """How many attempts at an exercise had a kind of finding."""

    code: str
    words: str
    count: int
    answers: list[int]


@dataclass(frozen=True)
class HourBar:
    """Attempts within some hours before a sheet's closing time; below 0 after it."""

    hours: int
    count: int
    answers: list[int]


@dataclass(frozen=True)
class ExercisePlots:
    """The numbers of one exercise on its sheet.

    ``separates`` is the correlation of its marks with those for all other exercises (None where too
    few handed in, or all got the same); ``ease`` the mean share of its points.
    """

    slug: str
    title: str
    sheet: str
    points: float
    handed_in: int
    ease: float | None
    separates: float | None
    marks: list[MarkBar]
    by_attempt: list[AttemptPoint]
    findings: list[FindingCount]


@dataclass(frozen=True)
class SheetPlots:
    """The numbers of one sheet; ``sums`` are of the counting answers to it, by learner."""

    slug: str
    title: str
    points: float
    sums: list[MarkBar]
    before_closing: list[HourBar]


@dataclass(frozen=True)
class CoursePlots:
    """The numbers behind all plots of a course."""

    exercises: list[ExercisePlots]
    sheets: list[SheetPlots]


def course_plots(scope: CourseScope) -> CoursePlots:
    """The numbers behind the plots."""
    with scope.records.session() as session:
        course = course_in_scope(session)
        exercises = list(list_exercises(session, course.id))
        sheets = list_sheets(session, course.id)
        answers = course_answers(scope, session, course, exercises)
        by_place: dict[tuple[int, int], list[Answer]] = {}
        for one in answers:
            if one.row.sheet_id is not None:
                by_place.setdefault((one.row.sheet_id, one.row.exercise_id), []).append(one)
        shares = _shares(by_place, {(sheet.id, entry.exercise_id): worth(entry)
                                    for sheet in sheets for entry in sheet.entries})  # fmt: skip
        sums_of: defaultdict[int, float] = defaultdict(float)
        counts: Counter[int] = Counter()
        for own_shares in shares.values():
            counts.update(own_shares.keys())
            for learner, share in own_shares.items():
                sums_of[learner] += share
        found: list[ExercisePlots] = []
        of_sheets: list[SheetPlots] = []
        for sheet in sheets:
            own: list[Answer] = []
            for entry in sheet.entries:
                place = sheet.id, entry.exercise_id
                here = by_place.get(place, [])
                own += here
                separates = _separates(shares.get(place, {}), sums_of, counts)
                ease = shares.get(place, {}).values()
                found.append(
                    _exercise(entry.exercise, sheet.slug, worth(entry), here, list(ease), separates)
                )
            hours = [
                answers.derived(entry.exercise_id, _hours).get(sheet.id, {})
                for entry in sheet.entries
            ]
            of_sheets.append(_sheet(sheet, own, _hour_bars(hours)))
    return CoursePlots(found, of_sheets)


def _sheet(sheet: Sheet, answers: Sequence[Answer], hours: list[HourBar]) -> SheetPlots:
    """What learners have on a sheet, by the answers that count."""
    sums: dict[int, float] = {}
    for one in answers:
        if one.counts:
            learner = one.row.learner_id
            sums[learner] = sums.get(learner, 0.0) + (one.worth or 0.0)
    points = sum(worth(entry) for entry in sheet.entries)
    return SheetPlots(sheet.slug, sheet.title, points, _sum_bars(sums, points, answers), hours)


def _shares(
    by_place: Mapping[tuple[int, int], Sequence[Answer]], points: Mapping[tuple[int, int], float]
) -> dict[tuple[int, int], dict[int, float]]:
    """The share of its points that each learner has, by sheet and exercise."""
    found: dict[tuple[int, int], dict[int, float]] = {}
    for place, answers in by_place.items():
        most = points.get(place)
        if most:
            found[place] = {
                one.row.learner_id: (one.worth or 0.0) / most for one in answers if one.counts
            }
    return found


def _separates(
    own: Mapping[int, float], sums: Mapping[int, float], counts: Mapping[int, int]
) -> float | None:
    """The correlation of an exercise's shares with the mean of the same learners' others.

    ``sums`` and ``counts`` are of all that each learner handed in.
    """
    pairs = [
        (share, (sums[learner] - share) / (counts[learner] - 1))
        for learner, share in own.items()
        if counts[learner] > 1
    ]
    if len(pairs) < FEWEST:
        return None
    try:
        found = correlation([one for one, _ in pairs], [rest for _, rest in pairs])
    except StatisticsError:  # all the same: nothing is told apart
        return None
    return round(found, 3)


def _exercise(
    exercise: Exercise,
    sheet: str,
    points: float,
    answers: Sequence[Answer],
    shares: Sequence[float],
    separates: float | None,
) -> ExercisePlots:
    counting = [one for one in answers if one.counts]
    return ExercisePlots(
        exercise.slug,
        exercise.title,
        sheet,
        points,
        len({one.row.learner_id for one in answers}),
        round(fmean(shares), 3) if shares else None,
        separates,
        _bars([(one.worth or 0.0, one.state == "decided", one.row.id) for one in counting], points),
        _attempts(answers),
        _findings(answers),
    )


def _bars(marks: Sequence[tuple[float, bool, int]], points: float) -> list[MarkBar]:
    """Marks in bars: one a mark where they are few whole ones, else ranges of one width."""
    if not points:
        return []
    if points <= BINS and points == int(points) and all(mark == int(mark) for mark, _, _ in marks):
        bounds = [(float(at), float(at)) for at in range(int(points) + 1)]
    elif points > BINS:
        width = math.ceil(points / BINS)
        bounds = [
            (float(at), min(float(at + width), points)) for at in range(0, math.ceil(points), width)
        ]
    else:
        width_ = points / RANGES
        bounds = [(round(at * width_, 2), round((at + 1) * width_, 2)) for at in range(RANGES)]
    found = []
    for at, (least, most) in enumerate(bounds):
        last = at == len(bounds) - 1
        inside = [
            one for one in marks if least <= one[0] and (one[0] < most or last or least == one[0])
        ]
        found.append(
            MarkBar(
                least,
                most,
                sum(decided for _, decided, _ in inside),
                sum(not decided for _, decided, _ in inside),
                [id for _, _, id in inside[:MOST_LINKED]],
            )
        )
    return found


def _sum_bars(sums: Mapping[int, float], points: float, own: Sequence[Answer]) -> list[MarkBar]:
    open_ = {one.row.learner_id for one in own if one.counts and one.state != "decided"}
    last = {one.row.learner_id: one.row.id for one in own}
    marks = [(mark, learner not in open_, last[learner]) for learner, mark in sums.items()]
    return _bars(marks, points)


def _attempts(answers: Sequence[Answer]) -> list[AttemptPoint]:
    """Of all who tried: how many were right by their first attempt, by their second, and so on."""
    tries: dict[int, list[Answer]] = {}
    for one in sorted(answers, key=lambda one: (one.row.submitted, one.row.id)):
        tries.setdefault(one.row.learner_id, []).append(one)
    first_right = Counter(
        next((at for at, one in enumerate(own) if one.verdict == "correct"), -1)
        for own in tries.values()
    )
    found: list[AttemptPoint] = []
    right = 0
    for at in range(max(map(len, tries.values()), default=0)):
        here = [own[at].row.id for own in tries.values() if len(own) > at]
        right += first_right[at]
        found.append(AttemptPoint(at + 1, len(here), right, here[:MOST_LINKED]))
    return found


def _findings(answers: Sequence[Answer]) -> list[FindingCount]:
    counts: Counter[str] = Counter()
    behind: dict[str, list[int]] = {}
    for one in answers:
        for code in (one.row.codes or "").split():
            counts[code] += 1
            behind.setdefault(code, []).append(one.row.id)
    return [
        FindingCount(code, FINDING_WORDS[code], count, behind[code][:MOST_LINKED])  # type: ignore[index]
        for code, count in counts.most_common()
    ]


def _hours(standings: Standings, own: Sequence[Answer]) -> dict[int, dict[int, list[int]]]:
    """By sheet, the attempts by the hours that were left until closing, in steps of twelve."""
    found: dict[int, dict[int, list[int]]] = {}
    step = timedelta(hours=STEP_HOURS)
    seen: Window | None = None
    closes: datetime | None = None
    for one in own:
        row = one.row
        if row.sheet_id is None:
            continue
        window = standings.window(row.sheet_id, row.learner_id)
        if window is not seen:  # most answers of an exercise have the same one
            seen, closes = window, window.closes and window.closes.replace(tzinfo=None)
        if closes is None:
            continue
        at = (closes - datetime.fromisoformat(row.submitted)) // step * STEP_HOURS
        found.setdefault(row.sheet_id, {}).setdefault(at, []).append(row.id)
    return found


def _hour_bars(parts: Sequence[Mapping[int, list[int]]]) -> list[HourBar]:
    """The bars of a sheet, from those of its exercises; none is left out in between."""
    bars: dict[int, list[int]] = {}
    for part in parts:
        for at, ids in part.items():
            bars[at] = [*bars.get(at, []), *ids]
    if not bars:
        return []
    return [
        HourBar(at, len(bars.get(at, [])), bars.get(at, [])[:MOST_LINKED])
        for at in range(max(bars), min(bars) - STEP_HOURS, -STEP_HOURS)
    ]


@dataclass(frozen=True)
class AnswerBehind:
    """One of the answers behind a point of a plot."""

    id: int
    learner: str
    exercise: str
    verdict: str
    mark: float | None


def answers_behind(scope: CourseScope, ids: Sequence[int]) -> list[AnswerBehind]:
    """The answers behind a point, by learner."""
    with scope.records.session() as session:
        rows = answers_named(session, course_in_scope(session).id, ids[:MOST_LINKED])
    return [
        AnswerBehind(
            id, learner, title, standing_of(verdict, undecided) if verdict else "waiting", mark
        )
        for id, learner, title, verdict, undecided, mark in rows
    ]
