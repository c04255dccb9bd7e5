"""The command line: the same use cases from a terminal."""

import argparse
import socket
import sys
from dataclasses import replace

from . import flowcli, hourscli, logs
from .settings import Settings, from_environment

MOST_WORKERS = 64
NO_DATABASE = "postgresql+psycopg://"
"""For what describes the program and reads nothing."""


def main(arguments: list[str] | None = None) -> int:
    """Runs one command; gives the exit code (2 for a usage error, 1 for a mistake in what was given)."""
    logs.plain()
    options = parser().parse_args(arguments)
    code: int = options.run(options)
    return code


def parser() -> argparse.ArgumentParser:
    """All commands and their options."""
    top = argparse.ArgumentParser(prog="vokari", description="Tracking numbers, call flows and call attribution.")
    commands = top.add_subparsers(required=True, metavar="COMMAND")

    serve = commands.add_parser("serve", help="serve the application, the call control or the carrier stand-in")
    serve.add_argument("part", nargs="?", choices=("web", "control", "carrier"), default="web")
    serve.add_argument(
        "--workers", type=int, default=1, help="how many processes answer at the port (one unless given)"
    )
    serve.add_argument("--listening", type=int, help=argparse.SUPPRESS)
    serve.add_argument("--crew", type=int, help=argparse.SUPPRESS)
    serve.set_defaults(run=run_serve)

    worker = commands.add_parser("worker", help="do the background work")
    worker.set_defaults(run=run_worker)

    migrate = commands.add_parser("migrate", help="bring the database’s schema up to date")
    migrate.set_defaults(run=run_migrate)

    up = commands.add_parser("up", help="start everything on this machine with the demo world; Ctrl-C ends it")
    up.add_argument("--fresh", action="store_true", help="start over with an empty database")
    up.set_defaults(run=run_up)

    demo = commands.add_parser("demo", help="the demo world").add_subparsers(required=True, metavar="WHAT")
    load = demo.add_parser("load", help="load the demo world, if it is not there yet")
    load.set_defaults(run=run_demo_load)

    document = commands.add_parser("call-control", help="print the call-control protocol’s OpenAPI document")
    document.set_defaults(run=run_document)

    flowcli.add_commands(commands)
    hourscli.add_commands(commands)
    return top


def run_serve(options: argparse.Namespace) -> int:
    from .local.crew import listening, serve
    from .serving import run

    settings = from_environment()
    ports = {"web": settings.port, "control": settings.control_port, "carrier": settings.carrier_port}
    if not 1 <= options.workers <= (1 if options.part == "carrier" else MOST_WORKERS):
        print(f"vokari: 1 to {MOST_WORKERS} workers, and one for the carrier stand-in.", file=sys.stderr)
        return 2
    if options.workers > 1:
        serve(settings, options.part, ports[options.part], options.workers)
    else:
        fd = options.listening
        run(
            options.part,
            listening(ports[options.part]) if fd is None else socket.socket(fileno=fd),
            crew=options.crew,
        )
    return 0


def run_worker(_: argparse.Namespace) -> int:
    from . import worker

    worker.run()
    return 0


def run_document(_: argparse.Namespace) -> int:
    import json

    from .api.control import create
    from .wiring import build

    print(
        json.dumps(
            create(build(replace(from_environment(), database_url=NO_DATABASE))).openapi(), indent=2, ensure_ascii=False
        )
    )
    return 0


def run_migrate(_: argparse.Namespace) -> int:
    from .store.database import migrate

    migrate(from_environment().database_url)
    return 0


def run_up(options: argparse.Namespace) -> int:
    from .local.up import run

    return run(fresh=options.fresh)


def run_demo_load(_: argparse.Namespace) -> int:
    from .demo import load

    calls = load.run(_checked(from_environment()))
    print(f"{calls:,} calls loaded." if calls else "The demo world is there already.")
    return 0


def _checked(settings: Settings) -> Settings:
    if not settings.database_url:
        raise SystemExit("VOKARI_DATABASE_URL names no database; script/demo sets up one of its own.")
    return settings


if __name__ == "__main__":
    sys.exit(main())
