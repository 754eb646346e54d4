"""Grading: parse → police → run → compare → find → mark, over all datasets of an exercise."""

from __future__ import annotations

import marshal
from collections.abc import Hashable, Iterator, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, replace
from typing import Any, Final, Literal, TypeAlias

from jentrow.core.comparison.causes import TextFacts, explained
from jentrow.core.comparison.cells import ComparisonTooLong
from jentrow.core.comparison.compare import Comparison, compare
from jentrow.core.comparison.findings import Finding
from jentrow.core.comparison.shares import ResultShares, full_shares, nothing_right, shares_of
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure, QueryOutcome
from jentrow.core.errors import ReferenceFails
from jentrow.core.exercises.exercise import Exercise, NamedQuery, Verdict
from jentrow.core.exercises.expectations import expect
from jentrow.core.exercises.markscheme import LedgerLine, Sum, TextParts, settle
from jentrow.core.exercises.textfacts import text_facts
from jentrow.core.exercises.textmarks import TextJudge
from jentrow.core.results import Expectation, ResultSet
from jentrow.core.samples.sources import SampleSource

OPEN = "open"

Undecided: TypeAlias = Literal["", "row_order", "constructs"]
"""What cannot be told by running and reading: which rows tie, or whether a construct is there."""

UNDECIDED_WORDS: Final[dict[Undecided, str]] = {
    "": "",
    "row_order": "the rows are right, and nobody can say which of them may change places",
    "constructs": "the text could not be read for the exercise's construct rules",
}

KEPT_OUTCOMES: Final = 1_000
"""Different results whose outcomes are kept: many learners get one and the same."""

KEPT_ROWS: Final = 500
"""Larger results are judged once for each lot of answers, and not kept."""


@dataclass(frozen=True)
class DatasetOutcome:
    """What an answer came to on one dataset: a comparison, or the failure to run."""

    dataset: str
    is_open: bool
    outcome: Comparison | QueryFailure

    @property
    def verdict(self) -> Verdict:
        """The verdict on this dataset alone."""
        return self.outcome.verdict


@dataclass(frozen=True)
class Outcome:
    """What an answer came to: the verdict over all datasets, its mark and what was found.

    ``shares`` are the right shares of the result, the smallest over all datasets; None where there
    is no result. ``ledger`` says how the mark comes about. ``answer`` names the reference (``reference``) or alternative that the best outcome was
    measured by, and ``expected`` is its result on the open dataset. ``datasets`` has the open
    dataset first. ``undecided`` says what an instructor has to decide before verdict and mark stand.
    """

    verdict: Verdict
    mark: float
    answer: str
    expected: ResultSet
    findings: tuple[Finding, ...]
    datasets: tuple[DatasetOutcome, ...]
    shares: ResultShares | None = None
    ledger: tuple[LedgerLine, ...] = ()
    undecided: Undecided = ""

    @property
    def standing(self) -> str:
        """The verdict, or ``undecided``."""
        return "undecided" if self.undecided else self.verdict

    def to_json(self) -> dict[str, Any]:
        """The object that ``jentrow compare --json`` prints."""
        opened = self.datasets[0].outcome
        ran = self.verdict in ("correct", "incorrect") and isinstance(opened, Comparison)
        given = opened.given if ran and isinstance(opened, Comparison) else None
        return {
            "verdict": self.verdict,
            **({"undecided": self.undecided} if self.undecided else {}),
            "mark": self.mark,
            "findings": [finding.to_json() for finding in self.findings],
            "expected": _shape(self.expected),
            "actual": _shape(given),
            "near_misses": [],
        }


def _shape(result: ResultSet | None) -> dict[str, Any] | None:
    if result is None:
        return None
    return {"columns": list(result.names), "row_count": len(result.rows)}


