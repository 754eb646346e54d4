"""The process in which untrusted SQL meets an engine. Nothing of the server runs here.

The parent sends frames over a socket, this process answers: see :func:`serve`. Frames are
``marshal``, not ``pickle``: reading one cannot run code, whatever a broken process may send.
"""

from __future__ import annotations

import marshal
import resource
import threading
import time
from collections import Counter
from collections.abc import Callable, Hashable, Iterator
from multiprocessing.connection import Connection
from typing import Any, Final, TypeAlias, TypeVar

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.engines.answers import AWAY, ROWS, SAME, SHOWN, Answer, failed
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.outcomes import outcome_of, stopped, unusable
from jentrow.core.engines.protocol import Judges, LoadedDataset, QueryOutcome, Run
from jentrow.core.engines.rooms import Room, Rooms
from jentrow.core.engines.scratch import Scratch
from jentrow.core.errors import EngineUnavailable, JentrowError
from jentrow.core.processes.bounds import (
    bound_memory,
    leave_with_parent,
    take_as_baseline,
    unbound_memory,
)
from jentrow.core.processes.crossing import packed, unpacked
from jentrow.core.shownrows import shown_rows

FLUSH_SECONDS: Final = 0.02
FLUSH_ANSWERS: Final = 64

CHECKING_BYTES: Final = 2**30
BUILDING_BYTES: Final = 4 * 2**30
LOOKING_BYTES: Final = 256 * 2**20

_Sent = TypeVar("_Sent")
MakeJudges: TypeAlias = Callable[[Run, Callable[[LoadedDataset], Scratch | None]], Judges]
"""Makes what answers are judged by, of what runs a query and what opens a scratch database."""

_PLAIN: Final = frozenset({int, float, str, bytes, bool, type(None)})


class _Desk:
    """What the process is asked, and the room that it is asked of."""

    def __init__(self, make_judge: MakeJudges) -> None:
        self._rooms = Rooms()
        self._server = ""
        self._judge = make_judge(self.run, self.scratch)
        self._answering: Final[dict[str, Callable[..., Iterator[Any]]]] = {
            "query": self._query,
            "show": self._show,
            "same": self._same,
            "judge": self._judged,
            "check": self._check,
            "build": self._build,
            "look": self._look,
            "make_copy": self._make_copy,
            "drop_copy": self._drop_copy,
            "use_copy": self._use_copy,
            "copy_bytes": self._copy_bytes,
            "change": self._change,
            "copy_tables": self._copy_tables,
            "copy_rows": self._copy_rows,
            "about": self._about,
        }

    def answers(self, kind: str, engine: str, server: str, *parts: Any) -> Iterator[Any]:
        """The answers to one frame."""
        self._server = server
        return self._answering[kind](self._rooms.get(engine, server), *parts)

    def run(
        self, dataset: LoadedDataset, sql: str, limits: Limits, *, told: bool = True
    ) -> QueryOutcome:
        """Runs one query of a judge's."""
        if problem := unusable(sql):
            return problem
        room = self._rooms.get(dataset.engine, self._server)
        try:
            answer = room.run(dataset.location, sql, limits)
        except MemoryError:
            return stopped("limit.memory", limits)
        return outcome_of(answer, sql, dataset, limits, told=told)

    def scratch(self, dataset: LoadedDataset) -> Scratch | None:
        """A database for made-up rows with a dataset's schema; None where the engine has none."""
        return self._rooms.get(dataset.engine, self._server).scratch(dataset.location)

    def _query(
        self, room: Room, location: str, limits: bytes, queries: list[str]
    ) -> Iterator[Answer]:
        within: Limits = unpacked(limits)
        _bound(room, within.memory_mb * 2**20)
        for sql in queries:
            try:
                yield _crossing(room.run(location, sql, within))
            except MemoryError:
                yield failed("stopped", "limit.memory", "")
            except EngineUnavailable as problem:
                yield (AWAY, str(problem))

    def _show(
        self, room: Room, location: str, limits: bytes, sql: str, most: int
    ) -> Iterator[Answer]:
        (answer,) = self._query(room, location, limits, [sql])
        if answer[0] == ROWS:
            rows = unpacked(answer[2]) if isinstance(answer[2], bytes) else answer[2]
            answer = (SHOWN, packed(shown_rows(room.told_columns(location), rows, most)))
        yield answer

    def _same(
        self, room: Room, location: str, limits: bytes, queries: list[str]
    ) -> Iterator[Answer]:
        answers = list(self._query(room, location, limits, queries))
        unusable = next((answer for answer in answers if answer[0] != ROWS), None)
        if unusable is None:
            first, second = (_bag(answer[2]) for answer in answers)
            unusable = (SAME, first == second)
        yield unusable

    def _judged(
        self, room: Room, path: str, limits: bytes, texts: list[str], how: bytes
    ) -> Iterator[bytes | Answer]:
        self._take_up(path)
        _bound(room, unpacked(limits).memory_mb * 2**20)
        answers = self._judge.answers(path, texts, unpacked(how))
        try:
            yield from answers
        except EngineUnavailable as problem:
            yield (AWAY, str(problem))

    def _check(self, room: Room, path: str) -> Iterator[str]:
        self._take_up(path)
        _bound(room, CHECKING_BYTES)
        try:
            yield self._judge.check(path)
        except MemoryError:
            yield "The reference answer's result is too large to be compared."

    def _take_up(self, path: str) -> None:
        """Loads a measure; what the process holds from then on is no query's doing."""
        unbound_memory()
        if self._judge.take_up(path):
            take_as_baseline()

    def _build(self, room: Room, location: str, parts: bytes) -> Iterator[Answer]:
        _bound(room, BUILDING_BYTES)
        yield _built(lambda: room.build(location, unpacked(parts)))

    def _about(self, room: Room) -> Iterator[Answer]:
        unbound_memory()
        try:
            yield ("about", *room.about())
        except EngineUnavailable as problem:
            yield (AWAY, str(problem))

    def _look(self, room: Room, location: str) -> Iterator[Answer]:
        _bound(room, LOOKING_BYTES)
        yield _built(lambda: room.look(location))

    def _make_copy(self, room: Room, copy: str, parts: bytes) -> Iterator[Answer]:
        _bound(room, BUILDING_BYTES)
        yield _built(lambda: room.make_copy(copy, unpacked(parts)))

    def _drop_copy(self, room: Room, copy: str) -> Iterator[Answer]:
        _bound(room, LOOKING_BYTES)
        yield _built(lambda: room.drop_copy(copy))

    def _use_copy(self, room: Room, copy: str) -> Iterator[Answer]:
        _bound(room, LOOKING_BYTES)
        yield _built(lambda: room.use_copy(copy))

    def _copy_bytes(self, room: Room, copy: str) -> Iterator[Answer]:
        _bound(room, LOOKING_BYTES)
        yield _looked(lambda: room.copy_bytes(copy))

    def _change(
        self, room: Room, copy: str, limits: bytes, script: str, most_bytes: int
    ) -> Iterator[Answer]:
        within: Limits = unpacked(limits)
        _bound(room, within.memory_mb * 2**20)
        try:
            yield room.change(copy, script, within, most_bytes)
        except MemoryError:
            yield failed("stopped", "limit.memory", "")
        except EngineUnavailable as problem:
            yield (AWAY, str(problem))

    def _copy_tables(self, room: Room, copy: str) -> Iterator[Answer]:
        _bound(room, LOOKING_BYTES)
        yield _looked(lambda: room.copy_tables(copy))

    def _copy_rows(
        self, room: Room, copy: str, table: str, offset: int, limit: int
    ) -> Iterator[Answer]:
        _bound(room, LOOKING_BYTES)
        yield _looked(lambda: room.copy_rows(copy, table, offset, limit))


