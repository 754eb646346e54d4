"""Demo data: a pack and its submissions, loaded into a new data folder and graded."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from jentrow.core.exercises.packs import opened_pack
from jentrow.core.exercises.submissions import read_submissions
from jentrow.services.desk import Desk
from jentrow.services.errors import FolderInUse
from jentrow.services.importing import import_pack, import_submissions
from jentrow.services.marking import Progress


@dataclass(frozen=True, slots=True)
class Loaded:
    """What demo data came to."""

    exercises: int
    submissions: int


def load_demo(folder: Path, pack: Path, progress: Progress = lambda done, total: None) -> Loaded:
    """Loads a pack, and grades the ``submissions.csv`` beside its ``pack.yaml`` if there is one.

    Raises :class:`FolderInUse` where the folder holds something already.
    """
    if folder.exists() and any(folder.iterdir()):
        raise FolderInUse(
            f"{folder} is not empty: demo data goes into a new folder. Name another with --data, "
            "or serve this one with: jentrow serve --data " + str(folder)
        )
    desk = Desk(folder)
    try:
        with opened_pack(pack) as opened, desk.records.session() as session:
            course = import_pack(session, folder, opened)
            beside = pack / "submissions.csv"
            if pack.is_dir() and beside.exists():
                read = read_submissions(beside, [exercise.id for exercise in opened.exercises])
                import_submissions(session, course, read)
            exercises = len(opened.exercises)
        return Loaded(exercises, desk.queue.drain(progress))
    finally:
        desk.close()
