"""Reading a pack: samples and exercises as files, in a folder or a ZIP of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any, Final, Literal

from pydantic import Field

from jentrow.core.archives import unpacked
from jentrow.core.declared import Declared, names, unread_names
from jentrow.core.errors import InvalidPack
from jentrow.core.exercises.exercise import Exercise, NamedQuery, Trial
from jentrow.core.exercises.files.content import exercise_of
from jentrow.core.exercises.files.exercisefile import HEAD as EXERCISE_HEAD
from jentrow.core.exercises.files.exercisefile import trial_of
from jentrow.core.exercises.files.sheetfile import read_sheet
from jentrow.core.exercises.sheets import Sheet
from jentrow.core.mappings import unknown_name
from jentrow.core.samples.exports import PACK_FORMAT
from jentrow.core.samples.sources import SampleSource, read_sample
from jentrow.core.textfiles import read_text
from jentrow.core.yamlfiles import NotYAML, read_yaml

_FORMAT: Final = Literal[PACK_FORMAT]
HEAD: Final = Declared[dict[str, str]](
    Annotated[
        names("Pack", {"format": _FORMAT, "title": str, "licence": str}),
        Field(json_schema_extra={"required": ["format"]}),
    ],
    dict,
)
"""What ``pack.yaml`` may hold."""


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
    problems: list[str] = []
    written = _mapping(folder / "pack.yaml")
    head = HEAD.read(written, problems)
    if "format" not in written:
        problems.append(f"format is missing: it must be {PACK_FORMAT}")
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
        head.get("title", folder.name),
        head.get("licence", ""),
        samples,
        exercises,
        sheets,
    )


def _folders(folder: Path) -> list[Path]:
    return sorted(entry for entry in folder.iterdir() if entry.is_dir()) if folder.is_dir() else []


def _read_exercise(folder: Path, samples: Mapping[str, SampleSource]) -> Exercise:
    path = folder / "exercise.yaml"
    problems: list[str] = []
    written = _mapping(path)
    head = EXERCISE_HEAD.read(written, problems)
    missed = unread_names(written, head)
    parts = {"title": folder.name} | head
    parts["prompt"] = read_text(folder / "prompt.md")
    parts["reference"] = read_text(folder / "reference.sql")
    parts["alternatives"] = [
        NamedQuery(one.stem, read_text(one))
        for one in sorted((folder / "alternatives").glob("*.sql"))
    ]
    if "trials" not in missed:
        parts["trials"] = list(_trials(folder / "trials", head.get("trials", {}), problems))
    exercise = exercise_of(folder.name, parts, samples, problems, missed)
    if problems:
        raise InvalidPack(f"{path}: " + "; ".join(problems) + ".")
    return exercise


def _trials(
    folder: Path, heads: Mapping[str, Mapping[str, Any]], problems: list[str]
) -> Iterator[Trial]:
    """The trials' texts with what the head says of each."""
    files = {path.stem: path for path in sorted(folder.glob("*.sql"))}
    unnamed = sorted(files.keys() - heads.keys())
    problems.extend(f"the trial {name} has no verdict under trials" for name in unnamed)
    for name, head in heads.items():
        if name in files:
            yield trial_of(name, read_text(files[name]), head)
        else:
            problems.append(f"the trial {name} has no file {folder / f'{name}.sql'}")


def _mapping(path: Path) -> Mapping[str, Any]:
    try:
        read = read_yaml(path)
    except NotYAML as problem:
        raise InvalidPack(f"{path}: not YAML ({problem}).") from problem
    if not isinstance(read, Mapping):
        raise InvalidPack(f"{path}: expected a mapping of names to values.")
    return read
