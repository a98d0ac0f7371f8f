"""The command line: ``lean-lattice serve | run | check | doctor | bench``."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

if TYPE_CHECKING:
    from .exchange.kinds.kind import NotMade
    from .exchange.pack import Written
    from .statement.document import Statement
    from .statement.evaluate import Outcome

app = typer.Typer(
    add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, help=__doc__
)


@app.command()
def serve(
    demo: Annotated[
        bool, typer.Option(help="Put the demo projects in when there are none.")
    ] = False,
    port: Annotated[int | None, typer.Option(help="Port on 127.0.0.1; 8400 unless set.")] = None,
    data: Annotated[Path | None, typer.Option(help="Folder the projects are kept in.")] = None,
) -> None:
    """Starts the application on this machine."""
    import uvicorn

    from .api.front import Front
    from .api.settings import Settings
    from .store.lock import FolderTaken, held_folder

    given = {"port": port, "data": data, "demo": demo or None}
    settings = Settings(**{k: v for k, v in given.items() if v is not None})  # type: ignore[arg-type]
    address = f"http://127.0.0.1:{settings.port}"
    try:
        with held_folder(settings.data, address):
            typer.echo(f"Lean Lattice: {address}  (projects in {settings.data})")
            front = Front(settings)
            # The window is on the same machine: packing what it draws would take longer than
            # sending it.
            config = uvicorn.Config(
                front,
                host="127.0.0.1",
                port=settings.port,
                log_level="warning",
                ws_max_size=4_000_000,
                ws_per_message_deflate=False,
            )
            server = uvicorn.Server(config)
            front.on_failure = lambda: setattr(server, "should_exit", True)
            server.run()
    except FolderTaken as taken:
        typer.echo(str(taken), err=True)
        raise typer.Exit(1) from None
    if front.failed:
        typer.echo(front.failed, err=True)
        raise typer.Exit(1)


@app.command()
def doctor(
    data: Annotated[Path | None, typer.Option(help="Folder the projects are kept in.")] = None,
    restore: Annotated[
        str, typer.Option(help="Put a copy of the database back: “latest”, or its name.")
    ] = "",
    tidy: Annotated[
        bool, typer.Option(help="Remove what was left half-written; rebuild indexes.")
    ] = False,
) -> None:
    """Checks what is kept, mends what can be, and puts copies of the database back.

    Exit 0 when all is well, 1 when something is not, 2 on bad use.
    """
    from .api.settings import Settings
    from .store.copies import copies, put_back
    from .store.doctor import examine
    from .store.doctor import tidy as tidied
    from .store.lock import FolderTaken, held_folder

    folder = data or Settings().data
    if not folder.is_dir():
        typer.echo(f"{folder} is not a folder.", err=True)
        raise typer.Exit(2)
    try:
        if restore or tidy:
            with held_folder(folder, "the doctor"):
                if restore:
                    good = [c for c in copies(folder) if not c.wrong]
                    named = [c for c in good if restore in ("latest", c.file.name)]
                    if not named:
                        there = ", ".join(c.file.name for c in good) or "none"
                        typer.echo(f"No sound copy “{restore}”; there are: {there}.", err=True)
                        raise typer.Exit(2)
                    aside = put_back(folder, named[0].file)
                    typer.echo(f"Put back the copy of {named[0].made}.")
                    for path in aside:
                        typer.echo(f"What was there is kept as {path.name}.")
                for path in tidied(folder) if tidy else ():
                    typer.echo(f"Removed {path.relative_to(folder)}.")
    except FolderTaken as taken:
        typer.echo(str(taken), err=True)
        raise typer.Exit(2) from None
    wrong = False
    for found in examine(folder):
        wrong |= not found.sound
        typer.echo(f"{'sound' if found.sound else 'WRONG'}  {found.of}: {found.text}")
    raise typer.Exit(int(wrong))


@app.command()
def run(
    statement: Annotated[Path, typer.Argument(help="Statement file (JSON).")],
    out: Annotated[Path, typer.Option(help="Folder for the pack.")],
    parts: Annotated[
        bool, typer.Option(help="Also write every flat part as a file of its own.")
    ] = False,
    step: Annotated[
        bool,
        typer.Option(help="Also write solids and hubs as STEP, which may take a minute."),
    ] = False,
    machine: Annotated[
        bool, typer.Option(help="Also write members for machines, as DSTV NC and BTLx.")
    ] = False,
) -> None:
    """Evaluates a statement and writes its pack to the folder out; parts, step and machine ask for
    what is only written on request.

    Exit 0 when all is written, 3 when something designed could not be made, 1 when a clause or a
    check failed (what could be written is), 2 on bad use.
    """
    from .exchange.groups import GROUPS
    from .exchange.pack import write_pack
    from .statement.document import StatementError
    from .statement.upgrade import read_upgraded
    from .store.database import in_words

    try:
        document = read_upgraded(statement.read_bytes())
    except (OSError, StatementError) as error:
        typer.echo(f"{statement}: {error}", err=True)
        raise typer.Exit(2) from None
    if out.exists() and not out.is_dir():
        typer.echo(f"{out} is a file; give a folder.", err=True)
        raise typer.Exit(2)
    asked = {"parts": parts, "bodies.step": step, "hubs.step": step, "machine": machine}
    wanted = {name for name, group in GROUPS.items() if not group.on_request or asked[name]}
    outcomes = _evaluated(document)
    try:
        written = write_pack(
            out,
            document,
            outcomes,
            wanted,
            progress=lambda name, share: typer.echo(f"{share:4.0%}  {name}"),
        )
    except OSError as error:
        typer.echo(f"The pack could not be written: {in_words(error, out) or error}", err=True)
        raise typer.Exit(2) from None
    raise typer.Exit(_said_at_the_end(out, outcomes, written))


def _evaluated(document: Statement) -> list[Outcome]:
    """Outcomes of all clauses, saying how each went."""
    from .exchange.material import unused
    from .exchange.processes import Reader
    from .statement.evaluate import ResultCache, evaluate, last_of_each
    from .statement.plan import plan
    from .statement.standing import amended, notices_of, still_told
    from .store.files import opener

    embedded = {digest: file.bytes() for digest, file in document.files.items()}
    open_file = opener(embedded.__getitem__, Reader())
    steps = plan(document)
    outcomes, standing, anew = [], notices_of(steps), amended(steps)
    for outcome in evaluate(document, ResultCache(), open_file=open_file):
        outcomes.append(outcome)
        typer.echo(f"{outcome.id}: {outcome.status}, {outcome.seconds:.2f} s  {outcome.sentence}")
        told = still_told(outcome.warnings, outcome.id, anew)
        for warning in (*told, *standing.get(outcome.id, ())):
            typer.echo(f"  note: {warning.text}")
    outcomes = last_of_each(outcomes)
    for outcome in unused(outcomes):
        typer.echo(f"{outcome.id}: nothing below uses this.")
    return outcomes


def _said_at_the_end(out: Path, outcomes: list[Outcome], written: Written) -> int:
    """Says what is written and what is not; gives the exit status."""
    failed = [o for o in outcomes if o.status in ("failed", "begun", "waiting")]
    for o in failed:
        value = f" (value: {o.error_value})" if o.error_value and o.status == "failed" else ""
        typer.echo(f"{o.id}: {o.error}{value}", err=True)
    for finding in written.wrong:
        typer.echo(
            f"{finding.check}: {finding.worst:g} {finding.unit} at {finding.where}", err=True
        )
    for why, things in _by_reason(written.not_made).items():
        typer.echo(
            f"Not made, {why}: {', '.join(things[:8])}{' …' if len(things) > 8 else ''}", err=True
        )
    for name in written.foreign:
        typer.echo(f"{name} was in the folder before and is not of this pack.", err=True)
    if written.held_back:
        typer.echo(
            f"Held back: only the statement, its report and the checks are in {out}.", err=True
        )
    else:
        typer.echo(f"Written to {out}.")
    return 1 if failed or written.wrong else 3 if written.not_made else 0


def _by_reason(missing: list[NotMade]) -> dict[str, list[str]]:
    out: dict[str, list[str]] = {}
    for m in missing:
        out.setdefault(m.why, []).append(f"{m.what} {m.label}")
    return out


@app.command()
def check(
    pack: Annotated[Path, typer.Argument(help="Folder of a pack.")],
    as_json: Annotated[bool, typer.Option("--json", help="Print the findings as JSON.")] = False,
) -> None:
    """Reads a pack back and verifies it from the files alone: exit 0 when all is well, 1 when not,
    2 on bad use."""
    from dataclasses import asdict

    from .exchange.check import check_pack

    if not pack.is_dir():
        typer.echo(f"{pack} is not a folder.", err=True)
        raise typer.Exit(2)
    findings = check_pack(pack)
    if as_json:
        typer.echo(json.dumps([asdict(f) for f in findings], ensure_ascii=False, indent=2))
    else:
        for f in findings:
            where = (
                f"  worst {f.worst:g} {f.unit}" + (f" at {f.where}" if f.where else "")
                if f.unit
                else f.where
            )
            typer.echo(
                f"{'passed' if f.passed else 'FAILED'}  {f.check}{where if f.unit else '  ' + where}"
            )
    raise typer.Exit(0 if all(f.passed for f in findings) else 1)


@app.command()
def bench(
    only: Annotated[str, typer.Option(help="Run only rows whose name contains this.")] = "",
) -> None:
    """Prints the table of speed ratios; exit 1 when one is above its limit."""
    import runpy

    folder = Path(__file__).resolve().parents[1] / "benchmarks"
    raise typer.Exit(runpy.run_path(str(folder / "table.py"))["main"](only))


@app.command("openapi", hidden=True)
def openapi(out: Path) -> None:
    """Writes the OpenAPI document, from which the interface's types are generated."""
    from .api.app import create_app
    from .api.settings import Settings

    out.parent.mkdir(parents=True, exist_ok=True)
    out.write_text(json.dumps(create_app(Settings()).openapi(), indent=1), encoding="utf-8")


if __name__ == "__main__":
    app()
