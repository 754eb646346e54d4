"""An exercise: what is asked, what is due, and the rules by which answers are compared."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal, TypeAlias

from jentrow.core.exercises.markscheme import MarkScheme
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.exercises.showing import Feedback, ShownResult
from jentrow.core.exercises.textrules import ConstructRule
from jentrow.core.sql.layout import LayoutRules

Verdict: TypeAlias = Literal["correct", "incorrect", "error", "refused", "stopped"]


@dataclass(frozen=True, slots=True)
class NamedQuery:
    """A query kept with an exercise under a name: an accepted alternative."""

    name: str
    sql: str


@dataclass(frozen=True, slots=True)
class Trial:
    """A trial answer with the verdict that it ought to get, and the mark if that matters.

    ``words`` are hints for learners whose answer behaves the same, the weakest first.
    """

    name: str
    sql: str
    expected: Verdict
    mark: float | None = None
    words: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Exercise:
    """One exercise, on a sample named by ``sample``; ``points`` are what a correct answer earns.

    ``shown`` is what learners see of the expected result, ``feedback`` what they see of an answer.
    """

    id: str
    title: str
    prompt: str
    sample: str
    reference: str
    engine: str = "sqlite"
    points: float = 1.0
    rules: RuleSet = field(default_factory=RuleSet)
    alternatives: tuple[NamedQuery, ...] = ()
    trials: tuple[Trial, ...] = ()
    tags: tuple[str, ...] = ()
    constructs: tuple[ConstructRule, ...] = ()
    layout: LayoutRules = field(default_factory=LayoutRules)
    marks: MarkScheme = field(default_factory=MarkScheme)
    shown: ShownResult = field(default_factory=ShownResult)
    feedback: Feedback = field(default_factory=Feedback)
