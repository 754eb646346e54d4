"""The command line. Heavy parts are imported where they are used, so that it starts quickly."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from jentrow import __version__
from jentrow.core.errors import JentrowError
from jentrow.core.words import counted

if TYPE_CHECKING:
    from jentrow.core.exercises.distinguishing.analysis import Analysis

app = typer.Typer(
    name="jentrow",
    help="Sample tables, SQL exercises over them, and answers graded by their result sets.",
    no_args_is_help=True,
    add_completion=False,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
)

UNUSABLE = 2
DEMO_PACK = Path(__file__).resolve().parents[1] / "demo"


@contextmanager
def _one_clear_line() -> Iterator[None]:
    """Turns what cannot be used into one line on standard error and exit status 2."""
    try:
        yield
    except JentrowError as problem:
        typer.echo("jentrow: " + " ".join(str(problem).split()), err=True)
        raise typer.Exit(UNUSABLE) from problem


def _begin_workers() -> None:
    """Has worker processes load what they need while this one loads its own."""
    from jentrow.core.engines.worker_module import WORKER_MODULE
    from jentrow.core.processes.nursery import NURSERY

    NURSERY.begin([WORKER_MODULE])


def _print_version(wanted: bool) -> None:
    if wanted:
        import apsw
        import duckdb

        typer.echo(
            f"jentrow {__version__}, SQLite {apsw.sqlite_lib_version()}, DuckDB {duckdb.__version__}"
        )
        raise typer.Exit()


@app.callback()
def main(
    version: Annotated[
        bool,
        typer.Option(
            "--version",
            callback=_print_version,
            is_eager=True,
            help="Print the versions of Jentrow and of its engines.",
        ),
    ] = False,
) -> None:
    """Sample tables, SQL exercises over them, and answers graded by their result sets."""


@app.command()
def compare(
    sample: Annotated[
        Path, typer.Option(help="A .sql script (DDL and INSERTs), or a sample folder.")
    ],
    reference: Annotated[Path, typer.Option(help="The reference answer.")],
    submission: Annotated[Path, typer.Option(help="The answer to judge.")],
    alternative: Annotated[
        list[Path] | None, typer.Option(help="An accepted alternative; may be repeated.")
    ] = None,
    dataset: Annotated[
        list[Path] | None,
        typer.Option(
            help="A further dataset: a script of INSERTs, or a folder of CSV files; repeatable."
        ),
    ] = None,
    engine: Annotated[str, typer.Option(help="The engine that runs the queries.")] = "sqlite",
    rules: Annotated[
        Path | None, typer.Option(help="Comparison rules and limits, as YAML.")
    ] = None,
    explain: Annotated[
        bool, typer.Option(help="Look for near misses and a smallest example of a wrong answer.")
    ] = True,
    json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Compare one answer's result with the reference answer's."""
    _begin_workers()
    from jentrow.services.headless.compare import compare_files

    with _one_clear_line():
        found, doubts = compare_files(
            sample,
            reference,
            submission,
            alternatives=alternative or (),
            datasets=dataset or (),
            engine=engine,
            rules=rules,
            explain=explain,
        )
    if json:
        import json as writer

        said = found.to_json() if explain else found.outcome.to_json()
        typer.echo(writer.dumps(said, ensure_ascii=False))
    else:
        _print_analysis(found, doubts)


def _print_analysis(found: Analysis, doubts: Sequence[str]) -> None:
    """The verdict, the sizes of both results, what was found and what explains it."""
    from jentrow.core.exercises.grading.outcomes import UNDECIDED_WORDS

    said = found.outcome.to_json()
    expected, actual = said["expected"], said["actual"]
    typer.echo(found.outcome.standing)
    if found.outcome.undecided:
        typer.echo(f"  {UNDECIDED_WORDS[found.outcome.undecided]}")
    for doubt in doubts:
        typer.echo(f"  {doubt}")
    if expected and actual:
        for side, result in (("due:  ", expected), ("given:", actual)):
            rows = counted(result["row_count"], "row")
            typer.echo(f"  {side} {rows} ({', '.join(result['columns'])})")
    for finding in found.outcome.findings:
        where = "" if finding.dataset == "open" else f" [{finding.dataset}]"
        typer.echo(f"  {finding.code}{where}: {finding.message}")
    for near in found.near_misses:
        borrowed = " (taken from the reference answer)" if near.borrows else ""
        typer.echo(f"  near miss{borrowed}: {near.message}")
    if found.example is not None:
        from jentrow.terminal import print_example

        print_example(found.example)


