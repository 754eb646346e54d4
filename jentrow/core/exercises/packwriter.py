"""Writing a pack: exercises, sheets and their samples as files in a ZIP."""

from __future__ import annotations

import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import yaml

from jentrow.core.exercises.content import content_of
from jentrow.core.exercises.exercise import Exercise, Trial
from jentrow.core.exercises.sheets import Sheet
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.exports import PACK_FORMAT, write_sample_files

_MOMENT: Final = (1980, 1, 1, 0, 0, 0)
"""One time for every file: the same pack is the same ZIP, to the byte."""


@dataclass(frozen=True)
class PackedSample:
    """A sample to be written: its open dataset, and the held-back ones by name."""

    opened: Dataset
    held_back: Mapping[str, Dataset]


def write_pack(
    target: Path,
    title: str,
    samples: Mapping[str, PackedSample],
    exercises: Sequence[Exercise] = (),
    sheets: Sequence[Sheet] = (),
    licence: str = "",
) -> None:
    """Writes a pack as a ZIP file.

    Raises :class:`~jentrow.core.samples.exports.CannotExport` where a value does not fit in CSV.
    """
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        head = {"format": PACK_FORMAT, "title": title} | ({"licence": licence} if licence else {})
        _write(archive, "pack.yaml", yaml_text(head))
        for name, sample in samples.items():
            write_sample_files(archive, f"samples/{name}/", sample.opened, sample.held_back)
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


def _write(archive: zipfile.ZipFile, path: str, text: str) -> None:
    entry = zipfile.ZipInfo(path, _MOMENT)
    entry.compress_type = zipfile.ZIP_DEFLATED
    entry.external_attr = 0o644 << 16
    archive.writestr(entry, text)
