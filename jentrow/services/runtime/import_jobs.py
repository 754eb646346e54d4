"""Imports under way: files that were handed in, what is proposed, and the sample that is made."""

from __future__ import annotations

import secrets
import shutil
import threading
from collections.abc import Callable, Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, Final, Literal, TypeAlias

from jentrow.core.archives import unpacked
from jentrow.core.engines.labels import LABELS
from jentrow.core.engines.whole_scripts import ENGINE_OF
from jentrow.core.errors import EngineUnavailable, InvalidSample, JentrowError, UnusableInput
from jentrow.core.samples.csvfiles import CSVFormat
from jentrow.core.samples.making.process import Stopped, make, propose_tables
from jentrow.core.samples.making.proposals import FileKind, Proposal, kind_of_file
from jentrow.core.samples.making.unfinished import CannotMake
from jentrow.core.samples.recipes import Made, Problem, RanTable, Recipe
from jentrow.core.samples.scripts.dialects import guess_dialect
from jentrow.core.samples.scripts.reading import PARSED_BYTES
from jentrow.core.samples.sources import read_sample
from jentrow.core.samples.tablenotes import TableNotes
from jentrow.core.textfiles import read_text
from jentrow.services.errors import NotFound
from jentrow.services.runtime.sample_storage import MadeDataset, datasets_of

FOLDER: Final = "imports"
NOTEBOOK: Final = ".ipynb"
"""Holds answers, and no sample."""

LARGEST_FILE: Final = 512 << 20
LOOK_SECONDS: Final = 0.2
RunWhole: TypeAlias = Callable[[str, str, Path], tuple[RanTable, ...]]
Phase: TypeAlias = Literal["files", "working", "proposed", "made", "kept", "failed", "stopped"]


@dataclass
class Import:
    """One import. ``phase`` tells where it stands; ``done`` of ``total`` how far its work is.

    ``owner`` is the course that it is for, and the person who began it: nobody else sees it.
    ``pack`` is what was found in a whole pack, where that is to be taken in.
    """

    id: str
    folder: Path
    owner: tuple[int, int] = (0, 0)
    phase: Phase = "files"
    kind: FileKind | None = None
    files: list[str] = field(default_factory=list)
    dialect: str = "sqlite"
    done: int = 0
    total: int = 0
    proposal: Proposal | None = None
    made: list[MadeDataset] = field(default_factory=list)
    notes: TableNotes = field(default_factory=dict)
    problems: tuple[Problem, ...] = ()
    problem_count: int = 0
    sample: str = ""
    pack: Any = None
    stopping: bool = False
    thread: threading.Thread | None = None

    def watch(self, done: int, total: int) -> bool:
        """Notes how far the work is; false where somebody wants it stopped."""
        self.done, self.total = done, total
        return not self.stopping


