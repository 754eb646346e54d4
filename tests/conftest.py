from __future__ import annotations

import fcntl
import gc
import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from argon2 import PasswordHasher
from hypothesis import settings
from sqlalchemy import Connection, Engine, event
from sqlalchemy.dialects.sqlite.pysqlite import SQLiteDialect_pysqlite
from sqlalchemy.util import LRUCache
from xdist.scheduler import LoadScopeScheduling
from xdist.workermanage import WorkerController

from jentrow.core.engines.labels import ENGINES
from jentrow.core.engines.protocol import LoadedDataset
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.judging_worker import LOADED_AHEAD
from jentrow.core.processes.nursery import NURSERY
from jentrow.core.samples.sources import DatasetSource, read_sample
from jentrow.services.accounts import passwords
from jentrow.services.packs.demo import MADE_FOR, load_demo
from tests.demo_course import ANSWERS, DEMO, PASSWORD
from tests.servers import name_local_servers

# The same examples each time: a change is judged by what it changes. `make test-long` goes exploring.
settings.register_profile(
    "jentrow", deadline=None, max_examples=80, derandomize=True, database=None
)
settings.register_profile("long", deadline=None, print_blob=True, max_examples=1000)
settings.register_profile("mutants", deadline=None, derandomize=True, database=None)
settings.load_profile(os.environ.get("JENTROW_HYPOTHESIS", "jentrow"))

name_local_servers()

# Each worker process of an engine would load anew what all of them need.
NURSERY.load(LOADED_AHEAD)

# Passwords of the demo people are guessed by nobody: each of a thousand sign-ins would take as long
# as it is meant to take a thief.
passwords.HASHER = PasswordHasher(memory_cost=8, time_cost=1, parallelism=1)
passwords.NOBODYS = passwords.HASHER.hash(passwords.new_token())

# A server has one file of records for as long as it runs; here each test has its own, and would write
# anew all the statements that those before it have written.
STATEMENTS = LRUCache[object, object](2_000)
SQLiteDialect_pysqlite.__eq__ = lambda self, other: type(self) is type(other)  # type: ignore[method-assign]
SQLiteDialect_pysqlite.__hash__ = lambda self: hash(type(self))  # type: ignore[method-assign]


@event.listens_for(Engine, "engine_connect")
def share_statements(connection: Connection) -> None:
    connection.execution_options(compiled_cache=STATEMENTS)


LEARNERS_IN_A_BROWSER = ("people", "editor", "ways", "explanations")
"""The browser tests that are mostly about learners' pages."""


UNCOUNTED = (
    "tests/browser/",
    "tests/api/test_access.py",
    "tests/api/test_contract.py",
    "tests/core/exercises/distinguishing/test_corpus.py",
)
"""Tests of which no line is counted: they take long, and go where others go too."""


class Scheduling(LoadScopeScheduling):
    """Shares the tests out one by one, but leaves together what shares something that takes long.

    Those with a browser share a server and its browsers, in two processes; those that kill servers
    the process that servers are forked from; those of a module about one engine share that, running
    and filled. (xdist's own groups are lost with this pytest: they
    are written into the tests' names, which no longer keep them.)
    """

    def _split_scope(self, nodeid: str) -> str:
        path, _, test = nodeid.partition("::")
        if nodeid.startswith("tests/browser/"):
            module = path.rpartition("test_")[2].removesuffix(".py")
            return f"browser of {'learners' if module in LEARNERS_IN_A_BROWSER else 'instructors'}"
        if nodeid.startswith("tests/api/") and "killed" in test:
            return "killed servers"
        engines = set(ENGINES).intersection(test.partition("[")[2].removesuffix("]").split("-"))
        return f"{path} on {engines.pop()}" if len(engines) == 1 else nodeid

    def mark_test_complete(
        self, node: WorkerController, item_index: int, duration: float = 0
    ) -> None:
        """Notes that a test is over; what is done is forgotten: it would be counted after each test."""
        super().mark_test_complete(node, item_index, duration)
        work = self.assigned_work[node]
        scope = self._split_scope(self.registered_collections[node][item_index])
        if all(work[scope].values()):
            del work[scope]


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Lines are counted by the tests of what they do."""
    for item in items:
        if item.nodeid.startswith(UNCOUNTED):
            item.add_marker("no_cover")


def pytest_collection_finish() -> None:
    """What all tests need stays: looking through it for garbage again and again takes a fifth of
    the time, and the trees of parsed queries, which refer to one another, have it done often."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)


def pytest_xdist_make_scheduler(config: pytest.Config, log: object) -> Scheduling:
    return Scheduling(config, log)


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A data folder with the demo pack, loaded and graded: one for all test processes.

    It is to be copied, never served or changed.
    """
    root = tmp_path_factory.getbasetemp()
    if "PYTEST_XDIST_WORKER" in os.environ:
        root = root.parent
    with (root / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (root / "demo-loaded").exists():
            load_demo(
                root / "demo", DEMO, answers=ANSWERS, password=PASSWORD, now=MADE_FOR, marked=False
            )
            (root / "demo-loaded").touch()
    return root / "demo"


@pytest.fixture(scope="session")
def engine() -> Iterator[SQLiteEngine]:
    running = SQLiteEngine(workers=2)
    yield running
    running.close()


@pytest.fixture(scope="session")
def huts(engine: SQLiteEngine) -> LoadedDataset:
    return engine.load(read_sample(DEMO / "samples" / "huts").open)


@pytest.fixture(scope="session")
def gauges(engine: SQLiteEngine) -> LoadedDataset:
    """Two small tables about river gauges, with ties, NULLs, repeats and a collation."""
    schema = """
        CREATE TABLE gauges (name TEXT COLLATE NOCASE, river TEXT, level REAL, basin INTEGER);
        INSERT INTO gauges VALUES ('Auwehr', 'Lind', 1.5, 1), ('auwehr', 'Lind', 2.5, 2),
            ('Brugg', 'Sarn', 2.5, 1), ('brugg', NULL, 4.0, 2), (NULL, 'Sarn', 4.0, 3);
        CREATE TABLE readings (gauge TEXT, day TEXT, flow INTEGER);
        INSERT INTO readings VALUES ('Auwehr', '2026-04-01', 10), ('Auwehr', '2026-04-02', 10),
            ('Brugg', '2026-04-01', 7), ('Brugg', '2026-04-01', 7), ('Xanten', '2026-04-03', NULL);
    """
    return engine.load(DatasetSource("gauges", schema, keep_rows=True))