class Grader:
    """Everything needed to grade answers to one exercise: datasets loaded, references run."""

    def __init__(self, engine: Engine, exercise: Exercise, sample: SampleSource) -> None:
        """Raises :class:`ReferenceFails` or :class:`InvalidSample` where there is no measure."""
        self.exercise = exercise
        self._engine = engine
        self.dialect = engine.dialect
        self._limits = exercise.rules.limits
        self.dataset_names = [dataset.name for dataset in sample.datasets]
        self.datasets: list[LoadedDataset] = [engine.load(dataset) for dataset in sample.datasets]
        reference = NamedQuery("reference", exercise.reference)
        self._answers = (reference, *exercise.alternatives)
        self.expectations: list[list[Expectation]] = [
            [
                expect(engine, dataset, answer.sql, self._limits, self._called(answer, at))
                for at, dataset in enumerate(self.datasets)
            ]
            for answer in self._answers
        ]
        self._check_answers()
        self._judged: dict[Hashable, Outcome] = {}
        self._text = TextJudge(exercise, engine.dialect, self.datasets[0].columns)

    def serving(self, exercise: Exercise) -> Grader:
        """The same measure for an exercise that differs in its prompt, tags or trials only."""
        other = copy(self)
        other.exercise = exercise
        return other

    def hurried(self, engine: Engine, seconds: float) -> Grader:
        """The same measure where answers run on another engine, stopped after ``seconds``.

        What it stops has not come to its verdict yet, unless the exercise allows no longer.
        """
        other = copy(self)
        other._engine = engine
        other._limits = replace(self._limits, seconds=min(seconds, self._limits.seconds))
        other._judged = {}
        return other

    def is_settled(self, outcome: Outcome, hurried: Grader) -> bool:
        """Whether what a hurried grader of this one said would be said without hurry too."""
        return hurried._limits == self._limits or not any(
            isinstance(one.outcome, QueryFailure) and one.outcome.code == "limit.time"
            for one in outcome.datasets
        )

    def _called(self, answer: NamedQuery, dataset: int) -> str:
        which = (
            "the reference answer"
            if answer is self._answers[0]
            else f"the accepted alternative {answer.name}"
        )
        where = "" if dataset == 0 else f" (on the dataset {self.dataset_names[dataset]})"
        return f"{self.exercise.id}: {which}{where}"

    def _check_answers(self) -> None:
        """Compares each answer with itself: unusable rules show here, not at the first learner."""
        for answer, expected in zip(self._answers, self.expectations, strict=True):
            try:
                compare(
                    expected[0],
                    expected[0].result,
                    self.exercise.rules.comparison,
                    reference=self.expectations[0][0],
                )
            except ReferenceFails as problem:
                raise ReferenceFails(f"{self._called(answer, 0)}: {problem}") from problem

    def grade(self, sql: str) -> Outcome:
        """Grades one answer."""
        ((_, outcome),) = self.grade_many([sql])
        return outcome

    def grade_many(self, answers: Sequence[str]) -> Iterator[tuple[int, Outcome]]:
        """Grades many answers; yields (index, outcome) as they come. Equal texts run once."""
        judged: dict[Hashable, Outcome] = {}
        places: dict[str, list[int]] = {}
        for at, sql in enumerate(answers):
            places.setdefault(sql, []).append(at)
        texts = list(places)
        runs: dict[int, list[QueryOutcome]] = {at: [] for at in range(len(texts))}
        # All but the last dataset are gathered; with the last one an answer is complete.
        for dataset in self.datasets[:-1]:
            found = dict(self._engine.run_many(dataset, texts, self._limits))
            for at, outcome in found.items():
                runs[at].append(outcome)
        for at, outcome in self._engine.run_many(self.datasets[-1], texts, self._limits):
            outcomes = [*runs.pop(at), outcome]
            # Many learners get one and the same result: it is judged once.
            key = tuple(_identity(one, self._names_matter(one)) for one in outcomes)
            known = judged.get(key) or self._judged.get(key)
            graded = self.judge(outcomes) if known is None else _with_names_of(outcomes, known)
            judged[key] = graded
            if sum(len(one.rows) for one in outcomes if isinstance(one, ResultSet)) <= KEPT_ROWS:
                if len(self._judged) >= KEPT_OUTCOMES:
                    self._judged.clear()
                self._judged[key] = graded
            whole = self._with_text(graded, texts[at])
            for place in places[texts[at]]:
                yield place, whole

    def _names_matter(self, outcome: QueryOutcome) -> bool:
        """Whether the names of a result's columns can change what is found in it."""
        rules = self.exercise.rules.comparison
        return (
            rules.column_names != "ignore"
            or rules.column_order == "any"
            or isinstance(outcome, QueryFailure)
            or len(outcome.columns) != len(self.expectations[0][0].result.columns)
            or (
                len(self._answers) > 1
                and len({len(expected[0].result.columns) for expected in self.expectations}) > 1
            )
        )

    def _with_text(self, outcome: Outcome, sql: str) -> Outcome:
        """The outcome with what the answer's own text adds: causes, constructs and layout."""
        findings = outcome.findings
        if outcome.verdict == "incorrect":
            findings = self._found(outcome.datasets, text_facts(sql, self.dialect))
            outcome = replace(outcome, findings=findings)
        if outcome.shares is None or not self._text.has_rules:
            return outcome
        parts, more = self._text.judge(sql)
        settled = self._settled(outcome.verdict, outcome.shares, parts)
        return replace(
            outcome,
            mark=settled.mark,
            ledger=settled.ledger,
            findings=(*findings, *more),
            undecided=outcome.undecided or ("constructs" if parts.unread else ""),
        )

    def _settled(self, verdict: Verdict, shares: ResultShares | None, text: TextParts) -> Sum:
        return settle(self.exercise.points, self.exercise.marks, verdict, shares, text)

    def judge(self, outcomes: Sequence[QueryOutcome]) -> Outcome:
        """Judges what an answer's query gave on each dataset, the open one first.

        The mark is that of the result alone: the text's part is added by :meth:`grade_many`.
        """
        failure = next((one for one in outcomes if isinstance(one, QueryFailure)), None)
        candidates: list[tuple[DatasetOutcome, ...]] = []
        for expected in self.expectations if failure is None else self.expectations[:1]:
            datasets = tuple(
                DatasetOutcome(
                    self.dataset_names[at], at == 0, self._held_against(expected, at, outcome)
                )
                for at, outcome in enumerate(outcomes)
            )
            candidates.append(datasets)
            if all(one.verdict == "correct" for one in datasets):
                break
        best = self._best(candidates)
        datasets = candidates[best]
        failure = failure or _failure_in(datasets)
        verdict: Verdict = "correct"
        if failure is not None:
            verdict = failure.verdict
        elif any(one.verdict != "correct" for one in datasets):
            verdict = "incorrect"
        shares = None if failure is not None else self._shares(datasets)
        settled = self._settled(verdict, shares, TextParts())
        return Outcome(
            verdict,
            settled.mark,
            self._answers[best].name,
            self.expectations[best][0].result,
            self._found(datasets, TextFacts()),
            datasets,
            shares,
            settled.ledger,
            "row_order" if _is_in_doubt(datasets) else "",
        )

    def _best(self, candidates: list[tuple[DatasetOutcome, ...]]) -> int:
        """The answer whose outcome stands: one that is met, or may be; else the nearest.

        Where comparing with any of them was stopped, nobody knows, and that stands.
        """
        last = len(candidates) - 1
        if all(one.verdict == "correct" for one in candidates[last]):
            return last
        for at, datasets in enumerate(candidates):
            if _failure_in(datasets) is not None:
                return at
        for at, datasets in enumerate(candidates):
            if _is_in_doubt(datasets):
                return at
        return self._nearest(candidates)

    def _found(self, datasets: tuple[DatasetOutcome, ...], facts: TextFacts) -> tuple[Finding, ...]:
        """What is said of an answer whose text holds these facts."""
        sizes = {name.casefold(): rows for name, rows in self.datasets[0].table_rows}
        return _findings(datasets, facts, sizes)

    def _nearest(self, candidates: list[tuple[DatasetOutcome, ...]]) -> int:
        """The answer that a wrong result comes nearest to: by its mark, then by the difference."""

        def farness(at: int) -> tuple[float, ...]:
            shares = self._shares(candidates[at])
            earned = self._settled("incorrect", shares, TextParts()).mark
            return (-earned, *_distance(candidates[at]))

        return min(range(len(candidates)), key=farness) if len(candidates) > 1 else 0

    def _shares(self, datasets: tuple[DatasetOutcome, ...]) -> ResultShares:
        """The smallest right shares over all datasets; worked out where marks need them."""
        shares: ResultShares | None = None
        for one in datasets:
            if isinstance(one.outcome, QueryFailure):
                continue
            if one.verdict != "correct" and self.exercise.marks.kind == "all_or_nothing":
                return nothing_right(full_shares(one.outcome))
            found = shares_of(one.outcome)
            shares = found if shares is None else shares.least(found)
        return shares or ResultShares()

    def _held_against(
        self, expected: list[Expectation], at: int, outcome: QueryOutcome
    ) -> Comparison | QueryFailure:
        if isinstance(outcome, QueryFailure):
            return outcome
        try:
            return compare(
                expected[at],
                outcome,
                self.exercise.rules.comparison,
                reference=self.expectations[0][at],
            )
        except ComparisonTooLong:
            return QueryFailure("stopped", "limit.time", TOO_LONG)


