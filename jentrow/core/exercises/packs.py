"""Reading a pack: samples and exercises as files, in a folder or a ZIP of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from jentrow.core.archives import unpacked
from jentrow.core.errors import InvalidPack
from jentrow.core.exercises.content import NAMES, exercise_from
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.sheets import Sheet, read_sheet
from jentrow.core.mappings import unknown_name
from jentrow.core.samples.exports import PACK_FORMAT
from jentrow.core.samples.sources import SampleSource, read_sample
from jentrow.core.textfiles import read_text
from jentrow.core.yamlfiles import NotYAML, read_yaml

HEAD_NAMES: Final = tuple(
    name for name in NAMES if name not in ("prompt", "reference", "alternatives")
)
"""What ``exercise.yaml`` may hold; the rest of an exercise lies in files beside it."""
TRIAL_NAMES: Final = ("verdict", "mark", "words")
_PACK_NAMES: Final = ("format", "title", "licence")


@dataclass(frozen=True)
class Pack:
    """What a pack holds. ``samples`` by name; ``exercises`` and ``sheets`` in the order of ids."""

    title: str
    licence: str
    samples: Mapping[str, SampleSource]
    exercises: tuple[Exercise, ...]
    sheets: tuple[Sheet, ...] = ()

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
    if head.get("format") != PACK_FORMAT:
        problems.append(f"format is {head.get('format')!r}, but must be {PACK_FORMAT}")
    if problems:
        raise InvalidPack(f"{folder / 'pack.yaml'}: " + "; ".join(problems) + ".")
    found = _folders(folder / "samples")
    if not found:
        raise InvalidPack(f"{folder / 'samples'}: no sample in this pack.")
    samples = {entry.name: read_sample(entry) for entry in found}
    exercises = tuple(_read_exercise(entry, samples) for entry in _folders(folder / "exercises"))
    known = {exercise.id: exercise.points for exercise in exercises}
    sheets = tuple(
        read_sheet(path, _mapping(path), known)
        for path in sorted((folder / "sheets").glob("*.yaml"))
    )
    return Pack(
        str(head.get("title", folder.name)),
        str(head.get("licence", "")),
        samples,
        exercises,
        sheets,
    )


def _folders(folder: Path) -> list[Path]:
    return sorted(entry for entry in folder.iterdir() if entry.is_dir()) if folder.is_dir() else []


def _read_exercise(folder: Path, samples: Mapping[str, SampleSource]) -> Exercise:
    path = folder / "exercise.yaml"
    head = dict(_mapping(path))
    problems = [unknown_name("name", name, HEAD_NAMES) for name in head if name not in HEAD_NAMES]
    of_trials: list[str] = []
    trials = _trials(folder / "trials", head.pop("trials", None) or {}, of_trials)
    content = {name: value for name, value in head.items() if name in HEAD_NAMES}
    content.setdefault("title", folder.name)
    content |= {
        "prompt": read_text(folder / "prompt.md"),
        "reference": read_text(folder / "reference.sql"),
        "alternatives": [
            {"name": one.stem, "sql": read_text(one)}
            for one in sorted((folder / "alternatives").glob("*.sql"))
        ],
        "trials": trials,
    }
    exercise = exercise_from(folder.name, content, samples, problems)
    problems += of_trials
    if problems:
        raise InvalidPack(f"{path}: " + "; ".join(problems) + ".")
    return exercise


def _trials(folder: Path, expected: Any, problems: list[str]) -> list[dict[str, Any]]:
    """The trials' texts with what the head says of each: a verdict, or more in a mapping."""
    if not isinstance(expected, Mapping):
        problems.append("trials must be a mapping of names to verdicts")
        return []
    files = {path.stem: path for path in sorted(folder.glob("*.sql"))}
    unnamed = sorted(files.keys() - expected.keys())
    problems.extend(f"the trial {name} has no verdict under trials" for name in unnamed)
    trials = []
    for name, said in expected.items():
        if name not in files:
            problems.append(f"the trial {name} has no file {folder / f'{name}.sql'}")
        sql = read_text(files[name]) if name in files else ""
        trial = {"name": str(name), "sql": sql, "expected": said}
        if isinstance(said, Mapping):
            problems.extend(
                f"trials.{name}: {unknown_name('name', key, TRIAL_NAMES)}"
                for key in said
                if key not in TRIAL_NAMES
            )
            trial["expected"] = said.get("verdict")
            trial |= {key: said[key] for key in ("mark", "words") if said.get(key) is not None}
        trials.append(trial)
    return trials


def _mapping(path: Path) -> Mapping[str, Any]:
    try:
        read = read_yaml(path)
    except NotYAML as problem:
        raise InvalidPack(f"{path}: not YAML ({problem}).") from problem
    if not isinstance(read, Mapping):
        raise InvalidPack(f"{path}: expected a mapping of names to values.")
    return read
