"""What a worker process judges with: measures that it was given, queries run beside their judge.

Rows never leave the process. What does is an outcome, and a woven table where somebody looks.
"""

from __future__ import annotations

import pickle
import signal
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from time import perf_counter, process_time
from typing import TYPE_CHECKING, Any, Final

from cachetools import LRUCache

from jentrow.core.engines.kept_results import KeptResults
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.outcomes import stopped
from jentrow.core.engines.protocol import Judging, LoadedDataset, QueryFailure, QueryOutcome, Run
from jentrow.core.engines.remembering import OutcomeMemory, cells_of
from jentrow.core.engines.scratch import Scratch
from jentrow.core.errors import ReferenceFails
from jentrow.core.exercises.grading.engine_choices import chosen_by_engine, variant_limits
from jentrow.core.exercises.grading.judge import COMPARING_TOO_LARGE, COMPARING_TOO_LONG, Judge
from jentrow.core.exercises.grading.measure import Measure
from jentrow.core.exercises.grading.outcomes import Looked, Outcome, Reading
from jentrow.core.exercises.grading.unknown_rows import with_unknown_rows
from jentrow.core.exercises.markscheme import Sum, least_for_edits
from jentrow.core.processes.crossing import LatelyPacked, packed
from jentrow.core.sql.freedom.moments import hangs_on_the_moment
from jentrow.core.sql.wordings import wording

if TYPE_CHECKING:
    from jentrow.core.exercises.distinguishing.analysis import Analysis
    from jentrow.core.exercises.distinguishing.analyst import Analyst

KEPT_MEASURES: Final = 8
REMEMBERED_CELLS: Final = 300_000
QUICK_SECONDS: Final = 0.001
"""What a query gives that takes less is had sooner by running it again than out of a file."""
GATHERED_CELLS: Final = 10_000
GATHERING_SECONDS: Final = 0.01
"""Of results that are gathered before they are judged."""
RESULTS: Final = "results.db"
"""The file beside the folder of the measures, where results are kept for all processes."""


class _Overran(Exception):
    """Raised by the alarm when judging has taken its time."""


