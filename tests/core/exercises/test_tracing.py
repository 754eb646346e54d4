from __future__ import annotations

from collections import Counter

import apsw
import pytest
from hypothesis import given

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure, QueryOutcome
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.tracing import MOST_OVERRUNS, OTHERWISE, Traced, trace_query
from jentrow.core.results import ResultSet
from jentrow.core.sql.aggregates import aggregates_in
from jentrow.core.sql.parsing import parsed
from jentrow.core.sql.steps.steps import TOO_LARGE, UNREAD
from tests.core.sql.queries import queries


def trace(engine: SQLiteEngine, dataset: LoadedDataset, sql: str) -> Traced:
    return trace_query(engine, dataset, sql, Limits())


def told(traced: Traced) -> list[tuple[str, int | None]]:
    return [(step.kind, step.rows) for step in traced.steps]


def rows_of(engine: SQLiteEngine, dataset: LoadedDataset, sql: str) -> ResultSet:
    outcome = engine.run(dataset, sql, Limits())
    assert isinstance(outcome, ResultSet), outcome
    return outcome


@given(sql=queries())
def test_the_last_step_has_the_rows_of_the_query(
    sql: str, engine: SQLiteEngine, gauges: LoadedDataset
) -> None:
    traced = trace(engine, gauges, sql)
    assert traced.note == ""
    last = traced.steps[-1]
    own = rows_of(engine, gauges, sql)
    steps = rows_of(engine, gauges, last.sql)
    assert Counter(steps.rows) == Counter(own.rows)
    assert steps.names == own.names or "SELECT" in sql
    assert last.rows == len(own.rows)
    check_flow(engine, gauges, traced)


def check_flow(engine: SQLiteEngine, dataset: LoadedDataset, traced: Traced) -> None:
    """Each step counts what its query gives, and conditions sort all rows into three."""
    before = None
    for step in traced.steps:
        assert step.problem == ""
        given = rows_of(engine, dataset, step.sql)
        if step.beside == "truth":
            assert sum(step.parts.values()) == len(given.rows)
            assert step.parts["kept"] == step.rows
            assert [row[-1] for row in given.rows].count(None) == step.parts["unknown"]
            if step.kind == "where":
                assert len(given.rows) == before
        elif step.beside == "group":
            assert step.parts["rows"] == len(given.rows) == (before if before is not None else 0)
        else:
            assert step.rows == len(given.rows)
        if step.told:
            told = rows_of(engine, dataset, step.telling)
            width = len(given.columns) - bool(step.beside)
            plain = [row[:width] + row[len(row) - bool(step.beside) :] for row in told.rows]
            assert len(told.columns) == len(given.columns) + len(step.told)
            assert Counter(plain) == Counter(given.rows)
        if step.kind == "join" and before is not None:
            assert step.parts.get("lonely_before", 0) <= before
        before = step.rows
    for inner in traced.nested:
        check_flow(engine, dataset, inner)


def test_kept_false_and_unknown(engine: SQLiteEngine, gauges: LoadedDataset) -> None:
    traced = trace(engine, gauges, "SELECT name FROM gauges WHERE river <> 'Lind'")
    (where,) = [step for step in traced.steps if step.kind == "where"]
    assert where.parts == {"kept": 2, "false": 2, "unknown": 1}
    assert told(traced) == [("from", 5), ("where", 2), ("select", 2)]


@pytest.mark.parametrize(
    ("condition", "texts", "first"),
    [
        ("river = 'Sarn' AND level > 2", ["river = 'Sarn'", "level > 2"], (0, 0)),
        ("NOT (level > 2 OR river IS NULL)", ["level > 2", "river IS NULL"], (0, 0)),
        ("level > 2 OR (basin = 1 AND NOT level = 2)",
         ["level > 2", "basin = 1", "NOT level = 2"], (0, 1, 1)),
        ("level BETWEEN 1 AND 3", [], ()),
    ],
)  # fmt: skip
def test_each_part_of_a_condition_is_true_false_or_unknown(
    engine: SQLiteEngine, gauges: LoadedDataset, condition: str, texts: list[str], first: tuple
) -> None:
    traced = trace(engine, gauges, f"SELECT name FROM gauges WHERE {condition}")
    (where,) = [step for step in traced.steps if step.kind == "where"]
    assert [(one.what, one.text) for one in where.told] == [("truth", text) for text in texts]
    if texts:
        rows = rows_of(engine, gauges, where.telling).rows
        assert rows[0][4:-1] == first
        if "river =" in condition:
            assert rows[3][4:-1] == (None, 1)  # the river is not known, the level is


