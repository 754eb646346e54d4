"""What a learner may open of an answer: its smallest example, hints of a near miss, the instructor's words."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal, TypeAlias, get_args

from jentrow.core.comparison.findings import is_difference
from jentrow.core.errors import JentrowError
from jentrow.core.exercises.distinguishing.near_misses import NearMiss
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.showing import Feedback
from jentrow.core.exercises.trials import has_words, words_for
from jentrow.records.contents import core_exercise
from jentrow.records.models import Exercise, Submission
from jentrow.services.errors import NotFound
from jentrow.services.exercises.examples import ExampleView
from jentrow.services.learners.hand_ins import attempt_with_wrong
from jentrow.services.learners.places import checked_text
from jentrow.services.marking.explanations import Explanation, explained, on_kept_rows
from jentrow.services.runtime.lanes import UNHURRIED
from jentrow.services.scope import LearnerScope

Strength: TypeAlias = Literal["kind", "where", "what"]
STRENGTHS: Final[tuple[Strength, ...]] = get_args(Strength)


@dataclass(frozen=True)
class HintView:
    """A hint of a near miss, as strong as was asked for.

    ``found`` is false where no single edit mends the answer, or, ``withheld``, where each that does
    would give a part of the reference answer away. ``start`` and ``end`` are the stretch
    of the text from ``where`` on; ``old`` and ``new`` come with ``what`` alone.
    """

    found: bool
    mistake: str
    start: int | None = None
    end: int | None = None
    line: int | None = None
    old: str | None = None
    new: str | None = None
    withheld: bool = False


@dataclass(frozen=True)
class TrialWords:
    """What the instructor says of a mistake, weakest first, as far as it was asked for.

    There are ``strengths`` of them in all: none where no trial behaves as the answer does.
    """

    strengths: int
    says: list[str]


def _strongest(feedback: Feedback, wrong: int) -> int:
    """How many of the strengths are open after so many wrong answers."""
    if feedback.near_miss == "none" or wrong < feedback.near_miss_after:
        return 0
    return STRENGTHS.index(feedback.near_miss) + 1


def _opened(own: LearnerScope, submission_id: int) -> tuple[Submission, Feedback, int]:
    """A wrong attempt of the learner's whose feedback is told by now.

    Raises :class:`NotFound`.
    """
    submission, told, wrong = attempt_with_wrong(own, submission_id)
    feedback = core_exercise(submission.exercise).feedback
    grading = submission.grading
    if not told or grading is None or grading.standing != "incorrect":
        raise NotFound("There is nothing to be explained of this attempt.")
    return submission, feedback, wrong


def _explained(own: LearnerScope, submission: Submission) -> Explanation:
    return explained(own, submission.exercise, submission.sql, "incorrect", UNHURRIED.use)


def _grader(own: LearnerScope, exercise: Exercise) -> Grader:
    """An exercise's grader, on the processes of what nobody hurries for."""
    engine = own.runtime.engines.get(exercise.engine, use=UNHURRIED.use)
    return own.runtime.graders.of(exercise).elsewhere(engine)


def own_hint(own: LearnerScope, submission_id: int, strength: Strength) -> HintView:
    """A hint of what would mend an attempt. Raises :class:`NotFound` where none may be opened."""
    submission, feedback, wrong = _opened(own, submission_id)
    if STRENGTHS.index(strength) >= _strongest(feedback, wrong):
        raise NotFound("This hint is not open.")
    try:
        found = _explained(own, submission).near_misses
    except JentrowError:
        found = ()
    shown = [one for one in found if feedback.borrowed or not one.borrows]
    if shown:
        return _hint(shown[0], strength)
    return HintView(found=False, mistake="", withheld=bool(found))


def _hint(near: NearMiss, strength: Strength) -> HintView:
    if strength == "kind":
        return HintView(True, near.mistake)
    places = (near.start, near.end, near.line)
    if strength == "where":
        return HintView(True, near.mistake, *places)
    return HintView(True, near.mistake, *places, near.old, near.new)


def own_example(
    own: LearnerScope, submission_id: int, sql: str | None = None
) -> ExampleView | None:
    """The smallest example of an attempt, or what another text gives on its rows.

    None where there is none. Raises :class:`NotFound` where examples are not shown.
    """
    submission, feedback, _ = _opened(own, submission_id)
    if not feedback.example:
        raise NotFound("This exercise shows no examples.")
    try:
        found = _explained(own, submission)
        grader = _grader(own, submission.exercise)
        text = submission.sql if sql is None else checked_text(sql)
        return on_kept_rows(grader, text, found.rows, for_learner=True)
    except NotFound:
        raise
    except JentrowError:
        return None


def own_words(own: LearnerScope, submission_id: int, opened: int) -> TrialWords:
    """The first ``opened`` hints that the exercise's trials carry for an attempt.

    Raises :class:`NotFound` where the attempt's feedback is not told.
    """
    submission, told, _ = attempt_with_wrong(own, submission_id)
    grading = submission.grading
    if not told or grading is None:
        raise NotFound("There is nothing to be explained of this attempt.")
    if grading.undecided or not has_words(core_exercise(submission.exercise)):
        return TrialWords(0, [])
    said = {one["message"] for one in grading.findings if not is_difference(one["code"])}
    grader = _grader(own, submission.exercise)
    digests = [one["digest"] for one in grading.datasets]
    try:
        words = words_for(grader, grading.verdict, digests, said)
    except JentrowError:
        words = ()
    return TrialWords(len(words), list(words[:opened]))
