"""A small mutation run over what verdicts and marks rest on: does any test notice a changed line?

    python -m tests.mutants [--sample 200] [--seed 1] [--only columns] [--jobs 2]

Each mutant is one small change to one module of ``TARGETS``. It is written into a copy of the
package, and the tests of the core run on it until the first one fails. Survivors are printed with
their line. Not a part of ``make test``: it takes minutes.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Final, TypeAlias

ROOT: Final = Path(__file__).resolve().parents[1]
TARGETS: Final = (
    "jentrow/core/comparison/alignment.py",
    "jentrow/core/comparison/causes.py",
    "jentrow/core/comparison/cellfindings.py",
    "jentrow/core/comparison/cells.py",
    "jentrow/core/comparison/columns.py",
    "jentrow/core/comparison/columnsearch.py",
    "jentrow/core/comparison/compare.py",
    "jentrow/core/comparison/difference.py",
    "jentrow/core/comparison/findings.py",
    "jentrow/core/comparison/order.py",
    "jentrow/core/comparison/rows.py",
    "jentrow/core/comparison/shares.py",
    "jentrow/core/exercises/grading/expectations.py",
    "jentrow/core/exercises/grader.py",
    "jentrow/core/sql/shape.py",
    "jentrow/core/sql/freedom/ties.py",
    "jentrow/core/sql/tokens.py",
    "jentrow/core/sql/names.py",
)
COMPARISON: Final = (
    "tests/core/comparison/test_difference.py",
    "tests/core/comparison/test_undecided.py",
    "tests/core/exercises/test_grading.py",
    "tests/test_docs.py::test_the_examples_of_the_comparison_page",
    "tests/core/exercises/test_marks.py",
    "tests/core/comparison/test_bounds.py",
    "tests/core/comparison/test_columns.py",
    "tests/core/comparison/test_rows.py",
    "tests/core/comparison/test_cells.py",
    "tests/core/comparison/test_shares.py",
)
READING: Final = (
    "tests/core/sql/test_text.py",
    "tests/core/sql/test_tokens.py",
    "tests/core/sql/test_names.py",
    "tests/core/sql/test_ties.py",
    "tests/core/exercises/test_cases.py",
    "tests/core/exercises/test_freedom.py",
    "tests/core/sql/test_tie_law.py",
)


def tests_of(path: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The tests that should notice a change of a module, and the others."""
    reads = "/sql/" in path or "expectations" in path
    return (READING, COMPARISON) if reads else (COMPARISON, READING)


EXPLAINED: Final = {
    # Only more work, or less, for the same verdict.
    (
        "without part 1",
        "if self._null_is_loose and type(None) in types and types & {int, float, Decimal, bool}:",
    ),
    ("without part 1", "if due_left and given_left and self.tolerant:"),
    ("if False", "if len(given.rows) * len(given.columns) > SWAP_CELLS:"),
    ("min -> max", "limit = min(limit, self._limits.rows)"),
    ("1 -> 2", "return self._run(unordered_probe(self._shape, self._limits.rows + 1))"),
    ("without part 1", "if not compared.tolerant or len(firsts) < 2:"),
    ("if False", "if not (shape.ordered or shape.limited):"),
    ("if False", "if len(self.due) != len(self.given):"),
    ("return None", "return Counter(due) == Counter(given)"),
    ("if False", "if not self._shape.limited:"),
    ("if True", "if self._width_differs:"),
    ("without part 2", "as_is = all(map(cells.takes_as_is, types)) and not (due_nan or given_nan)"),
    ("True -> False", "is_largest: bool = True"),
    ("without not", "if not (self._sorted and other._sorted):"),
    ("pass", "if contents in tried:"),
    ("return None", "return self._rows.cells.bucket(row, self._tolerant)"),
    ("GtE -> Gt", "if pool is None or len(pool[1]) >= needed or limit == self._limits.rows:"),
    # A row without a partner sorts before the first place, by -1 as by -2.
    (
        "1 -> 2",
        "order = sorted(range(len(due)), key=lambda at: (levels[at], partner.get(at, -1), at))",
    ),
    # Both parts of an assignment have the same length.
    (
        "True -> False",
        "chosen = dict(zip(*(part.tolist() for part in linear_sum_assignment(-alike)), strict=True))",
    ),
    # Without an order, and with nothing to choose, the one group of all rows says nothing.
    (
        "if True",
        "return replace(self._expectation, ranks=ranks if free else None, choices=choices)",
    ),
    # Where order is free, nothing is read from the start on, and so it stays nought.
    ("if True", 'return start == len(firsts) if mode != "free" else not firsts'),
    # Rows that were too many to pair are findings themselves.
    (
        "without part 2",
        "return said_to_be_partial(found) if self.difference.partial and found else found",
    ),
    # No table of a sample has the name of a table-valued function.
    (
        "And -> Or",
        "elif isinstance(source, exp.Table) and isinstance(source.this, exp.Identifier):",
    ),
    # A result has at least one column, so that some column is always shared.
    ("if True", "return None if share is None else Fraction(0)"),
    # What is counted is there on one of the sides.
    ("Gt -> GtE", "fits = not ((given_counts > 0) & (due_counts == 0)).any()"),
    # A search that is told less ends in the same answers.
    ("if True", 'if mode == "free" or self._as_sets or count != given_count:'),
    # Rows that are all the same are the pairing in place, too.
    ("if False", "if list(pairing) == list(range(len(rows[0]) if rows else len(pairing))):"),
}
"""Mutants that change nothing that a test could see, by what they do to which line."""