class JudgingRoom:
    """The judges of the exercises that were asked for last."""

    def __init__(
        self, run: Run, scratch: Callable[[LoadedDataset], Scratch | None] = lambda dataset: None
    ) -> None:
        self._run, self._scratch = run, scratch
        self._memory = OutcomeMemory(REMEMBERED_CELLS)
        self._kept: KeptResults | None = None
        self._judges: LRUCache[str, tuple[Measure, Judge]] = LRUCache(KEPT_MEASURES)
        self._analysts: LRUCache[str, Analyst] = LRUCache(KEPT_MEASURES)
        self._packing = LatelyPacked()
        self._in_time = False
        signal.signal(signal.SIGPROF, self._on_alarm)

    def take_up(self, path: str) -> bool:
        """Makes a measure ready; false where it was so."""
        if self._judges.get(path) is not None:
            return False
        # The server's own file: it alone writes in the folder of measures.
        measure: Measure = pickle.loads(Path(path).read_bytes())  # noqa: S301
        if self._kept is None:
            self._kept = KeptResults(Path(path).parent.parent / RESULTS)
        self._judges[path] = measure, Judge(measure)
        return True

    def check(self, path: str) -> str:
        """What is wrong with the rules of a measure; empty where nothing is."""
        try:
            self._judges[path][1].check()
        except ReferenceFails as problem:
            return str(problem)
        return ""

    def answers(self, path: str, texts: Sequence[str], how: Judging) -> Iterator[bytes]:
        """Each text's outcome, packed; with ``how.look``, a woven table with it.

        The measure was taken up before.
        """
        measure, judge = self._judges[path]
        if how.look_for == "wording":
            yield from (packed(wording(sql, measure.dialect)) for sql in texts)
            return
        limits = measure.exercise.rules.limits
        if how.seconds is not None:
            limits = replace(limits, seconds=min(how.seconds, limits.seconds))
        for sql, ran in self._results(measure, texts, limits, how):
            judged = self._judged(judge, sql, ran, how)
            told = judged.outcome
            if how.explained:
                told = self._explained(path, sql, ran[0], told, limits)
            if how.look_for == "reading":  # what was found is explained: its mark stands already
                yield packed(Reading(wording(sql, measure.dialect), told))
                continue
            judged = judged.with_outcome(self._marked_by_edits(path, judge, sql, told, how))
            if how.look_for:
                yield packed(self._analysed(path, sql, judged.outcome, how))
            else:
                yield self._packing.packed(judged)

    def _results(
        self, measure: Measure, texts: Sequence[str], limits: Limits, how: Judging
    ) -> Iterator[tuple[str, list[QueryOutcome]]]:
        """Each text with what it gives on each dataset.

        Where only verdicts are wanted, small results of quick queries are gathered before they are
        judged: running and judging each find their own data in the processor's cache then.
        """
        only_verdicts = not (how.explained or how.look_for or how.look is not None)
        allowed = measure.exercise.rules.limits
        known = {
            dataset.key: self._kept.known(dataset.key, texts, allowed)
            if self._kept
            else frozenset()
            for dataset in measure.datasets
        }
        # What only a verdict is wanted of is not asked for again.
        ran_once = self._known_or_run if only_verdicts else self._ran
        gathered: list[tuple[str, list[QueryOutcome]]] = []
        cells, begun = 0, perf_counter()
        for sql in texts:
            run, anew = partial(ran_once, sql=sql, limits=limits, allowed=allowed), False
            if hangs_on_the_moment(sql, measure.dialect):
                # Whoever looks sees what it was judged by, and so does who explains it afterwards.
                anew = how.look is None and how.look_for != "reading"
                run = partial(self._known_or_run, sql=sql, limits=limits, allowed=allowed, quick=0)
            ran: list[QueryOutcome] = []
            started = process_time()
            for dataset in measure.datasets:
                ran.append(run(dataset, anew=anew or sql not in known[dataset.key]))
                if how.seconds is not None and process_time() - started > how.seconds:
                    # In a hurry that is the time of all datasets, with that of taking up the rows.
                    ran = [stopped("limit.time", limits)] * len(measure.datasets)
                    break
            gathered.append((sql, ran))
            is_last = sql is texts[-1]
            if is_last and self._kept is not None:
                # Before the last answer goes out: whoever has it may ask elsewhere for its result.
                self._kept.flush()
            if only_verdicts and not is_last:
                cells += sum(map(cells_of, ran))
                if cells < GATHERED_CELLS and perf_counter() - begun < GATHERING_SECONDS:
                    continue
            yield from gathered
            gathered.clear()
            cells, begun = 0, perf_counter()

    def _explained(
        self, path: str, sql: str, ran: QueryOutcome, outcome: Outcome, limits: Limits
    ) -> Outcome:
        """An outcome with what running variants of its text adds to what was found."""
        measure = self._judges[path][0]
        chosen = chosen_by_engine(
            partial(self._ran, measure.datasets[0], limits=variant_limits(limits)),
            sql,
            ran,
            measure.dialect,
        )
        told = with_unknown_rows(outcome, sql, measure.dialect, self._is_right(path))
        return told.with_findings(chosen) if chosen else told

    def _marked_by_edits(
        self, path: str, judge: Judge, sql: str, outcome: Outcome, how: Judging
    ) -> Outcome:
        """A wrong answer's mark where the scheme gives one for being one or two edits away."""
        measure = self._judges[path][0]
        scheme = measure.exercise.marks
        if not measure.marks_edits or outcome.standing != "incorrect":
            return outcome
        if how.seconds is not None:  # it takes longer than anybody in a hurry waits for
            late = QueryFailure("stopped", "limit.time", COMPARING_TOO_LONG)
            return judge.outcome(sql, [late] * len(measure.datasets))
        edits = self._analyst(path).edits_away(sql, self._is_right(path), two=scheme.two_edits > 0)
        if not edits:
            return outcome
        settled = Sum(outcome.mark, outcome.ledger)
        least = least_for_edits(settled, measure.exercise.points, scheme, edits)
        return replace(outcome, mark=least.mark, ledger=least.ledger)

    def _analysed(self, path: str, sql: str, outcome: Outcome, how: Judging) -> Analysis:
        """What is found out about a query on made-up rows, beside its outcome."""
        return self._analyst(path).analysis(sql, outcome, how, self._is_right(path))

    def _analyst(self, path: str) -> Analyst:
        from jentrow.core.exercises.distinguishing.analyst import Analyst

        analyst = self._analysts.get(path)
        if analyst is None:
            measure = self._judges[path][0]
            analyst = Analyst(measure, partial(self._scratch, measure.datasets[0]), self._run)
            self._analysts[path] = analyst
        return analyst

    def _is_right(self, path: str) -> Callable[[str], bool]:
        """Tells whether a text is right on every dataset of an exercise."""
        measure, judge = self._judges[path]

        def is_right(text: str) -> bool:
            limits = variant_limits(measure.exercise.rules.limits)
            ran = [self._run(dataset, text, limits, told=False) for dataset in measure.datasets]
            found = self._judged(judge, text, ran, Judging())
            return isinstance(found, Outcome) and found.standing == "correct"

        return is_right

    def _ran(
        self,
        dataset: LoadedDataset,
        sql: str,
        limits: Limits,
        allowed: Limits | None = None,
        *,
        anew: bool = False,
    ) -> QueryOutcome:
        """What a query gives within its limits; ``allowed`` are those without hurry.

        Without them it is nobody's answer, and no other process asks for it.
        """
        key = (dataset.key, sql, limits)
        known = self._memory.recall(key)
        if known is None:
            known = (
                self._known_or_run(dataset, sql, limits, allowed, anew=anew)
                if allowed
                else self._run(dataset, sql, limits, told=False)
            )
            self._memory.keep(key, known)
        return known

    def _known_or_run(
        self,
        dataset: LoadedDataset,
        sql: str,
        limits: Limits,
        allowed: Limits,
        *,
        anew: bool = False,
        quick: float = QUICK_SECONDS,
    ) -> QueryOutcome:
        """What another process has run already is not run again, but ``anew`` where that is wanted.

        What runs in less than ``quick`` seconds is not kept for others.
        """
        known = None
        if self._kept is not None and not anew:
            known = self._kept.recall(dataset.key, sql, allowed)
        if known is None:
            begun = perf_counter()
            known = self._run(dataset, sql, limits)
            if self._kept is not None and perf_counter() - begun >= quick:
                self._kept.keep(dataset.key, sql, allowed, known)
        return known

    def _judged(
        self, judge: Judge, sql: str, ran: Sequence[QueryOutcome], how: Judging
    ) -> Outcome | Looked:
        def judged(ran: Sequence[QueryOutcome]) -> Outcome | Looked:
            if how.look is None:
                return judge.outcome(sql, ran, explained=how.explained)
            return judge.looked_at(sql, ran, how.look, how.rows, for_learner=how.for_learner)

        self._in_time = True
        signal.setitimer(signal.ITIMER_PROF, how.judging_seconds)
        try:
            return judged(ran)
        except _Overran:
            failure = QueryFailure("stopped", "limit.time", COMPARING_TOO_LONG)
        except MemoryError:
            failure = QueryFailure("stopped", "limit.memory", COMPARING_TOO_LARGE)
        finally:
            self._in_time = False
            signal.setitimer(signal.ITIMER_PROF, 0)
        return judged([failure] * len(ran))

    def _on_alarm(self, *_: Any) -> None:
        if self._in_time:
            self._in_time = False
            raise _Overran