class Imports:
    """All imports under way of a data folder. Safe to share between threads."""

    def __init__(self, folder: Path, run_whole: RunWhole, largest_file: int = LARGEST_FILE) -> None:
        """``run_whole`` runs a script in a dialect, and puts files of its rows into a folder."""
        self._folder = folder / FOLDER
        self._run_whole = run_whole
        self.largest_file = largest_file
        # What a stopped server left behind is of no use to anybody.
        shutil.rmtree(self._folder, ignore_errors=True)
        shutil.rmtree(folder / "scratch", ignore_errors=True)
        self._under_way: dict[str, Import] = {}
        self._lock = threading.Lock()

    def begin(self, owner: tuple[int, int] = (0, 0)) -> Import:
        """A new import, without files yet."""
        id = secrets.token_urlsafe(9)
        one = Import(id, self._folder / id, owner)
        one.folder.mkdir(parents=True)
        with self._lock:
            self._under_way[one.id] = one
        return one

    def get(self, id: str, owner: tuple[int, int] = (0, 0)) -> Import:
        """The import with this id, of whoever began it. Raises :class:`NotFound`."""
        with self._lock:
            one = self._under_way.get(id)
            if one is None or one.owner != owner:
                raise NotFound("This import is over; begin a new one.")
            return one

    def place_for(self, one: Import, name: str) -> Path:
        """Where a file that is handed in goes. Raises :class:`UnusableInput`."""
        plain = "" if "\0" in name else Path(name).name
        fits = plain.isprintable() and len(plain.encode(errors="replace")) <= 200
        if not plain or plain.startswith(".") or not fits:
            raise UnusableInput(f"{name!r} is no name of a file.")
        return one.folder / plain

    def add(self, one: Import, name: str) -> None:
        """Takes note of a file that was handed in. Raises :class:`UnusableInput`."""
        path = self.place_for(one, name)
        if path.suffix.lower() == NOTEBOOK:
            one.kind, one.files = None, [path.name]
            return
        try:
            kind = kind_of_file(path)
            if one.files and (kind != "csv" or one.kind != "csv"):
                raise UnusableInput(
                    f"{path.name}: several files make a sample together only where all are CSV."
                )
            if kind == "script":
                one.dialect = guess_dialect(read_text(path))
        except UnusableInput as problem:
            path.unlink(missing_ok=True)
            # Where it lies on the server is nobody's business.
            raise UnusableInput(str(problem).replace(str(path), path.name)) from problem
        one.kind = kind
        if path.name not in one.files:
            one.files.append(path.name)

    def look(
        self, one: Import, formats: Mapping[str, CSVFormat] | None = None, dialect: str = ""
    ) -> None:
        """Looks at the files in the background: proposes tables, or makes what needs no questions."""
        if not one.files:
            raise UnusableInput("there is no file yet.")
        if one.kind is None:
            raise UnusableInput(f"{one.files[0]}: a notebook holds answers, and no sample.")
        if dialect:
            one.dialect = dialect
        self.start(one, lambda: self._look(one, dict(formats or {})))

    def _look(self, one: Import, formats: dict[str, CSVFormat]) -> Phase:
        paths = [one.folder / name for name in one.files]
        match one.kind:
            case "csv":
                one.proposal = propose_tables(paths, formats, one.watch)
                one.problems = one.proposal.problems
                one.problem_count = len(one.problems)
                return "proposed" if one.proposal.tables else "failed"
            case "script":
                one.made = [self._make_of_script(one, paths[0])]
            case "database":
                recipe = Recipe("database", path=str(paths[0]))
                one.made = [self._make(one, recipe, f"made from {paths[0].name}")]
            case _:
                with unpacked(paths[0]) as folder:
                    return self._look_into(one, folder, formats)
        return "made"

    def _look_into(self, one: Import, folder: Path, formats: dict[str, CSVFormat]) -> Phase:
        """A ZIP: of a pack with one sample, of a sample folder, or of CSV files."""
        found = sorted((folder / "samples").iterdir()) if (folder / "pack.yaml").exists() else []
        if len(found) > 1:
            names = ", ".join(path.name for path in found)
            raise UnusableInput(
                f"the pack holds several samples ({names}); take the whole pack in from the list of exercises."
            )
        place = found[0] if found else folder
        if (place / "schema.sql").exists():
            one.made = []
            source = read_sample(place)
            one.notes = source.notes
            for made in datasets_of(source, one.folder, one.watch):
                kept = one.folder / f"made-{len(one.made)}.db"
                made.file.replace(kept)
                one.made.append(MadeDataset(made.name, kept, made.made, made.summary))
            return "made"
        files = sorted(path for path in folder.rglob("*.csv") if path.is_file())
        if not files:
            raise UnusableInput("the ZIP holds neither a schema.sql nor a CSV file.")
        one.kind, one.files = "csv", []
        for path in files:
            # Files of the same name in different folders are different files.
            name = "-".join(path.relative_to(folder).parts)
            shutil.copyfile(path, one.folder / name)
            one.files.append(name)
        return self._look(one, formats)

    def make_all(
        self,
        one: Import,
        recipes: Callable[[], Iterable[tuple[str, Recipe]]],
        summary: str,
        keep: Callable[[Import], str],
    ) -> None:
        """Makes the datasets of a sample in the background, and keeps it."""

        def work() -> Phase:
            one.made = [self._make(one, recipe, summary, dataset) for dataset, recipe in recipes()]
            one.sample = keep(one)
            return "kept"

        self.start(one, work)

    def _make(
        self, one: Import, recipe: Recipe, summary: str, dataset: str = "open"
    ) -> MadeDataset:
        target = one.folder / f"made-{dataset}.db"
        target.unlink(missing_ok=True)
        made: Made = make(recipe, target, one.watch)
        return MadeDataset(dataset, target, made, summary)

    def _make_of_script(self, one: Import, path: Path) -> MadeDataset:
        """A script is run whole by its own engine, where that answers; else it is only read."""
        recipe = Recipe("script", path=str(path), dialect=one.dialect)
        summary = f"made from {path.name}"
        if one.dialect not in ENGINE_OF or path.stat().st_size > PARSED_BYTES:
            return self._make(one, recipe, summary)
        label, failure = LABELS[ENGINE_OF[one.dialect]], ""
        try:
            recipe = replace(recipe, ran=self._ran_whole(one, path))
        except (InvalidSample, EngineUnavailable) as problem:
            failure = f"{label} did not run the script: {str(problem).rstrip('.')}."
        try:
            made = self._make(one, recipe, summary)
        except CannotMake as failed:
            if not failure:
                raise
            why = Problem(path.name, 0, "", failure)
            raise CannotMake([why, *failed.problems], failed.count + 1) from failed
        note = failure or f"{label} ran the script: the rows are as it gave them."
        return replace(made, made=replace(made.made, notes=(note, *made.made.notes)))

    def _ran_whole(self, one: Import, path: Path) -> tuple[RanTable, ...]:
        """Waits for the script's engine; whoever stops the import waits for it no longer."""
        running = ThreadPoolExecutor(1)
        ran = running.submit(self._run_whole, one.dialect, read_text(path), one.folder)
        try:
            while one.watch(0, 0):
                done, _ = wait([ran], timeout=LOOK_SECONDS)
                if done:
                    return ran.result()
            raise Stopped("stopped, and nothing was made.")
        finally:
            running.shutdown(wait=False, cancel_futures=True)

    def start(self, one: Import, work: Callable[[], Phase]) -> None:
        """Does some work of an import in the background; one at a time."""
        with self._lock:
            if one.phase == "working":
                raise UnusableInput("the import is at work already; stop it first.")
            one.phase, one.stopping, one.done, one.total = "working", False, 0, 0
            one.problems, one.problem_count = (), 0
        one.thread = threading.Thread(target=self._work, args=(one, work), daemon=True)
        one.thread.start()

    def _work(self, one: Import, work: Callable[[], Phase]) -> None:
        try:
            one.phase = work()
        except Stopped:
            one.phase = "stopped"
        except CannotMake as problem:
            one.problems, one.problem_count = problem.problems, problem.count
            one.phase = "failed"
        except JentrowError as problem:
            one.problems, one.problem_count = (Problem("", 0, "", str(problem)),), 1
            one.phase = "failed"
        except Exception:
            one.problems = (Problem("", 0, "", "something went wrong in the server."),)
            one.problem_count, one.phase = 1, "failed"
            raise

    def stop(self, one: Import) -> None:
        """Stops the work, if any is going on, and waits until it has stopped."""
        one.stopping = True
        if one.thread is not None:
            one.thread.join()

    def end(self, one: Import) -> None:
        """Stops an import and removes everything that is left of it."""
        self.stop(one)
        with self._lock:
            self._under_way.pop(one.id, None)
        shutil.rmtree(one.folder, ignore_errors=True)

    def close(self) -> None:
        """Ends all imports."""
        for one in list(self._under_way.values()):
            self.end(one)