def test_which_branch_of_a_case_was_taken(engine: SQLiteEngine, gauges: LoadedDataset) -> None:
    case = "CASE WHEN level > 3 THEN 'high' WHEN level > 2 THEN 'middle' ELSE 'low' END"
    traced = trace(engine, gauges, f"SELECT name, {case} AS size FROM gauges ORDER BY level")
    (select,) = [step for step in traced.steps if step.kind == "select"]
    ((what, text, branches),) = [(one.what, one.text, one.branches) for one in select.told]
    assert (what, text, branches) == ("branch", "size", ("level > 3", "level > 2"))
    assert select.told[0].otherwise
    rows = rows_of(engine, gauges, select.telling).rows
    assert {row[1:] for row in rows} == {("low", 0), ("middle", 2), ("high", 1)}
    within = trace(engine, gauges, f"SELECT COUNT({case}) FROM gauges")
    assert [step.told for step in within.steps if step.kind == "select"] == [()]


@pytest.mark.parametrize(
    ("join", "parts"),
    [
        ("gauges g JOIN readings r ON r.gauge = g.name", {"lonely_before": 3, "lonely_joined": 1}),
        ("gauges g LEFT JOIN readings r ON r.gauge = g.name AND r.flow > 7",
         {"lonely_before": 4, "lonely_joined": 3}),
        ("gauges AS a JOIN gauges AS b USING (basin)", {"lonely_before": 0, "lonely_joined": 0}),
        ("gauges JOIN (SELECT gauge FROM readings WHERE flow IS NULL) AS dry ON dry.gauge = name",
         {"lonely_before": 5, "lonely_joined": 1}),
        ("gauges CROSS JOIN readings", {}),
        ("gauges, readings", {}),
    ],
)  # fmt: skip
def test_a_join_says_which_rows_have_no_partner(
    engine: SQLiteEngine, gauges: LoadedDataset, join: str, parts: dict[str, int]
) -> None:
    traced = trace(engine, gauges, f"SELECT 1 FROM {join}")
    (step,) = [step for step in traced.steps if step.kind == "join"]
    assert step.parts == parts


def test_groups_hold_their_rows(engine: SQLiteEngine, gauges: LoadedDataset) -> None:
    sql = "SELECT name, COUNT(*) AS n FROM gauges GROUP BY name HAVING n > 1 ORDER BY n"
    traced = trace(engine, gauges, sql)
    assert told(traced) == [
        ("from", 5), ("group", 3), ("having", 2), ("select", 2), ("order", 2)
    ]  # fmt: skip
    group = rows_of(engine, gauges, traced.steps[1].sql)
    # The column's own collation makes the groups, and NULL is a group.
    assert [(row[0], row[-1]) for row in group.rows] == [
        (None, 1), ("Auwehr", 2), ("auwehr", 2), ("Brugg", 3), ("brugg", 3)
    ]  # fmt: skip


def test_a_recursion_shows_its_rounds(engine: SQLiteEngine, gauges: LoadedDataset) -> None:
    sql = "WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n WHERE x < 4) SELECT x FROM n"
    (cte,) = trace(engine, gauges, sql).nested
    assert [(step.kind, step.rows, step.parts) for step in cte.steps] == [
        ("rounds", 4, {"rounds": 4})
    ]
    rounds = rows_of(engine, gauges, cte.steps[0].sql)
    assert list(rounds.rows) == [(1, 0), (2, 1), (3, 2), (4, 3)]
    anchor, again = cte.nested
    assert told(anchor) == [("select", 1)]
    assert "round before" in again.note
    # Without repeats being kept, a number of the round would make rows differ that are the same.
    (cte,) = trace(engine, gauges, sql.replace("UNION ALL", "UNION")).nested
    assert [(step.beside, step.rows) for step in cte.steps] == [("", 4)]


def test_operands_and_subqueries_have_traces(engine: SQLiteEngine, gauges: LoadedDataset) -> None:
    sql = (
        "SELECT river FROM gauges WHERE level > (SELECT AVG(level) FROM gauges) "
        "UNION ALL SELECT gauge FROM readings r WHERE EXISTS (SELECT 1 FROM gauges g "
        "WHERE g.name = r.gauge) EXCEPT SELECT NULL"
    )
    traced = trace(engine, gauges, sql)
    assert told(traced) == [("operand", 2), ("operand", 6), ("operand", 3)]
    assert [inner.name for inner in traced.nested] == ["", "UNION ALL", "EXCEPT"]
    first, second, _ = traced.nested
    assert [inner.note for inner in first.nested] == [""]
    assert "r.gauge" in second.nested[0].note
    assert second.nested[0].steps == ()


@pytest.mark.parametrize(
    ("sql", "note", "steps"),
    [
        ("VALUES (1), (2)", UNREAD, 0),
        ("SELECT RANDOM() FROM gauges", OTHERWISE, 0),
        ("SELECT name FROM nowhere WHERE x = 1", "does not run", 3),
        ("SELECT FROM WHERE", UNREAD, 0),
    ],
)
def test_what_cannot_be_taken_apart_says_so(
    sql: str, note: str, steps: int, engine: SQLiteEngine, gauges: LoadedDataset
) -> None:
    traced = trace(engine, gauges, sql)
    assert note in traced.note
    assert len(traced.steps) == steps
    assert all(step.problem for step in traced.steps)


