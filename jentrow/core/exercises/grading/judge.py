"""Judging: what an answer's query gave on each dataset, held against what is due.

compare → choose the answer that stands → find → explain → mark. Nothing runs here: rows come in, an
outcome goes out.
"""

from __future__ import annotations

import marshal
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field, replace
from typing import Final

from jentrow.core.comparison.causes import TextFacts
from jentrow.core.comparison.cells import ComparisonTooLong
from jentrow.core.comparison.compare import Comparison, compare
from jentrow.core.comparison.findings import Finding
from jentrow.core.comparison.shares import ResultShares, full_shares, nothing_right, shares_of
from jentrow.core.comparison.woven import SHOWN_ROWS, woven_view
from jentrow.core.engines.labels import STAND_INS
from jentrow.core.engines.protocol import QueryFailure, QueryOutcome
from jentrow.core.errors import ReferenceFails
from jentrow.core.exercises.exercise import Verdict
from jentrow.core.exercises.grading.dataset_findings import comparison_findings, failure_finding
from jentrow.core.exercises.grading.digests import (
    expected_without_long_cells,
    failure_digest,
    result_digest,
    without_long_cells,
)
from jentrow.core.exercises.grading.measure import Measure
from jentrow.core.exercises.grading.outcomes import (
    DatasetOutcome,
    Looked,
    Outcome,
    Shape,
    Undecided,
)
from jentrow.core.exercises.grading.remarks import remarked
from jentrow.core.exercises.grading.textfacts import text_facts
from jentrow.core.exercises.grading.textmarks import TextJudge
from jentrow.core.exercises.markscheme import LedgerLine, Sum, TextParts, settle
from jentrow.core.exercises.showing import told_names
from jentrow.core.results import Expectation, ResultSet
from jentrow.core.sql.remarks import Remark, remarks_on
from jentrow.core.sql.stand_ins.stand_in import may_run_elsewhere, stood_in

KEPT_JUDGEMENTS: Final = 1_000
"""Different results whose judgements are kept: many learners get one and the same."""

KEPT_NAMINGS: Final = 50
"""Of how many namings of its columns it is kept what is told of such a judgement."""

KEPT_ROWS: Final = 500
"""What larger results came to is not kept."""

COMPARING_TOO_LONG: Final = (
    "Comparing the result with what is due was stopped: so many rows are nearly alike that it "
    "takes too long. Fewer rows, or exact values, can be compared."
)
COMPARING_TOO_LARGE: Final = (
    "Comparing the result with what is due was stopped: it is too large to be compared."
)

_Held = Comparison | QueryFailure


@dataclass(frozen=True)
class Judgement:
    """What a result came to, with its comparisons: the text's part is still to come."""

    verdict: Verdict
    answer: int
    held: tuple[_Held, ...]
    shares: ResultShares | None
    mark: float
    ledger: tuple[LedgerLine, ...]
    undecided: Undecided
    digests: tuple[str, ...]
    told: dict[Hashable, Outcome] = field(default_factory=dict, compare=False, repr=False)
    """What was told of it where the text says nothing, explained or not; and by column names."""