def _identity(outcome: QueryOutcome, names_matter: bool) -> Hashable:
    """Equal for results that are the same to the bit, types and order included."""
    if isinstance(outcome, QueryFailure):
        return outcome
    names = outcome.names if names_matter else len(outcome.columns)
    try:
        return names, marshal.dumps(list(outcome.rows))
    except ValueError:  # a value that only some engines have
        return names, repr(outcome.rows)


def _with_names_of(outcomes: Sequence[QueryOutcome], known: Outcome) -> Outcome:
    """What is known of the same rows, under the names that these results have."""
    datasets = tuple(
        replace(one, outcome=one.outcome.renamed(given.columns))
        if isinstance(one.outcome, Comparison) and isinstance(given, ResultSet)
        else one
        for one, given in zip(known.datasets, outcomes, strict=True)
    )
    return replace(known, datasets=datasets)


def _distance(datasets: tuple[DatasetOutcome, ...]) -> tuple[float, ...]:
    """Fewer wrong datasets first, then the smaller difference on the open one."""
    wrong = [one for one in datasets if one.verdict != "correct"]
    opened = datasets[0].outcome
    size = opened.distance if wrong and isinstance(opened, Comparison) else (0,)
    return (len(wrong), *size)


TOO_LONG: Final = (
    "Comparing the result with what is due was stopped: so many rows are nearly alike that it "
    "takes too long. Fewer rows, or exact values, can be compared."
)


