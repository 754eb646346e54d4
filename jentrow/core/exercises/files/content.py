"""An exercise as a plain mapping, for versions and drafts, and read back with every problem named."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import Any, Final

from jentrow.core.declared import unread_names
from jentrow.core.errors import InvalidExercise
from jentrow.core.exercises.exercise import Exercise, NamedQuery, Trial
from jentrow.core.exercises.files.exercisefile import CONTENT
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.exercises.showing import Feedback, ShownResult
from jentrow.core.exercises.textrules import layout_to_mapping
from jentrow.core.mappings import listed, plain_number

_FILE_NAME: Final = re.compile(r"[^\W_][\w .+=()'-]*", re.UNICODE)


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
    parts = CONTENT.read(content, problems)
    return exercise_of(id, parts, samples, problems, unread_names(content, parts))


def exercise_of(
    id: str,
    parts: Mapping[str, Any],
    samples: Collection[str],
    problems: list[str],
    unread: Collection[str],
) -> Exercise:
    """Makes an exercise of its parts, read already; what does not go together is a problem.

    Of the ``unread`` names it is said already what is wrong with them.
    """
    sample = parts.get("sample", "")
    if sample not in samples and "sample" not in unread:
        problems.append(f"sample is {sample!r}, but there is {listed(sorted(samples)) or 'none'}")
    title = parts.get("title", "").strip()
    if not title and "title" not in unread:
        problems.append("title is empty: give the exercise a name")
    for what in ("alternatives", "trials"):
        problems.extend(_misnamed(what, parts.get(what, ())))
    shown, feedback = parts.get("feedback", (ShownResult(), Feedback()))
    tags = (tag.strip() for tag in parts.get("tags", ()))
    held = ("engine", "points", "layout", "marks")
    return Exercise(
        id=id,
        title=title,
        prompt=parts.get("prompt", ""),
        sample=sample,
        reference=parts.get("reference", ""),
        rules=parts.get("rules", RuleSet()),
        alternatives=tuple(parts.get("alternatives", ())),
        trials=tuple(parts.get("trials", ())),
        tags=tuple(dict.fromkeys(tag for tag in tags if tag)),
        constructs=tuple(parts.get("constructs", ())),
        shown=shown,
        feedback=feedback,
        **{name: parts[name] for name in held if name in parts},
    )


def _misnamed(what: str, named: Sequence[NamedQuery | Trial]) -> Iterator[str]:
    """What is wrong with names that become the names of files in packs."""
    known: set[str] = set()
    for one in named:
        if not usable_name(one.name):
            yield f"{what}: the name {one.name!r} must begin with a letter or digit and hold no slash"
        elif one.name.lower() in known:
            yield f"{what}: two are called {one.name!r}; rename one"
        known.add(one.name.lower())


def usable_name(name: str) -> bool:
    """Whether something can be called so: it becomes the name of a file in a pack."""
    return len(name) <= 80 and bool(_FILE_NAME.fullmatch(name)) and not name.endswith((" ", "."))