@app.command()
def check(
    pack: Annotated[Path, typer.Argument(help="A pack: a folder, or a ZIP of it.")],
    exercise: Annotated[str | None, typer.Option(help="Only the exercise with this id.")] = None,
    json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Check a pack: references, trials and warnings. Status 1 where something does not hold."""
    _begin_workers()
    from jentrow.services.headless.check import check_pack

    with _one_clear_line(), _progress("checked") as progress:
        checked = check_pack(pack, exercise, progress)
    if json:
        import json as writer

        said = {"exercises": [one.to_json() for one in checked]}
        typer.echo(writer.dumps(said, ensure_ascii=False))
    else:
        for one in checked:
            holding = sum(trial.holds for trial in one.trials)
            typer.echo(f"{one.exercise.id}: {one.problem or 'the reference answer runs'}")
            if one.trials:
                typer.echo(f"  {holding} of {len(one.trials)} trials hold")
            for trial in one.trials:
                if not trial.holds:
                    typer.echo(f"  trial {trial.trial.name}: {trial.said}")
            for warning in one.warnings:
                typer.echo(f"  {warning.code}: {warning.message}")
            if one.sight is not None:
                told = one.sight
                typer.echo(f"  {told.seen} of {told.edits} likely mistakes are told apart")
                for spot in told.blind_spots:
                    typer.echo(f"  blind spot: {spot.message}")
    if not all(one.works for one in checked):
        raise typer.Exit(1)


@app.command()
def grade(
    pack: Annotated[Path, typer.Argument(help="A pack: a folder, or a ZIP of it.")],
    submissions: Annotated[
        Path,
        typer.Option(help="A CSV file, or a folder or ZIP of <learner>/<exercise>.sql."),
    ],
    out: Annotated[Path, typer.Option(help="Where to write the marks: .csv or .json.")],
) -> None:
    """Grade submissions to the exercises of a pack."""
    from collections import Counter

    _begin_workers()
    from jentrow.services.headless.grade import check_target, grade_pack, write_marks

    with _one_clear_line():
        check_target(out)
        with _progress("graded") as progress:
            marked = grade_pack(pack, submissions, progress)
        write_marks(marked, out)
    verdicts = Counter(one.outcome.standing for one in marked)
    counts = ", ".join(f"{count} {verdict}" for verdict, count in verdicts.most_common())
    typer.echo(f"{len(marked)} submissions graded ({counts}); marks are in {out}.")


@contextmanager
def _progress(what: str) -> Iterator[Callable[[int, int], None]]:
    """A progress bar where somebody watches; nothing in a pipe."""
    if not sys.stderr.isatty():
        yield lambda done, total: None
        return
    from rich.console import Console
    from rich.progress import Progress

    with Progress(console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task(what, total=None)
        yield lambda done, total: bar.update(task, completed=done, total=total)


@app.command()
def export(
    out: Annotated[Path, typer.Option(help="A new .zip file, or a new folder.")],
    data: Annotated[Path, typer.Option(help="The folder that keeps all records.")] = Path(
        "jentrow-data"
    ),
    course: Annotated[
        str | None,
        typer.Option(help="The course, by its name in addresses, where there are several."),
    ] = None,
) -> None:
    """Write all samples, exercises and sheets of a course as a pack."""
    from jentrow.services.packs.pack_export import export_folder

    with _one_clear_line():
        title = export_folder(data, out, course)
    typer.echo(f"{title} is in {out}.")


DataOption = Annotated[Path, typer.Option(help="The folder that keeps all records.")]
HostOption = Annotated[str, typer.Option(help="The address to listen on.")]
PortOption = Annotated[int, typer.Option(help="The port to listen on.")]


@app.command()
def serve(
    data: DataOption = Path("jentrow-data"),
    host: HostOption = "127.0.0.1",
    port: PortOption = 8400,
) -> None:
    """Serve the web application."""
    from jentrow.api.server import run_server

    with _one_clear_line():
        run_server(data, host, port)


@app.command()
def demo(
    data: Annotated[
        Path | None, typer.Option(help="A new folder for the records; a temporary one otherwise.")
    ] = None,
    pack: Annotated[Path, typer.Option(help="The pack to load.")] = DEMO_PACK,
    password: Annotated[
        str, typer.Option(help="The password of everybody in the demo; made up otherwise.")
    ] = "",
    engine: Annotated[
        str,
        typer.Option(help="Move the course to this engine, as far as it gives the same there."),
    ] = "",
    host: HostOption = "127.0.0.1",
    port: PortOption = 8400,
) -> None:
    """Load demo data into a new folder, grade it, and serve the web application."""
    import tempfile

    from jentrow.api.server import check_ready, run_server
    from jentrow.services.packs.demo import load_demo

    with tempfile.TemporaryDirectory(prefix="jentrow-demo-") as temporary, _one_clear_line():
        check_ready(host, port)
        folder = data or Path(temporary)
        with _progress("graded") as progress:
            loaded = load_demo(folder, pack, progress, password=password, engine=engine)
        typer.echo(f"{loaded.exercises} exercises and {loaded.submissions} graded submissions.")
        typer.echo(f"Records are in {folder}.")
        who = " or ".join(filter(None, (loaded.instructor, loaded.learner)))
        typer.echo(f"Sign in as {who} with the password {loaded.password}")
        run_server(folder, host, port)


class ServerName(StrEnum):
    """The engines that are servers."""

    postgresql = "postgresql"
    mariadb = "mariadb"


@app.command()
def engines(
    script: Annotated[
        ServerName | None,
        typer.Option(
            help="Print what an administrator runs on this server, with a new password in it."
        ),
    ] = None,
    json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Say which engines answer, in which version, and what is missing where one does not."""
    import secrets

    from jentrow.core.engines.servers.scripts import server_script
    from jentrow.services.headless.engines import engine_states

    if script is not None:
        typer.echo(server_script(script.value, secrets.token_urlsafe(18)), nl=False)
        return
    with _one_clear_line():
        states = engine_states()
    if json:
        import json as writer

        said = [
            {"name": one.name, "label": one.label, "version": one.version, "reason": one.reason}
            for one in states
        ]
        typer.echo(writer.dumps({"engines": said}, ensure_ascii=False))
        return
    for one in states:
        typer.echo(f"{one.label:<12}{one.version or '-':<20} {one.reason or 'answers'}")


@app.command("sign-in-link")
def sign_in_link(
    login: Annotated[
        str | None,
        typer.Argument(help="Somebody's sign-in name; without one, the first instructor."),
    ] = None,
    data: DataOption = Path("jentrow-data"),
) -> None:
    """Print the path of a link that works once: for a new password, or for the first instructor."""
    from jentrow.records.database import opened_records
    from jentrow.services.accounts.links import first_link, password_link

    with _one_clear_line(), opened_records(data) as records:
        token = password_link(records, login) if login else first_link(records)
    typer.echo(
        f"/links/{token}" if token else "There is an instructor already: name their sign-in name."
    )


class GradingDo(StrEnum):
    """What may be done about the grading of all courses."""

    state = "state"
    pause = "pause"
    resume = "resume"


@app.command()
def grading(
    do: Annotated[GradingDo, typer.Argument(help="Say where it stands, stop it, or let it go on.")],
    data: DataOption = Path("jentrow-data"),
) -> None:
    """Look at the grading of all courses, stop it, or let it go on; also beside a running server."""
    from jentrow.records.database import opened_records
    from jentrow.records.tasks import count_tasks, pause_all, paused_courses

    with _one_clear_line(), opened_records(data) as records:
        if do is not GradingDo.state:
            with records.writing() as session:
                pause_all(session, paused=do is GradingDo.pause)
        with records.session() as session:
            waiting = sum(one.all for one in count_tasks(session).values())
            stopped, courses = paused_courses(session)
    typer.echo(f"{waiting} answer{' waits' if waiting == 1 else 's wait'} to be graded.")
    if stopped:
        typer.echo("Grading is stopped, for all courses: jentrow grading resume lets it go on.")
    elif courses:
        typer.echo(f"Grading is stopped by the instructors of {len(courses)} of the courses.")


if __name__ == "__main__":
    app()
