"""Writing a pack: exercises, sheets and their samples as files in a ZIP."""

from __future__ import annotations

import zipfile
from collections.abc import Mapping, Sequence
from pathlib import Path
from shutil import copyfileobj
from typing import Any, Final

import yaml

from jentrow.core.exercises.exercise import Exercise, Trial
from jentrow.core.exercises.files.content import content_of
from jentrow.core.exercises.sheets import Sheet
from jentrow.core.samples.exports import PACK_FORMAT
from jentrow.core.samples.tablenotes import FILE as NOTES
from jentrow.core.samples.tablenotes import TableNotes, notes_mapping

_MOMENT: Final = (1980, 1, 1, 0, 0, 0)
"""One time for every file: the same pack is the same ZIP, to the byte."""


def write_pack(
    target: Path,
    title: str,
    samples: Mapping[str, Path],
    exercises: Sequence[Exercise] = (),
    sheets: Sequence[Sheet] = (),
    licence: str = "",
) -> None:
    """Writes a pack as a ZIP file.

    ``samples`` are files as :func:`~jentrow.core.samples.exports.write_csv_folder` writes them.
    """
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        head = {"format": PACK_FORMAT, "title": title} | ({"licence": licence} if licence else {})
        _write(archive, "pack.yaml", yaml_text(head))
        for name, sample in samples.items():
            _write_sample(archive, f"samples/{name}/", sample)
        for exercise in exercises:
            for path, text in files_of(exercise).items():
                _write(archive, f"exercises/{exercise.id}/{path}", text)
        for sheet in sheets:
            _write(archive, f"sheets/{sheet.id}.yaml", yaml_text(sheet.to_mapping()))


def files_of(exercise: Exercise) -> dict[str, str]:
    """The files of an exercise's folder, by their paths in it."""
    content = content_of(exercise)
    trials = {one.name: _said(one) for one in exercise.trials}
    head = {
        name: value
        for name, value in content.items()
        if name not in ("prompt", "reference", "alternatives", "trials")
    } | ({"trials": trials} if trials else {})
    return {
        "exercise.yaml": yaml_text(head),
        "prompt.md": _ended(exercise.prompt),
        "reference.sql": _ended(exercise.reference),
        **{f"alternatives/{one.name}.sql": _ended(one.sql) for one in exercise.alternatives},
        **{f"trials/{one.name}.sql": _ended(one.sql) for one in exercise.trials},
    }


def _said(trial: Trial) -> Any:
    """What the head says of a trial: its verdict, and in a mapping what there is beside it."""
    more: dict[str, Any] = {} if trial.mark is None else {"mark": trial.mark}
    if trial.words:
        more["words"] = trial.words[0] if len(trial.words) == 1 else list(trial.words)
    return {"verdict": trial.expected, **more} if more else trial.expected


def _ended(text: str) -> str:
    return text if not text or text.endswith("\n") else text + "\n"


def yaml_text(mapping: Mapping[str, Any]) -> str:
    """A mapping as YAML that people read."""
    return yaml.safe_dump(
        dict(mapping), sort_keys=False, allow_unicode=True, default_flow_style=False, width=100
    )


def write_notes(sample: Path, notes: TableNotes) -> None:
    """Adds what is noted on a sample's tables to the ZIP of its files."""
    if content := notes_mapping(notes):
        with zipfile.ZipFile(sample, "a") as archive:
            _write(archive, NOTES, yaml_text(content))


def _write_sample(archive: zipfile.ZipFile, prefix: str, sample: Path) -> None:
    with zipfile.ZipFile(sample) as files:
        for inside in files.namelist():
            entry = _entry(prefix + inside)
            with files.open(inside) as read, archive.open(entry, "w", force_zip64=True) as written:
                copyfileobj(read, written)


def _write(archive: zipfile.ZipFile, path: str, text: str) -> None:
    archive.writestr(_entry(path), text)


def _entry(path: str) -> zipfile.ZipInfo:
    entry = zipfile.ZipInfo(path, _MOMENT)
    entry.compress_type = zipfile.ZIP_DEFLATED
    entry.external_attr = 0o644 << 16
    return entry