class Judge:
    """Judges the answers to one exercise by its measure."""

    def __init__(self, measure: Measure) -> None:
        self._measure = measure
        self._exercise = measure.exercise
        self._rules = measure.exercise.rules.comparison
        self._cell_bytes = measure.exercise.rules.limits.cell_bytes
        self._expectations: list[list[Expectation]] = [
            [expected_without_long_cells(one, self._rules, self._cell_bytes) for one in expected]
            for expected in measure.expectations
        ]
        self._text = TextJudge(measure.exercise, measure.dialect, measure.datasets[0].columns)
        self._on_a_stand_in = measure.exercise.engine in STAND_INS
        self._widths = {len(expected[0].result.columns) for expected in self._expectations}
        self._known: dict[Hashable, Judgement] = {}

    def check(self) -> None:
        """Compares each answer with itself: unusable rules show here, not at the first learner.

        Raises :class:`ReferenceFails`.
        """
        for answer, expected in enumerate(self._expectations):
            try:
                compare(
                    expected[0],
                    expected[0].result,
                    self._rules,
                    reference=self._expectations[0][0],
                )
            except ReferenceFails as problem:
                raise ReferenceFails(f"{self._measure.called(answer)}: {problem}") from problem

    def outcome(self, sql: str, ran: Sequence[QueryOutcome], *, explained: bool = True) -> Outcome:
        """What an answer came to, from what its query gave on each dataset, the open one first."""
        short = self._without_long_cells(ran)
        judged = self._judgement(short)
        if self._is_text_read(judged, explained=explained):
            return self._outcome(sql, short, judged, explained=explained)
        alike = judged.told.get(explained)
        if alike is None:
            alike = judged.told[explained] = self._outcome(sql, short, judged, explained=explained)
        if not explained:
            return alike
        names = tuple([None if isinstance(one, QueryFailure) else one.names for one in short])
        known = judged.told.get(names)
        if known is None:
            known = _under_names(alike, names)
            if len(judged.told) < KEPT_NAMINGS:
                judged.told[names] = known
        return known

    def _is_text_read(self, judged: Judgement, *, explained: bool) -> bool:
        """Whether an answer's text can add anything to what its results came to."""
        return (
            (explained and judged.verdict == "incorrect")
            or (judged.shares is not None and self._text.has_rules)
            or self._on_a_stand_in
        )

    def _translation_in_doubt(self, sql: str, ran: Sequence[QueryOutcome]) -> bool:
        """Whether what ran on a stand-in may not be what the text means; never on any other engine."""
        if not self._on_a_stand_in:
            return False
        dialect = self._measure.dialect
        # What a text may not mean depends on the rows: on blanks at the ends of their texts.
        made = [stood_in(dialect, sql, one.kinds) for one in self._measure.datasets]
        if any(one.notes for one in made):
            return True
        return any(
            isinstance(one, QueryFailure)
            and one.verdict == "error"
            and may_run_elsewhere(dialect, sql, made[0], one.code, one.engine_words)
            for one in ran
        )

    def looked_at(
        self,
        sql: str,
        ran: Sequence[QueryOutcome],
        dataset: int,
        most: int = SHOWN_ROWS,
        *,
        for_learner: bool = False,
    ) -> Looked:
        """The same with the rows of one dataset woven, ``most`` of them.

        For a learner only what differs is woven, and columns without an alias are not called by
        the reference's own text.
        """
        short = self._without_long_cells(ran)
        judgement = self._judgement(short)
        held, given = judgement.held[dataset], short[dataset]
        woven = None
        if isinstance(held, Comparison) and isinstance(given, ResultSet):
            # The same rows may have been judged under other names, where names do not matter.
            held = held.renamed(given.columns)
            names = told_names(held.expectation.result) if for_learner else ()
            woven = woven_view(held, names, most, differing_only=for_learner)
        return Looked(self._outcome(sql, short, judgement), woven)

    def _without_long_cells(self, ran: Sequence[QueryOutcome]) -> list[QueryOutcome]:
        return [
            one
            if isinstance(one, QueryFailure)
            else without_long_cells(one, self._rules, self._cell_bytes)
            for one in ran
        ]

    # the result

    def _judgement(self, ran: Sequence[QueryOutcome]) -> Judgement:
        """Judges a result; many learners get one and the same, and it is judged once."""
        if sum(len(one.rows) for one in ran if isinstance(one, ResultSet)) > KEPT_ROWS:
            return self._judged(ran)
        key = tuple(_identity(one, self._names_matter(one)) for one in ran)
        known = self._known.get(key)
        if known is not None:
            return known
        if len(self._known) >= KEPT_JUDGEMENTS:
            self._known.clear()
        judged = self._known[key] = self._judged(ran)
        return judged

    def _judged(self, ran: Sequence[QueryOutcome]) -> Judgement:
        failure = next((one for one in ran if isinstance(one, QueryFailure)), None)
        candidates: list[tuple[_Held, ...]] = []
        for expected in self._expectations if failure is None else self._expectations[:1]:
            held = tuple(self._held_against(expected, at, one) for at, one in enumerate(ran))
            candidates.append(held)
            if _all_right(held):
                break
        best = self._best(candidates)
        held = candidates[best]
        failure = failure or _failure_in(held)
        verdict: Verdict = "correct"
        if failure is not None:
            verdict = failure.verdict
        elif not _all_right(held):
            verdict = "incorrect"
        shares = None if failure is not None else self._shares(held)
        settled = self._settled(verdict, shares, TextParts())
        undecided: Undecided = "row_order" if _is_in_doubt(held) else ""
        digests = tuple(map(self._digest, ran, held))
        return Judgement(
            verdict, best, held, shares, settled.mark, settled.ledger, undecided, digests
        )

    def _held_against(self, expected: list[Expectation], at: int, ran: QueryOutcome) -> _Held:
        if isinstance(ran, QueryFailure):
            return ran
        try:
            return compare(expected[at], ran, self._rules, reference=self._expectations[0][at])
        except ComparisonTooLong:
            return QueryFailure("stopped", "limit.time", COMPARING_TOO_LONG)

    def _best(self, candidates: list[tuple[_Held, ...]]) -> int:
        """The answer whose outcome stands: one that is met, or may be; else the nearest.

        Where comparing with any of them was stopped, nobody knows, and that stands.
        """
        last = len(candidates) - 1
        if _all_right(candidates[last]):
            return last
        for at, held in enumerate(candidates):
            if _failure_in(held) is not None:
                return at
        for at, held in enumerate(candidates):
            if _is_in_doubt(held):
                return at
        return self._nearest(candidates)

    def _nearest(self, candidates: list[tuple[_Held, ...]]) -> int:
        """The answer that a wrong result comes nearest to: by its mark, then by the difference."""

        def farness(at: int) -> tuple[float, ...]:
            if self._exercise.marks.kind == "all_or_nothing":  # none of them earns anything
                return _distance(candidates[at])
            shares = self._shares(candidates[at])
            earned = self._settled("incorrect", shares, TextParts()).mark
            return (-earned, *_distance(candidates[at]))

        return min(range(len(candidates)), key=farness) if len(candidates) > 1 else 0

    def _shares(self, held: tuple[_Held, ...]) -> ResultShares:
        """The smallest right shares over all datasets; worked out where marks need them."""
        shares: ResultShares | None = None
        for one in held:
            if isinstance(one, QueryFailure):
                continue
            if one.verdict != "correct" and self._exercise.marks.kind == "all_or_nothing":
                return nothing_right(full_shares(one))
            found = shares_of(one)
            shares = found if shares is None else shares.least(found)
        return shares or ResultShares()

    def _settled(self, verdict: Verdict, shares: ResultShares | None, text: TextParts) -> Sum:
        return settle(self._exercise.points, self._exercise.marks, verdict, shares, text)

    def _names_matter(self, ran: QueryOutcome) -> bool:
        """Whether the names of a result's columns can change what is found in it."""
        return (
            self._names_count or isinstance(ran, QueryFailure) or self._widths != {len(ran.columns)}
        )

    @property
    def _names_count(self) -> bool:
        rules = self._rules
        return rules.column_names != "ignore" or rules.column_order == "any"

    # the outcome

    def _outcome(
        self,
        sql: str,
        ran: Sequence[QueryOutcome],
        judged: Judgement,
        *,
        explained: bool = True,
    ) -> Outcome:
        """What is told of a judgement, with what the answer's own text adds to it."""
        read = explained and judged.verdict == "incorrect"
        facts = text_facts(sql, self._measure.dialect) if read else TextFacts()
        remarks = remarks_on(sql, self._measure.dialect) if read else ()
        outcome = Outcome(
            judged.verdict,
            judged.mark,
            self._measure.answers[judged.answer].name,
            self._told_findings(judged, facts, remarks),
            tuple(self._on_dataset(at, ran[at], judged, named=explained) for at in range(len(ran))),
            judged.ledger,
            judged.undecided or ("translation" if self._translation_in_doubt(sql, ran) else ""),
            explained or judged.verdict not in ("correct", "incorrect"),
        )
        if judged.shares is None or not self._text.has_rules:
            return outcome
        parts, more = self._text.judge(sql)
        settled = self._settled(judged.verdict, judged.shares, parts)
        return replace(
            outcome,
            mark=settled.mark,
            ledger=settled.ledger,
            findings=(*outcome.findings, *more),
            undecided=outcome.undecided or ("constructs" if parts.unread else ""),
        )

    def _on_dataset(
        self, at: int, ran: QueryOutcome, judged: Judgement, *, named: bool
    ) -> DatasetOutcome:
        held = judged.held[at]
        due = self._expectations[judged.answer][at].result
        given = None
        if not isinstance(ran, QueryFailure):
            given = Shape(ran.names if named else (), len(ran.rows))
        stopped = isinstance(held, QueryFailure)
        return DatasetOutcome(
            self._measure.dataset_names[at],
            at == 0,
            held.verdict,
            "" if isinstance(held, QueryFailure) else held.undecided,
            Shape(due.names, len(due.rows)),
            None if stopped else given,
            judged.digests[at],
            held if isinstance(held, QueryFailure) else None,
        )

    def _digest(self, ran: QueryOutcome, held: _Held) -> str:
        if isinstance(ran, QueryFailure):
            return failure_digest(ran)
        in_order = isinstance(held, QueryFailure) or held.mode != "free"
        return result_digest(ran, in_order=in_order, with_names=self._names_matter(ran))

    def _told_findings(
        self, judged: Judgement, facts: TextFacts, remarks: Sequence[Remark]
    ) -> tuple[Finding, ...]:
        if judged.verdict == "correct":
            return ()
        return tuple(self._findings(judged.held, facts, remarks))

    def _findings(
        self, held: tuple[_Held, ...], facts: TextFacts, remarks: Sequence[Remark]
    ) -> list[Finding]:
        """What is found, and said of an answer whose text holds these facts."""
        sizes = {name.casefold(): rows for name, rows in self._measure.datasets[0].table_rows}
        failed = _failure_in(held) is not None
        found: list[Finding] = []
        for at, one in enumerate(held):
            name = self._measure.dataset_names[at]
            if isinstance(one, QueryFailure):
                found.append(failure_finding(one, at, name))
                # The same text fails alike everywhere: said once is enough.
                break
            if failed or one.verdict == "correct":
                continue
            found += comparison_findings(one, at, name, facts, sizes, found)
            if at == 0:
                found = remarked(found, remarks, one)
        return found


