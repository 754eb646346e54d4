"""What an instructor should know of an exercise that works: the closed list of warnings."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Final, Literal, TypeAlias

from sqlglot import exp

from jentrow.core.engines.labels import STAND_INS
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.engine_choices import chosen_by_engine
from jentrow.core.exercises.grading.textfacts import SLASH_DIVIDES_WHOLE
from jentrow.core.exercises.textrules import broken_constructs
from jentrow.core.results import ResultSet
from jentrow.core.sql.constructs import Reading, read_query, written_name
from jentrow.core.sql.freedom.moments import ARGUMENTS_OF_CLOCKS, CHANCE, CLOCKS, CLOCKS_BY_ABSENCE
from jentrow.core.sql.scopes import table_columns
from jentrow.core.sql.stand_ins.stand_in import stood_in
from jentrow.core.sql.tokens import tokens_of
from jentrow.core.words import counted

WarningCode: TypeAlias = Literal[
    "reference.no_rows",
    "reference.one_row",
    "datasets.same_result",
    "limit.cuts_tie",
    "order.missing",
    "order.unknown_ties",
    "order.case",
    "like.case",
    "reference.arbitrary",
    "reference.whole_division",
    "reference.translated",
    "function.changes",
    "text.unread",
    "constructs.broken",
    "columns.same_name",
    "attempts.unlimited",
]

WARNING_WORDS: Final[dict[WarningCode, str]] = {
    "reference.no_rows": "the reference answer gives no rows on a dataset",
    "reference.one_row": "the reference answer gives one row on a dataset",
    "datasets.same_result": "another exercise's reference answer gives the same on a dataset",
    "limit.cuts_tie": "a LIMIT cuts through a tie: several results are right",
    "order.missing": "the prompt asks for an order, and the reference answer has no ORDER BY",
    "order.unknown_ties": "which rows tie could not be found out",
    "order.case": "an order without regard to letter case cannot be asked of the reference answer",
    "like.case": "LIKE cannot be told to mind letter case on the exercise's engine",
    "reference.arbitrary": "the reference answer leaves a value to the engine",
    "reference.whole_division": "the reference answer divides whole numbers",
    "reference.translated": "the reference answer may mean something else, or nothing, on its own engine",
    "function.changes": "a function whose value changes from run to run",
    "text.unread": "the reference answer cannot be read for constructs and steps",
    "constructs.broken": "the reference answer breaks the exercise's own construct rules",
    "columns.same_name": "columns of the result have the same name",
    "attempts.unlimited": "verdicts on held-back data may be asked for any number of times",
}
"""The closed list, with what each one means."""


@dataclass(frozen=True, slots=True)
class Warning:
    """One thing to know, in words."""

    code: WarningCode
    message: str

    def to_json(self) -> dict[str, str]:
        """The warning as ``jentrow check --json`` prints it."""
        return {"code": self.code, "message": self.message}


def warnings_of(grader: Grader, others: Sequence[Grader] = ()) -> tuple[Warning, ...]:
    """The warnings of an exercise; ``others`` are graders of exercises on the same sample."""
    exercise = grader.exercise
    columns = table_columns(grader.datasets[0].columns)
    reading = read_query(exercise.reference, grader.dialect, columns)
    return (
        *_few_rows(grader),
        *_same_results(grader, others),
        *_ties(grader),
        *_order(grader),
        *_caseless_order(grader),
        *_case_of_like(grader),
        *_left_to_the_engine(grader),
        *_whole_division(grader),
        *_translated(grader),
        *(_changing(reading) if reading else ()),
        *(_own_constructs(grader, reading) if reading else (_unread(),)),
        *_same_names(grader),
    )


def _unread() -> Warning:
    return Warning(
        "text.unread",
        "The reference answer runs, but cannot be read: there are no steps of it, and its constructs "
        "and the functions that it calls are not known.",
    )


def _on(grader: Grader, at: int) -> str:
    return "the open data" if at == 0 else f"the dataset {grader.dataset_names[at]}"


def _left_to_the_engine(grader: Grader) -> Iterator[Warning]:
    sql = grader.exercise.reference
    ran = grader.expectations[0][0].result
    for finding in chosen_by_engine(grader.run, sql, ran, grader.dialect):
        yield Warning(
            "reference.arbitrary",
            f"In the reference answer, {finding.message[0].lower()}{finding.message[1:]} An answer that "
            "leads to another one is marked wrong.",
        )


def _whole_division(grader: Grader) -> Iterator[Warning]:
    """With every division made one of fractions, the reference must give the same."""
    if grader.dialect not in SLASH_DIVIDES_WHOLE:
        return
    sql = grader.exercise.reference
    slashes = [token.start for token in tokens_of(sql, grader.dialect) if token.word == "/"]
    if not slashes:
        return
    exact = sql
    for at in reversed(slashes):
        exact = f"{exact[:at]}* 1.0 {exact[at:]}"
    ran = grader.run(exact)
    if not isinstance(ran, ResultSet):
        return
    whole = grader.expectations[0][0].result
    if _numbers_of(whole) == _numbers_of(ran):
        return
    decimals = ": a column of DECIMAL holds 25.00 as 25, too" if grader.dialect == "sqlite" else ""
    yield Warning(
        "reference.whole_division",
        f"The reference answer divides whole numbers, and what is left over is dropped{decimals}. Its "
        "result "
        f"({counted(len(whole.rows), 'row')}) would be another with * 1.0 before each /, and answers "
        "that keep the fraction are marked wrong.",
    )


def _translated(grader: Grader) -> Iterator[Warning]:
    """On a stand-in, what of the reference its own engine may not take or may mean otherwise."""
    if grader.exercise.engine not in STAND_INS:
        return
    reference = grader.exercise.reference
    made = [stood_in(grader.dialect, reference, one.kinds) for one in grader.datasets]
    for note in dict.fromkeys(note for one in made for note in one.notes):
        yield Warning(
            "reference.translated",
            f"It is not sure that the reference answer gives this on its own engine: {note}",
        )


def _numbers_of(result: ResultSet) -> Counter[tuple[object, ...]]:
    """The rows as a bag, in which 2 is 2.0."""
    return Counter(
        tuple(
            round(float(value), 9) if isinstance(value, int | float | Decimal) else value
            for value in row
        )
        for row in result.rows
    )


def _few_rows(grader: Grader) -> Iterator[Warning]:
    for at, expected in enumerate(grader.expectations[0]):
        count = len(expected.result.rows)
        if count == 0:
            yield Warning(
                "reference.no_rows",
                f"On {_on(grader, at)} the reference answer gives no rows: every query that gives "
                "none passes there.",
            )
        elif count == 1:
            yield Warning(
                "reference.one_row",
                f"On {_on(grader, at)} the reference answer gives one row: a wrong query easily "
                "gives the same.",
            )


def _same_results(grader: Grader, others: Sequence[Grader]) -> Iterator[Warning]:
    ours = grader.exercise
    beside = [
        other.exercise
        for other in others
        if other.exercise.id != ours.id
        and other.exercise.sample == ours.sample
        and _squeezed(other.exercise.reference) != _squeezed(ours.reference)
    ]
    outcomes = dict(grader.grade_many([theirs.reference for theirs in beside]))
    for place, theirs in enumerate(beside):
        for at, one in enumerate(outcomes[place].datasets):
            if one.verdict == "correct":
                yield Warning(
                    "datasets.same_result",
                    f"On {_on(grader, at)} the reference answer of {theirs.title} gives the same "
                    "result: this dataset cannot tell the two queries apart.",
                )


def unlimited_attempts(datasets: Sequence[str], sheets: Sequence[str]) -> tuple[Warning, ...]:
    """What to know where ``sheets`` allow any number of attempts, and some ``datasets`` are held back."""
    if len(datasets) < 2 or not sheets:
        return ()
    return (
        Warning(
            "attempts.unlimited",
            f"On {', '.join(sheets)} there is any number of attempts: with a query for each question, a "
            "learner can read the held-back data out by its verdicts. Give the sheet a number.",
        ),
    )


def _squeezed(sql: str) -> str:
    return " ".join(sql.lower().rstrip("; \n").split())


def _ties(grader: Grader) -> Iterator[Warning]:
    for at, expected in enumerate(grader.expectations[0]):
        if expected.cuts_a_tie:
            yield Warning(
                "limit.cuts_tie",
                f"On {_on(grader, at)} the LIMIT cuts through a tie: which of the tied rows come is "
                "left open, and each choice is accepted. Another key in ORDER BY decides it.",
            )
        if not expected.ties_known:
            yield Warning(
                "order.unknown_ties",
                f"On {_on(grader, at)} nobody can say which rows tie: an answer with the same rows in "
                "another sequence is undecided, and waits for you. Order by what the result shows, or "
                "let row_order be ignore.",
            )


def _caseless_order(grader: Grader) -> Iterator[Warning]:
    if grader.exercise.rules.comparison.order_case == "ignore" and not grader.measure.ignores_case:
        yield Warning(
            "order.case",
            "order_case is ignore, and changes nothing: the reference answer has no ORDER BY, or its "
            "engine sorts so anyway, or cannot sort what it is ordered by without regard to case.",
        )


def _case_of_like(grader: Grader) -> Iterator[Warning]:
    if grader.exercise.rules.limits.minds_case and grader.dialect == "mysql":
        yield Warning(
            "like.case",
            "like_case is exact, and changes nothing: on MariaDB LIKE compares as its column is "
            "collated.",
        )


_ASKED: Final = re.compile(
    r"\b(?:order|sort)(?:ed)?\b[^.]{0,40}?\bby\b|\bsort(?:ed)?\b|\balphabetical(?:ly)?\b"
    r"|\bchronological(?:ly)?\b|\b(?:ascending|descending)\b"
    r"|\b(?:high|low|large|small|lat|earli|new|old|long|short|few|bigg|deep|near)(?:er|est)\b"
    r"[^.]{0,40}?\bfirst\b|\b(?:most|least|last)\b[^.]{0,40}?\bfirst\b",
    re.IGNORECASE,
)
_FREE: Final = re.compile(
    r"\bany order\b|\border\b[^.]{0,40}\bnot (?:matter|count)\b|\bno (?:particular )?order\b"
    r"|\bneed not be (?:sort|order)ed\b",
    re.IGNORECASE,
)


def asks_for_order(prompt: str) -> bool:
    """Whether a sentence of a prompt asks for an order of the rows."""
    plain = re.sub(r"[*_`]", "", prompt)
    return any(
        _ASKED.search(sentence) and not _FREE.search(sentence)
        for sentence in re.split(r"(?<=[.!?:])\s+", plain)
    )


def _order(grader: Grader) -> Iterator[Warning]:
    if asks_for_order(grader.exercise.prompt) and not grader.expectations[0][0].ordered:
        yield Warning(
            "order.missing",
            "The prompt asks for an order, and the reference answer has no ORDER BY: any order "
            "passes.",
        )


_CHANGING: Final = CHANCE | CLOCKS | {"changes", "total_changes", "last_insert_rowid"}


def _changing(reading: Reading) -> Iterator[Warning]:
    names = dict.fromkeys(_changing_names(reading))
    for name in names:
        yield Warning(
            "function.changes",
            f"{name} changes from run to run: the same answer may be right today and wrong "
            "tomorrow.",
        )


def _changing_names(reading: Reading) -> Iterator[str]:
    for node in reading.tree.find_all(exp.Func):
        otherwise = node.name if isinstance(node, exp.Anonymous) else type(node).sql_names()[0]
        name = written_name(reading, node) or otherwise
        texts = [one for one in node.find_all(exp.Literal) if one.is_string]
        is_now = not list(node.iter_expressions()) or any(
            one.name.lower() == "now" for one in texts
        )
        most = ARGUMENTS_OF_CLOCKS.get(name.lower())
        if most is not None and len(list(node.iter_expressions())) > most:
            continue
        if name.lower() in _CHANGING or (name.lower() in CLOCKS_BY_ABSENCE and is_now):
            yield name.upper()


def _own_constructs(grader: Grader, reading: Reading) -> Iterator[Warning]:
    for rule, _ in broken_constructs(reading, grader.exercise.constructs):
        asked = "asks for" if rule.demand == "require" else "forbids"
        does = "does not use it" if rule.demand == "require" else "uses it"
        yield Warning(
            "constructs.broken",
            f"The exercise {asked} {rule.words}, and the reference answer {does}.",
        )


def _same_names(grader: Grader) -> Iterator[Warning]:
    names = Counter(name.lower() for name in grader.expectations[0][0].result.names)
    twice = [name for name, count in names.items() if count > 1]
    if twice:
        yield Warning(
            "columns.same_name",
            f"Several columns of the reference answer are called {', '.join(twice)}: learners "
            "cannot tell them apart by name.",
        )
