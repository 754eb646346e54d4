"""What the documentation says is what the program does."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path
from typing import Any, get_args

import pytest
import yaml

from jentrow.core.comparison.findings import CODES, FINDING_WORDS
from jentrow.core.comparison.rulewords import RULE_WORDS
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.exercise import Exercise, Verdict
from jentrow.core.exercises.files.exercisefile import HEAD
from jentrow.core.exercises.files.rulefile import read_rules
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.markscheme import PARTS
from jentrow.core.exercises.warnings import WARNING_WORDS
from jentrow.core.samples.sources import DatasetSource, SampleSource
from jentrow.core.sql.constructs import CONSTRUCTS
from jentrow.core.sql.layout import LAYOUT_WORDS
from tests.demo_course import ROOT

PAGE = (ROOT / "docs" / "comparison.md").read_text(encoding="utf-8")
CHOICES = {
    name: rule["enum"]
    for name, rule in HEAD.schema["properties"]["rules"]["properties"].items()
    if "enum" in rule
}
SAMPLE = re.findall(r"```sql sample\n(.*?)```", PAGE, re.DOTALL)[0]
EXAMPLES: list[dict[str, Any]] = [
    example
    for block in re.findall(r"```yaml example\n(.*?)```", PAGE, re.DOTALL)
    for example in yaml.safe_load_all(block)
]


@pytest.mark.parametrize("example", EXAMPLES, ids=lambda one: f"{one['answer'][:50]}")
def test_the_examples_of_the_comparison_page(engine: SQLiteEngine, example: dict[str, Any]) -> None:
    assert set(example) <= {
        "reference",
        "answer",
        "rules",
        "verdict",
        "undecided",
        "findings",
        "says",
    }
    exercise = Exercise(
        "example", "", "", "gauges", example["reference"], rules=read_rules(example.get("rules"))
    )
    sample = SampleSource("gauges", (DatasetSource("open", SAMPLE, keep_rows=True),))
    outcome = Grader(engine, exercise, sample).grade(example["answer"])
    assert outcome.verdict == example["verdict"], outcome.findings
    assert outcome.undecided == example.get("undecided", "")
    if "findings" in example:
        assert [finding.code for finding in outcome.findings] == example["findings"]
    if "says" in example:
        assert any(example["says"] in finding.message for finding in outcome.findings)


def test_every_code_rule_value_and_verdict_is_explained() -> None:
    assert re.findall(r"^\| `([a-z_]+\.[a-z]+)` \|", PAGE, re.MULTILINE) == list(CODES)
    for rule, values in CHOICES.items():
        assert f"`{rule}: " in PAGE
        for value in values:
            assert re.search(rf"[`: ]{value}`", PAGE), (rule, value)
    formats = (ROOT / "docs" / "formats.md").read_text(encoding="utf-8")
    assert re.findall(r"^\| `(\w+)` \| (?:the|not|it)", formats, re.MULTILINE)[-5:] == list(
        get_args(Verdict)
    )


def test_every_construct_part_and_warning_is_explained() -> None:
    page = (ROOT / "docs" / "exercises.md").read_text(encoding="utf-8")
    tables = {
        part.split("\n")[0]: re.findall(r"^\| `([a-z_.]+)` \|", part, re.MULTILINE)
        for part in page.split("\n## ")
    }
    assert tables["Constructs"] == list(CONSTRUCTS)
    assert tables["Layout"] == list(LAYOUT_WORDS)
    assert tables["Marks"] == list(PARTS)
    assert tables["Warnings"] == list(WARNING_WORDS)


def test_every_member_of_a_closed_set_has_its_words() -> None:
    assert tuple(FINDING_WORDS) == CODES
    assert {name: set(rule.choices) for name, rule in RULE_WORDS.items()} == {
        name: set(values) for name, values in CHOICES.items()
    }


@cache
def own_files() -> set[str]:
    """The files of the project itself, without what was installed or built."""
    tops = [
        path
        for path in ROOT.iterdir()
        if path.is_file() or path.name in {"jentrow", "tests", "docs", "demo", "benchmarks"}
    ]
    found = [file for top in [*tops, ROOT / "frontend/src"] for file in [top, *top.rglob("*")]]
    return {str(file.relative_to(ROOT)) for file in found}


@pytest.mark.parametrize(
    "page", ["README.md", "CONTRIBUTING.md", "CHANGELOG.md", *map(str, Path("docs").glob("*.md"))]
)
def test_links_and_pictures_lead_somewhere(page: str) -> None:
    path = ROOT / page
    for target in re.findall(r"\]\(([^)#]+)\)", path.read_text(encoding="utf-8")):
        if "://" not in target:
            assert (path.parent / target).exists(), target
    files = own_files()
    code = re.findall(r"`([\w/]+\.(?:py|css|toml|yaml))`", path.read_text(encoding="utf-8"))
    for name in code:
        assert name in files or any(file.endswith(f"/{name}") for file in files), name