def _under_names(outcome: Outcome, names: Sequence[tuple[str, ...] | None]) -> Outcome:
    """What the same rows come to under other names, where names change nothing that is found."""
    datasets = [
        replace(one, given=Shape(called, one.given.row_count)) if called and one.given else one
        for one, called in zip(outcome.datasets, names, strict=True)
    ]
    return replace(outcome, datasets=tuple(datasets))


def _identity(ran: QueryOutcome, names_matter: bool) -> Hashable:
    """Equal for results that are the same to the bit, types and order included."""
    if isinstance(ran, QueryFailure):
        return ran
    names = ran.names if names_matter else len(ran.columns)
    try:
        return names, marshal.dumps(list(ran.rows))
    except ValueError:  # a value that only some engines have
        return names, repr(ran.rows)


def _distance(held: tuple[_Held, ...]) -> tuple[float, ...]:
    """Fewer wrong datasets first, then the smaller difference on the open one."""
    wrong = [one for one in held if one.verdict != "correct"]
    opened = held[0]
    size = opened.distance if wrong and isinstance(opened, Comparison) else (0,)
    return (len(wrong), *size)


def _all_right(held: tuple[_Held, ...]) -> bool:
    return all(one.verdict == "correct" for one in held)


def _failure_in(held: tuple[_Held, ...]) -> QueryFailure | None:
    return next((one for one in held if isinstance(one, QueryFailure)), None)


def _is_in_doubt(held: tuple[_Held, ...]) -> bool:
    """Whether nothing but unknown ties stands against an answer."""
    doubtful = [one for one in held if isinstance(one, Comparison) and one.undecided]
    wrong = [one for one in held if one.verdict != "correct"]
    return bool(doubtful) and len(doubtful) == len(wrong)
