"""An exercise as a plain mapping, for versions and drafts, and read back with every problem named."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Collection, Mapping
from typing import Any, Final

from jentrow.core.engines.labels import ENGINES
from jentrow.core.errors import InvalidExercise, InvalidRules
from jentrow.core.exercises.exercise import VERDICTS, Exercise, NamedQuery, Trial
from jentrow.core.exercises.markscheme import read_mark_scheme
from jentrow.core.exercises.rulefile import RuleSet, read_rules
from jentrow.core.exercises.showing import LONGEST_HINT, read_feedback
from jentrow.core.exercises.textrules import layout_to_mapping, read_constructs, read_layout
from jentrow.core.mappings import MOST_POINTS, listed, plain_number, unknown_name

NAMES: Final = (
    "title", "sample", "engine", "points", "tags", "rules", "constructs", "layout", "marks",
    "feedback", "prompt", "reference", "alternatives", "trials",
)  # fmt: skip
_FILE_NAME: Final = re.compile(r"[^\W_][\w .+=()'-]*", re.UNICODE)
MOST_TAGS: Final = 20
MOST_WORDS: Final = 3
"""Hints of one trial, each stronger than the one before."""


def content_of(exercise: Exercise) -> dict[str, Any]:
    """Everything of an exercise but its id, as plain JSON; what is as usual is left out."""
    rules = exercise.rules.comparison.to_mapping()
    if limits := exercise.rules.limits.to_mapping():
        rules["limits"] = limits
    expected = exercise.shown.to_mapping()
    feedback = ({"expected": expected} if expected else {}) | exercise.feedback.to_mapping()
    optional = {
        "tags": list(exercise.tags),
        "rules": rules,
        "constructs": [rule.to_mapping() for rule in exercise.constructs],
        "layout": layout_to_mapping(exercise.layout),
        "marks": exercise.marks.to_mapping(),
        "feedback": feedback,
    }
    return {
        "title": exercise.title,
        "sample": exercise.sample,
        "engine": exercise.engine,
        "points": plain_number(exercise.points),
        **{name: value for name, value in optional.items() if value},
        "prompt": exercise.prompt,
        "reference": exercise.reference,
        "alternatives": [{"name": one.name, "sql": one.sql} for one in exercise.alternatives],
        "trials": [
            {"name": one.name, "sql": one.sql, "expected": one.expected}
            | ({} if one.mark is None else {"mark": one.mark})
            | ({"words": list(one.words)} if one.words else {})
            for one in exercise.trials
        ],
    }


def digest_of(content: Mapping[str, Any]) -> str:
    """A short name for a content: the same for the same content only."""
    text = json.dumps(content, sort_keys=True, ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def read_exercise(id: str, content: Mapping[str, Any], samples: Collection[str]) -> Exercise:
    """Reads an exercise from its mapping. Raises :class:`InvalidExercise` with every problem."""
    problems: list[str] = []
    exercise = exercise_from(id, content, samples, problems)
    if problems:
        raise InvalidExercise(id, problems)
    return exercise


def exercise_from(
    id: str, content: Mapping[str, Any], samples: Collection[str], problems: list[str]
) -> Exercise:
    """Reads an exercise from its mapping; what is wrong is added to ``problems``."""
    problems.extend(unknown_name("name", name, NAMES) for name in content if name not in NAMES)
    sample = str(content.get("sample", ""))
    if sample not in samples:
        problems.append(f"sample is {sample!r}, but there is {listed(sorted(samples)) or 'none'}")
    engine = content.get("engine", "sqlite")
    if engine not in ENGINES:
        problems.append(f"engine is {engine!r}, but must be {listed(ENGINES)}")
        engine = ENGINES[0]
    points = _points(content.get("points", 1), problems)
    rules = RuleSet()
    try:
        rules = read_rules(content.get("rules"), "rules")
    except InvalidRules as problem:
        problems.append(str(problem).rstrip("."))
    title = str(content.get("title") or "").strip()
    if not title:
        problems.append("title is empty: give the exercise a name")
    shown, feedback = read_feedback(content.get("feedback"), problems)
    return Exercise(
        id=id,
        title=title,
        prompt=_text("prompt", content, problems),
        sample=sample,
        reference=_text("reference", content, problems),
        engine=str(engine),
        points=points,
        rules=rules,
        alternatives=_alternatives(content.get("alternatives"), problems),
        trials=_trials(content.get("trials"), problems),
        tags=_tags(content.get("tags"), problems),
        constructs=read_constructs(content.get("constructs"), problems),
        layout=read_layout(content.get("layout"), problems),
        marks=read_mark_scheme(content.get("marks"), problems),
        shown=shown,
        feedback=feedback,
    )


def _points(points: object, problems: list[str]) -> float:
    if isinstance(points, bool) or not isinstance(points, int | float) or not points > 0:
        problems.append(f"points is {points!r}, but must be a number above 0")
        return 1.0
    if points > MOST_POINTS or round(points, 2) != points:
        problems.append(
            f"points is {points!r}, but must be at most {MOST_POINTS:,}, with at most two decimals"
        )
        return 1.0
    return float(points)


def _text(name: str, content: Mapping[str, Any], problems: list[str]) -> str:
    value = content.get(name, "")
    if not isinstance(value, str):
        problems.append(f"{name} must be text")
        return ""
    if "\0" in value:
        problems.append(f"{name} holds a NUL character; remove it")
    return value


def _tags(value: object, problems: list[str]) -> tuple[str, ...]:
    if value is None:
        return ()
    if not isinstance(value, list) or not all(isinstance(tag, str) for tag in value):
        problems.append("tags must be a list of words")
        return ()
    if len(value) > MOST_TAGS:
        problems.append(f"there are {len(value)} tags, but at most {MOST_TAGS} are taken")
    return tuple(dict.fromkeys(tag.strip() for tag in value if tag.strip()))


def _alternatives(value: object, problems: list[str]) -> tuple[NamedQuery, ...]:
    return tuple(
        NamedQuery(name, str(entry.get("sql", "")))
        for name, entry in _named("alternatives", value, ("name", "sql"), problems)
    )


def _trials(value: object, problems: list[str]) -> tuple[Trial, ...]:
    trials = []
    names = ("name", "sql", "expected", "mark", "words")
    for name, entry in _named("trials", value, names, problems):
        expected = entry.get("expected")
        mark = entry.get("mark")
        if expected not in VERDICTS:
            problems.append(f"trials.{name} is {expected!r}, but must be one of {listed(VERDICTS)}")
        elif mark is not None and (isinstance(mark, bool) or not isinstance(mark, int | float)):
            problems.append(f"trials.{name}: its mark is {mark!r}, but must be a number")
        else:
            sql = str(entry.get("sql", ""))
            words = _words(name, entry.get("words"), problems)
            trials.append(Trial(name, sql, expected, None if mark is None else float(mark), words))
    return tuple(trials)


def _words(name: str, value: object, problems: list[str]) -> tuple[str, ...]:
    """The hints of a trial: one text, or a list of them, the weakest first."""
    texts = [value] if isinstance(value, str) else [] if value is None else value
    if not isinstance(texts, list) or not all(isinstance(one, str) for one in texts):
        problems.append(f"trials.{name}: its words must be a text, or a list of texts")
        return ()
    said = tuple(text.strip() for text in texts if text.strip())
    if len(said) > MOST_WORDS:
        problems.append(
            f"trials.{name}: there are words in {len(said)} strengths, but at most {MOST_WORDS} are taken"
        )
    if any(len(text) > LONGEST_HINT for text in said):
        problems.append(f"trials.{name}: its words are longer than {LONGEST_HINT:,} letters")
    return said


def _named(
    what: str, value: object, names: tuple[str, ...], problems: list[str]
) -> list[tuple[str, Mapping[str, Any]]]:
    """A list of mappings with a name each, which becomes a file's name in packs."""
    if value is None:
        return []
    if not isinstance(value, list):
        problems.append(f"{what} must be a list")
        return []
    found: dict[str, Mapping[str, Any]] = {}
    for entry in value:
        if not isinstance(entry, Mapping):
            problems.append(f"{what}: expected a mapping with {listed(names)}")
            continue
        problems.extend(
            f"{what}: {unknown_name('name', name, names)}" for name in entry if name not in names
        )
        name = str(entry.get("name") or "").strip()
        if not usable_name(name):
            problems.append(
                f"{what}: the name {name!r} must begin with a letter or digit and hold no slash"
            )
        elif name.lower() in (known.lower() for known in found):
            problems.append(f"{what}: two are called {name!r}; rename one")
        else:
            found[name] = entry
    return list(found.items())


def usable_name(name: str) -> bool:
    """Whether something can be called so: it becomes the name of a file in a pack."""
    return len(name) <= 80 and bool(_FILE_NAME.fullmatch(name)) and not name.endswith((" ", "."))
