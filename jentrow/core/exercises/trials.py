"""An exercise's own tests: trial answers with the verdict that each ought to get."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from jentrow.core.comparison.findings import Finding, is_difference
from jentrow.core.exercises.exercise import Exercise, Trial, Verdict
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.outcomes import UNDECIDED_WORDS, Undecided, standing_of


@dataclass(frozen=True, slots=True)
class TrialResult:
    """What a trial got; it holds where that is what it ought to get."""

    trial: Trial
    actual: Verdict
    mark: float
    undecided: Undecided = ""

    @property
    def standing(self) -> str:
        """The verdict, or that it is undecided."""
        return standing_of(self.actual, self.undecided)

    @property
    def holds(self) -> bool:
        """Whether the verdict is the expected one, and the mark where one is expected.

        What an instructor would have to decide holds for nothing.
        """
        wanted = self.trial.mark
        return self.standing == self.trial.expected and wanted in (None, self.mark)

    @property
    def said(self) -> str:
        """What it got and what it ought to get, in words."""
        if self.undecided:
            why = UNDECIDED_WORDS[self.undecided]
            return f"undecided, ought to be {self.trial.expected}: {why}"
        if self.actual != self.trial.expected:
            return f"{self.actual}, ought to be {self.trial.expected}"
        if not self.holds:
            return f"{self.mark:g} points, ought to be {self.trial.mark:g}"
        return f"{self.actual}, as it ought to be"


def run_trials(grader: Grader) -> list[TrialResult]:
    """Runs an exercise's trials, in their order."""
    trials = grader.exercise.trials
    outcomes = dict(grader.grade_many([trial.sql for trial in trials])) if trials else {}
    return [
        TrialResult(trial, outcomes[at].verdict, outcomes[at].mark, outcomes[at].undecided)
        for at, trial in enumerate(trials)
    ]


def has_words(exercise: Exercise) -> bool:
    """Whether a trial of an exercise carries words for answers that behave as it does."""
    return any(trial.words for trial in exercise.trials)


def words_for(
    grader: Grader, verdict: str, digests: Sequence[str], said: Collection[str]
) -> tuple[str, ...]:
    """The words of the first trial that behaves as an answer does; none where no trial does.

    ``digests`` are those of what the answer gave on each dataset, ``said`` the messages about its
    text alone (constructs, layout). To behave the same is to give the same on every dataset; of a
    right answer, that the same things are said of its text.
    """
    trials = [trial for trial in grader.exercise.trials if trial.words]
    outcomes = dict(grader.grade_many([trial.sql for trial in trials]))
    for at, trial in enumerate(trials):
        came = outcomes[at]
        if came.verdict != verdict:
            continue
        same = [one.digest for one in came.datasets] == list(digests)
        if verdict == "correct":
            same = bool(said) and set(said) == about_text(came.findings)
        if same:
            return trial.words
    return ()


def about_text(findings: Collection[Finding]) -> set[str]:
    """The messages of findings that are about a text and not about what it gives."""
    return {one.message for one in findings if not is_difference(one.code)}
