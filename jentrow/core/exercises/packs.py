"""Reading a pack: samples and exercises as files, in a folder or a ZIP of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import yaml

from jentrow.core.archives import unpacked
from jentrow.core.errors import InvalidPack, InvalidRules
from jentrow.core.exercises.exercise import VERDICTS, Exercise, NamedQuery, Trial
from jentrow.core.exercises.rulefile import RuleSet, one_line, read_rules
from jentrow.core.mappings import listed, unknown_name
from jentrow.core.samples.sources import SampleSource, read_sample
from jentrow.core.textfiles import read_text

FORMAT: Final = "jentrow-pack/1"
_EXERCISE_NAMES: Final = ("title", "sample", "engine", "points", "rules", "trials")
_PACK_NAMES: Final = ("format", "title", "licence")


@dataclass(frozen=True)
class Pack:
    """What a pack holds. ``samples`` by name; ``exercises`` in the order of their ids."""

    title: str
    licence: str
    samples: Mapping[str, SampleSource]
    exercises: tuple[Exercise, ...]

    def exercise(self, id: str) -> Exercise:
        """The exercise with this id. Raises :class:`InvalidPack` where there is none."""
        for exercise in self.exercises:
            if exercise.id == id:
                return exercise
        known = [exercise.id for exercise in self.exercises]
        raise InvalidPack(unknown_name("exercise", id, known) + ".")


@contextmanager
def opened_pack(path: Path) -> Iterator[Pack]:
    """Reads a pack from a folder or a ZIP file, which stays unpacked inside the context.

    Raises :class:`InvalidPack`, :class:`InvalidSample` or :class:`UnreadableFile`.
    """
    with unpacked(path) as folder:
        yield read_pack(folder)


def read_pack(folder: Path) -> Pack:
    """Reads a pack from its folder; every problem of an exercise is named at once."""
    head = _mapping(folder / "pack.yaml")
    problems = [unknown_name("name", name, _PACK_NAMES) for name in head if name not in _PACK_NAMES]
    if head.get("format") != FORMAT:
        problems.append(f"format is {head.get('format')!r}, but must be {FORMAT}")
    if problems:
        raise InvalidPack(f"{folder / 'pack.yaml'}: " + "; ".join(problems) + ".")
    samples = {entry.name: read_sample(entry) for entry in _folders(folder / "samples", "sample")}
    exercises = tuple(
        _read_exercise(entry, samples) for entry in _folders(folder / "exercises", "exercise")
    )
    return Pack(
        str(head.get("title", folder.name)), str(head.get("licence", "")), samples, exercises
    )


def _folders(folder: Path, what: str) -> list[Path]:
    found = sorted(entry for entry in folder.iterdir() if entry.is_dir()) if folder.is_dir() else []
    if not found:
        raise InvalidPack(f"{folder}: no {what} in this pack.")
    return found


def _read_exercise(folder: Path, samples: Mapping[str, SampleSource]) -> Exercise:
    path = folder / "exercise.yaml"
    head = _mapping(path)
    problems = [
        unknown_name("name", name, _EXERCISE_NAMES) for name in head if name not in _EXERCISE_NAMES
    ]
    sample = str(head.get("sample", ""))
    if sample not in samples:
        problems.append(f"sample is {sample!r}, but the pack has {listed(list(samples))}")
    if head.get("engine", "sqlite") != "sqlite":
        problems.append(f"engine is {head['engine']!r}, but must be sqlite")
    points = head.get("points", 1)
    if isinstance(points, bool) or not isinstance(points, int | float) or not points > 0:
        problems.append(f"points is {points!r}, but must be a number above 0")
    rules = RuleSet()
    try:
        rules = read_rules(head.get("rules"), "rules")
    except InvalidRules as problem:
        problems.append(str(problem).rstrip("."))
    trials = _read_trials(folder / "trials", head.get("trials") or {}, problems)
    if problems:
        raise InvalidPack(f"{path}: " + "; ".join(problems) + ".")
    return Exercise(
        id=folder.name,
        title=str(head.get("title", folder.name)),
        prompt=read_text(folder / "prompt.md"),
        sample=sample,
        reference=read_text(folder / "reference.sql"),
        points=float(points),
        rules=rules,
        alternatives=tuple(
            NamedQuery(path.stem, read_text(path))
            for path in sorted((folder / "alternatives").glob("*.sql"))
        ),
        trials=trials,
    )


def _read_trials(folder: Path, expected: Any, problems: list[str]) -> tuple[Trial, ...]:
    if not isinstance(expected, Mapping):
        problems.append("trials must be a mapping of names to verdicts")
        return ()
    files = {path.stem: path for path in sorted(folder.glob("*.sql"))}
    unnamed = sorted(files.keys() - expected.keys())
    problems.extend(f"the trial {name} has no verdict under trials" for name in unnamed)
    trials = []
    for name, verdict in expected.items():
        if verdict not in VERDICTS:
            problems.append(f"trials.{name} is {verdict!r}, but must be one of {listed(VERDICTS)}")
        elif name not in files:
            problems.append(f"the trial {name} has no file {folder / f'{name}.sql'}")
        else:
            trials.append(Trial(str(name), read_text(files[name]), verdict))
    return tuple(trials)


def _mapping(path: Path) -> Mapping[str, Any]:
    try:
        read = yaml.safe_load(read_text(path))
    except yaml.YAMLError as problem:
        raise InvalidPack(f"{path}: not YAML ({one_line(problem)}).") from problem
    if not isinstance(read, Mapping):
        raise InvalidPack(f"{path}: expected a mapping of names to values.")
    return read