def _built(build: Callable[[], Any]) -> Answer:
    """What came of making something, or why it could not be made."""
    try:
        return ("built", build())
    except EngineUnavailable as problem:
        return (AWAY, str(problem))
    except JentrowError as problem:
        return ("invalid", str(problem))


def _looked(look: Callable[[], object]) -> Answer:
    """What somebody looks at of what is not trusted, or why it cannot be looked at."""
    try:
        return ("looked", packed(look()))
    except MemoryError:
        return ("invalid", "it holds too large values")
    except EngineUnavailable as problem:
        return (AWAY, str(problem))
    except JentrowError as problem:
        return ("invalid", str(problem))


def serve(pipe: Connection, make_judge: MakeJudges) -> None:
    """Answers frames until the parent goes away. ``make_judge`` gives what answers are judged by.

    A frame is ``(kind, engine, server, parts…)``: ``("query", engine, server, location, limits,
    queries)`` is answered by lists of answers, in order, one for each query; ``("judge", engine,
    server, measure, limits, texts, how)`` likewise; the others by one list.
    """
    desk = _Desk(make_judge)
    while True:
        try:
            frame = marshal.loads(pipe.recv_bytes())
        except EOFError:
            return
        for portion in _in_portions(desk.answers(*frame)):
            pipe.send_bytes(marshal.dumps(portion))


def _in_portions(answers: Iterator[_Sent]) -> Iterator[list[_Sent]]:
    """Gathers quick answers into one frame; an answer never waits long for the next."""
    waiting: list[_Sent] = []
    since = time.monotonic()
    for answer in answers:
        waiting.append(answer)
        now = time.monotonic()
        if len(waiting) >= FLUSH_ANSWERS or now - since > FLUSH_SECONDS:
            yield waiting
            waiting, since = [], now
    if waiting:
        yield waiting


def _crossing(answer: Answer) -> Answer:
    """An answer as it crosses: rows whose values are no plain ones are packed."""
    if answer[0] != ROWS:
        return answer
    _, names, rows, types = answer
    if {value.__class__ for row in rows for value in row} <= _PLAIN:
        return answer
    return (ROWS, names, packed(rows), types)


def _bag(rows: Any) -> Counter[Hashable]:
    """Rows as they crossed, in no order."""
    key = CellComparison(ComparisonRules()).row_key
    return Counter(map(key, unpacked(rows) if isinstance(rows, bytes) else rows))


def _bound(room: Room, memory: int) -> None:
    """Bounds the engine's heap (in bytes), and the process above it."""
    room.bound(memory)
    bound_memory(memory, room.addresses)


def run_process(descriptor: int, make_judge: MakeJudges) -> None:
    """The process: one socket to the parent, no writing of files, until the parent goes away."""
    threading.Thread(target=leave_with_parent, daemon=True).start()
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    serve(Connection(descriptor), make_judge)