SECONDS: Final = 240
"""After so long a mutant counts as killed: it does not end."""

_COMPARED: Final[dict[type[ast.cmpop], type[ast.cmpop]]] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip
_COUNTED: Final[dict[type[ast.operator], type[ast.operator]]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Add, ast.Div: ast.Mult,
    ast.BitAnd: ast.BitOr, ast.BitOr: ast.BitAnd,
}  # fmt: skip
_CALLED: Final = {"any": "all", "all": "any", "min": "max", "max": "min", "first": "last"}


Change: TypeAlias = Callable[[ast.AST], None]


@dataclass(frozen=True)
class Mutant:
    """One small change to one module: the ``change``-th of its ``node``-th node."""

    path: str
    line: int
    what: str
    text: str
    node: int
    change: int

    def source(self, original: str) -> str:
        """The module, whose text is ``original``, with the change."""
        tree = ast.parse(original)
        node = list(ast.walk(tree))[self.node]
        _, change = list(_changes(node))[self.change]
        change(node)
        return ast.unparse(tree)


def mutants_of(path: str) -> Iterator[Mutant]:
    """All mutants of a module."""
    source = (ROOT / path).read_text(encoding="utf-8")
    lines = source.splitlines()
    tree = ast.parse(source)
    nodes = list(ast.walk(tree))
    parents = {id(child): node for node in nodes for child in ast.iter_child_nodes(node)}
    for at, node in enumerate(nodes):
        if not _is_declaration(node, parents):
            for number, (what, _) in enumerate(_changes(node)):
                line = getattr(node, "lineno", 0)
                # Of a bare word, what it hangs on says more.
                told = line - 2 if isinstance(node, ast.Break | ast.Continue) else line - 1
                yield Mutant(path, line, what, lines[told].strip(), at, number)


def _is_declaration(node: ast.AST, parents: dict[int, ast.AST]) -> bool:
    """Whether a node stands in an annotation, a docstring, an import or a table of words."""
    above: ast.AST | None = node
    while above is not None:
        parent = parents.get(id(above))
        if isinstance(parent, ast.arg | ast.AnnAssign) and parent.annotation is above:
            return True
        if isinstance(parent, ast.FunctionDef) and parent.returns is above:
            return True
        if isinstance(parent, ast.Module) and not isinstance(above, ast.FunctionDef | ast.ClassDef):
            return True
        if isinstance(above, ast.JoinedStr | ast.Raise):
            return True
        if isinstance(parent, ast.ClassDef | ast.FunctionDef) and above in parent.decorator_list:
            return True
        above = parent
    return False