def test_clauses_stand_as_they_were_written(engine: SQLiteEngine, gauges: LoadedDataset) -> None:
    sql = """select name,
       case when level > 2 then 'high' end as  water   -- in words
from gauges g left  join readings r on r.gauge = g.name
where name is not null and basin in (select basin from gauges where level > 1)
group by name, level having count(*) > 0
order by name limit 3 offset 1"""
    traced = trace(engine, gauges, sql)
    assert [step.clause for step in traced.steps] == [
        "from gauges g",
        "left  join readings r on r.gauge = g.name",
        "where name is not null and basin in (select basin from gauges where level > 1)",
        "group by name, level",
        "having count(*) > 0",
        "select name,\n       case when level > 2 then 'high' end as  water",
        "order by name",
        "limit 3 offset 1",
    ]
    (inner,) = traced.nested
    assert [step.clause for step in inner.steps] == [
        "from gauges", "where level > 1", "select basin"
    ]  # fmt: skip
    by_comma = trace(engine, gauges, "SELECT 1 FROM gauges, readings WHERE 1 = 1")
    assert [step.clause for step in by_comma.steps][:2] == ["FROM gauges", ", readings"]


@pytest.mark.parametrize(
    ("sql", "groups"),
    [
        ("SELECT river, COUNT(*) FROM gauges WHERE level > 99 GROUP BY river", 0),
        ("SELECT COUNT(*) FROM gauges WHERE level > 99", 1),
        ("SELECT TOTAL(level) FROM gauges", 1),
        ("SELECT river, TOTAL(level) FROM gauges GROUP BY river; -- by river", 3),
        ("SELECT hex(jsonb_group_array(level)) FROM gauges", 1),
        ("SELECT median(level) FROM gauges HAVING TOTAL(level) > 1", 1),
    ],
)
def test_how_many_groups_there_are(
    engine: SQLiteEngine, gauges: LoadedDataset, sql: str, groups: int
) -> None:
    traced = trace(engine, gauges, sql)
    assert traced.note == ""
    assert ("group", groups) in told(traced)


def test_every_aggregate_of_the_engine_groups() -> None:
    connection = apsw.Connection(":memory:")
    names = connection.execute("SELECT name FROM pragma_function_list WHERE type IN ('a', 'w')")
    windows_only = {"cume_dist", "dense_rank", "first_value", "lag", "last_value", "lead"}
    windows_only |= {"nth_value", "ntile", "percent_rank", "rank", "row_number"}
    for name in {name for (name,) in names} - windows_only:
        tree = parsed(f"SELECT 1 + {name}(level) FROM gauges", "sqlite")
        assert tree is not None
        assert len(list(aggregates_in(tree.selects[0]))) == 1, name


@pytest.mark.parametrize(
    "sql",
    [
        "SELECT * FROM gauges " + "JOIN gauges USING (name) " * 500,
        " UNION ".join(["SELECT name FROM gauges"] * 400),
        f"SELECT name FROM gauges WHERE basin IN ({', '.join(map(str, range(4_000)))})",
    ],
)
def test_what_has_too_many_parts_is_not_taken_apart(
    engine: SQLiteEngine, gauges: LoadedDataset, sql: str
) -> None:
    traced = trace(engine, gauges, sql)
    assert traced.note == TOO_LARGE
    assert not traced.steps
    assert not traced.nested


class _Slow:
    """An engine on which whatever counts takes too long, and that says what it was asked."""

    dialect = "sqlite"

    def __init__(self) -> None:
        self.asked: list[str] = []

    def run(self, dataset: LoadedDataset, sql: str, limits: Limits) -> QueryOutcome:
        self.asked.append(sql)
        return QueryFailure("stopped", "limit.time", "It took too long.")

    def show(self, dataset: LoadedDataset, sql: str, limits: Limits, most: int) -> QueryOutcome:
        return self.run(dataset, sql, limits)

    def same_rows(
        self, dataset: LoadedDataset, queries: tuple[str, str], limits: Limits
    ) -> QueryOutcome:
        return self.run(dataset, queries[0], limits)


def test_a_trace_that_overruns_again_and_again_is_given_up(gauges: LoadedDataset) -> None:
    slow = _Slow()
    sql = "SELECT * FROM gauges " + "JOIN gauges USING (name) " * 20
    traced = trace_query(slow, gauges, sql, Limits())  # type: ignore[arg-type]
    assert len(slow.asked) <= MOST_OVERRUNS + 2
    assert traced.note == "The query itself does not run: It took too long."
    assert {step.problem for step in traced.steps} <= {"", "It took too long."}
    assert len(traced.steps) > MOST_OVERRUNS
