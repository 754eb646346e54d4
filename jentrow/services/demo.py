"""Demo data: a pack and its submissions, loaded into a new data folder and graded."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from jentrow.core.exercises.packs import opened_pack
from jentrow.core.exercises.submissions import read_submissions
from jentrow.core.samples.sources import read_sample
from jentrow.services.desk import Desk
from jentrow.services.errors import FolderInUse
from jentrow.services.gauges import NAME, write_gauges
from jentrow.services.importing import import_pack, import_submissions
from jentrow.services.keeping import datasets_of, scratch_folder
from jentrow.services.marking import Progress
from jentrow.services.samples import new_sample


@dataclass(frozen=True, slots=True)
class Loaded:
    """What demo data came to."""

    exercises: int
    submissions: int


def load_demo(
    folder: Path, pack: Path, progress: Progress = lambda done, total: None, *, gauges: bool = True
) -> Loaded:
    """Loads a pack, and grades the ``submissions.csv`` beside its ``pack.yaml`` if there is one.

    ``gauges`` adds the large sample of river gauges.

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
        if gauges:
            _add_gauges(desk)
        return Loaded(exercises, desk.grade_all(progress))
    finally:
        desk.close()


def _add_gauges(desk: Desk) -> None:
    with scratch_folder(desk.folder) as scratch:
        write_gauges(scratch / NAME)
        source = read_sample(scratch / NAME)
        with new_sample(desk, NAME, lambda _: datasets_of(source, desk.folder)):
            pass