def _changes(node: ast.AST) -> Iterator[tuple[str, Change]]:
    if isinstance(node, ast.Compare) and type(node.ops[0]) in _COMPARED:
        other = _COMPARED[type(node.ops[0])]
        yield (
            f"{type(node.ops[0]).__name__} -> {other.__name__}",
            _setting("ops", [other(), *node.ops[1:]]),
        )
    elif isinstance(node, ast.BoolOp):
        other_op = ast.Or() if isinstance(node.op, ast.And) else ast.And()
        yield f"{type(node.op).__name__} -> {type(other_op).__name__}", _setting("op", other_op)
        for at in range(len(node.values)):
            yield f"without part {at + 1}", _without("values", at)
    elif isinstance(node, ast.BinOp) and type(node.op) in _COUNTED:
        new = _COUNTED[type(node.op)]
        yield f"{type(node.op).__name__} -> {new.__name__}", _setting("op", new())
    elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
        yield "without not", _setting("op", ast.UAdd())
    elif isinstance(node, ast.If | ast.IfExp):
        yield "if True", _setting("test", ast.Constant(value=True))
        yield "if False", _setting("test", ast.Constant(value=False))
    elif isinstance(node, ast.Constant) and isinstance(node.value, bool):
        yield f"{node.value} -> {not node.value}", _setting("value", not node.value)
    elif isinstance(node, ast.Constant) and isinstance(node.value, int | float):
        yield f"{node.value} -> {node.value + 1}", _setting("value", node.value + 1)
    elif isinstance(node, ast.Name) and node.id in _CALLED:
        yield f"{node.id} -> {_CALLED[node.id]}", _setting("id", _CALLED[node.id])
    elif isinstance(node, ast.Return) and node.value is not None:
        if not isinstance(node.value, ast.Constant):
            yield "return None", _setting("value", ast.Constant(value=None))
    elif isinstance(node, ast.comprehension) and node.ifs:
        yield "without its condition", _setting("ifs", [])
    elif isinstance(node, ast.Break | ast.Continue):
        yield "pass", _setting("__class__", ast.Pass)


def _setting(name: str, value: object) -> Change:
    return lambda node: setattr(node, name, value)


def _without(name: str, at: int) -> Change:
    def change(node: ast.AST) -> None:
        values = getattr(node, name)
        del values[at]
        if len(values) == 1:  # one operand is still a valid operation of itself
            values.append(values[0])

    return change


def survives(mutant: Mutant, place: Path) -> bool:
    """Whether no test notices the mutant, whose package stands in ``place``."""
    target = place / mutant.path
    original = target.read_text(encoding="utf-8")
    target.write_text(mutant.source(original), encoding="utf-8")
    try:
        return all(passes(place, tests) for tests in tests_of(mutant.path))
    finally:
        target.write_text(original, encoding="utf-8")


def passes(place: Path, tests: tuple[str, ...]) -> bool:
    """Whether these tests pass on the package in ``place``."""
    settings = {
        "PYTHONPATH": str(place),
        "JENTROW_HYPOTHESIS": "mutants",
        "PYTHONDONTWRITEBYTECODE": "1",
    }
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests]
    try:
        done = subprocess.run(
            command, cwd=place, env=os.environ | settings, timeout=SECONDS,
            capture_output=True, check=False,
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def main() -> None:
    """Runs a sample of the mutants, and prints the survivors and the share that was killed."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--sample", type=int, default=200)
    options.add_argument("--seed", type=int, default=1)
    options.add_argument("--only", default="")
    options.add_argument("--jobs", type=int, default=2)
    given = options.parse_args()
    every = [one for path in TARGETS if given.only in path for one in mutants_of(path)]
    chosen = random.Random(given.seed).sample(every, min(given.sample, len(every)))
    print(f"{len(chosen)} of {len(every)} mutants", flush=True)
    with (
        tempfile.TemporaryDirectory(prefix="mutants-") as folder,
        ThreadPoolExecutor(given.jobs) as pool,
    ):
        places = [_copied(Path(folder) / str(job)) for job in range(given.jobs)]
        if not passes(places[0], (*READING, *COMPARISON)):
            sys.exit("the tests fail on the code as it is: no mutant says anything")
        parts = [chosen[job :: given.jobs] for job in range(given.jobs)]
        survivors = [one for part in pool.map(_survivors, parts, places) for one in part]
    killed = len(chosen) - len(survivors)
    print(f"killed {killed} of {len(chosen)}: {100 * killed / max(1, len(chosen)):.1f} %")


def _copied(place: Path) -> Path:
    for name in ("jentrow", "tests", "demo", "docs"):
        shutil.copytree(
            ROOT / name, place / name, ignore=shutil.ignore_patterns("web", "__pycache__")
        )
    shutil.copy(ROOT / "pyproject.toml", place)
    return place


def _survivors(mutants: list[Mutant], place: Path) -> list[Mutant]:
    found = []
    for mutant in mutants:
        said = "killed"
        if (mutant.what, mutant.text) in EXPLAINED:
            said = "explained"
        elif survives(mutant, place):
            found.append(mutant)
            said = "survived"
        print(f"{said}: {mutant.path}:{mutant.line}: {mutant.what}", flush=True)
    return found


if __name__ == "__main__":
    main()