def _failure_in(datasets: tuple[DatasetOutcome, ...]) -> QueryFailure | None:
    return next((one.outcome for one in datasets if isinstance(one.outcome, QueryFailure)), None)


def _is_in_doubt(datasets: tuple[DatasetOutcome, ...]) -> bool:
    """Whether nothing but unknown ties stands against an answer."""
    doubtful = [
        one for one in datasets if isinstance(one.outcome, Comparison) and one.outcome.undecided
    ]
    wrong = [one for one in datasets if one.verdict != "correct"]
    return bool(doubtful) and len(doubtful) == len(wrong)


def _findings(
    datasets: tuple[DatasetOutcome, ...], facts: TextFacts, sizes: Mapping[str, int]
) -> tuple[Finding, ...]:
    failed = _failure_in(datasets) is not None
    found: list[Finding] = []
    for one in datasets:
        if isinstance(one.outcome, QueryFailure):
            found.append(_failure_finding(one, one.outcome))
            # The same text fails alike everywhere: said once is enough.
            break
        if failed or one.verdict == "correct":
            continue
        own = [explained(finding, facts, sizes) for finding in one.outcome.findings]
        if one.is_open:
            found += [replace(finding, dataset=OPEN) for finding in own]
            continue
        if one.outcome.undecided:
            found.append(_undecided_elsewhere(one))
            continue
        kinds = {finding.code for finding in own}
        if not kinds <= {finding.code for finding in found if finding.dataset == OPEN}:
            found.append(_held_back_finding(one, sorted(kinds)))
    return tuple(found)


def _failure_finding(one: DatasetOutcome, failure: QueryFailure) -> Finding:
    if not one.is_open:
        # The engine's words may quote values of rows that learners must not see.
        words = {
            "error": "On other data the query fails.",
            "stopped": "On other data the query passes a limit.",
            "refused": "The query is refused.",
        }
        return Finding(failure.code, words[failure.verdict], dataset=one.dataset)
    evidence: dict[str, Any] = {}
    if failure.engine_words:
        evidence["engine"] = failure.engine_words
    if failure.place is not None:
        evidence |= {"line": failure.place.line, "column": failure.place.column}
    if failure.near:
        evidence["near"] = failure.near
    return Finding(failure.code, failure.message, dataset=OPEN, evidence=evidence)


def _undecided_elsewhere(one: DatasetOutcome) -> Finding:
    return Finding(
        "held_back.differs",
        "On other data the rows are right, and whether their order is right cannot be told here: "
        "your instructor decides.",
        dataset=one.dataset,
        evidence={"undecided": "row_order"},
    )


def _held_back_finding(one: DatasetOutcome, kinds: Sequence[str]) -> Finding:
    words = ", ".join(KIND_WORDS.get(kind, kind) for kind in kinds)
    return Finding(
        "held_back.differs",
        f"On other data the result is not what is due: {words}.",
        dataset=one.dataset,
        evidence={"kinds": list(kinds)},
    )


KIND_WORDS: Final = {
    "columns.missing": "columns are missing",
    "columns.extra": "there are columns too many",
    "columns.order": "the columns stand in another order",
    "columns.name": "column names differ",
    "rows.missing": "rows are missing",
    "rows.extra": "there are rows too many",
    "rows.repeated": "right rows come too often",
    "rows.collapsed": "right rows come too seldom",
    "rows.order": "rows stand out of order",
    "cells.differ": "cells hold other values",
    "cells.null": "NULL stands on one side only",
    "cells.rounding": "numbers are rounded otherwise",
    "cells.type": "values are of another type",
    "cells.case": "upper and lower case differ",
    "cells.space": "blanks differ",
}
