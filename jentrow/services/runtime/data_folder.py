"""The data folder at the start of a server: held by one, and never emptied of what is not known."""

from __future__ import annotations

import fcntl
import logging
import os
import secrets
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import Final

from jentrow.core.errors import UnusableFolder
from jentrow.records.database import FILE

SAMPLES: Final = "samples"
COPIES: Final = "copies"
"""Learners' own copies of samples: files that are called by learner and sample."""

ENGINES: Final = "engines"
VERSIONS: Final = "engine-versions.json"
SET_ASIDE: Final = "set-aside"
LOCK: Final = "server.lock"
_LOG = logging.getLogger(__name__)


@contextmanager
def held_folder(folder: Path) -> Iterator[None]:
    """Holds a data folder for this process, and for this process alone.

    Raises :class:`UnusableFolder` where another server holds it, or where it cannot be written.
    """
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        folder.chmod(0o700)  # it holds people's answers, and digests of their passwords
        descriptor = os.open(folder / LOCK, os.O_RDWR | os.O_CREAT, 0o600)
    except OSError as problem:
        raise UnusableFolder(
            f"{folder}: cannot be used as a data folder ({problem.strerror})."
        ) from problem
    with os.fdopen(descriptor, "r+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as problem:
            holder = lock.read().strip() or "unknown"
            raise UnusableFolder(
                f"{folder}: another server uses this data folder (process {holder}). Stop that one, "
                "or name another folder with --data."
            ) from problem
        lock.truncate(0)
        lock.write(str(os.getpid()))
        lock.flush()
        yield


def engine_folder(folder: Path) -> Path:
    """A folder where engines keep what they need while this process runs.

    What a server that was killed left in its own is removed: it is of no use to anybody.
    """
    engines = folder / ENGINES
    for left in engines.glob("*"):
        if not Path("/proc", left.name.partition("-")[0]).exists():
            shutil.rmtree(left, ignore_errors=True)
    return engines / f"{os.getpid()}-{secrets.token_hex(4)}"


def check_whole(folder: Path) -> None:
    """Raises :class:`UnusableFolder` where there are samples, and no records that know them."""
    records = folder / FILE
    is_new = not records.exists() or records.stat().st_size == 0
    if is_new and any((folder / SAMPLES).glob("*")):
        raise UnusableFolder(
            f"{folder}: there are samples here, but {FILE}, which says what they belong to, is "
            f"missing or empty. Put it back from a backup, or move the folder {SAMPLES} away."
        )


def set_aside(folder: Path, place: Path) -> Path:
    """Moves a file or folder that the records do not know out of the way; returns where it is now.

    Nothing is deleted at a start: the records may be those of another day.
    """
    day = datetime.now().astimezone().strftime("%Y-%m-%d")
    target = folder / SET_ASIDE / day / place.relative_to(folder)
    number = 1
    while target.exists():
        number += 1
        target = target.with_name(f"{place.name}-{number}")
    target.parent.mkdir(parents=True, exist_ok=True)
    place.rename(target)
    _LOG.warning("%s is not known to the records, and was moved to %s", place, target)
    return target
