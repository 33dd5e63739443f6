"""The commands of `./ladder`."""

import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from house import keeper, packages, postgres, services
from house.places import HOUSE, PYTHON, ROOT, Trouble, say

_HELP = """Hemp Ladder: CAD in, render-ready meshes out.

  ./ladder start              set up what is missing, start, print the address
  ./ladder stop               stop what start started
  ./ladder worker             one more worker, here or on another machine
  ./ladder test [NAME ...]    every check and test, or the named test modules
  ./ladder bench              measure, as ratios in one run
  ./ladder space [--clean]    say what takes how much; remove what nothing refers to
  ./ladder inspect FILE       say what a file declares
  ./ladder convert FILE -o OUT
"""
_WEB_PORT = 8765


def main(arguments: list[str]) -> int:
    """Run one command; returns the exit code."""
    commands: dict[str, Callable[[list[str]], int]] = {
        "start": _start, "stop": _stop, "worker": _worker, "test": _test, "bench": _bench,
        "inspect": _tool, "convert": _tool, "space": _space,
    }  # fmt: skip
    if not arguments or arguments[0] not in commands:
        print(_HELP, file=sys.stdout if arguments[:1] in ([], ["help"], ["--help"]) else sys.stderr)
        return 0 if arguments[:1] in ([], ["help"], ["--help"]) else 2
    try:
        return commands[arguments[0]](arguments)
    except Trouble as trouble:
        say(str(trouble))
        return 1
    except KeyboardInterrupt:
        return 130


def _cluster() -> postgres.Cluster:
    return postgres.Cluster(postgres.home())


def _start(_: list[str]) -> int:
    HOUSE.mkdir(parents=True, exist_ok=True)
    packages.ensure_debian()
    packages.ensure_python()
    packages.ensure_front_end()
    with keeper.alone():
        port, web = _raise_house()
    services.wait_for(port, web)
    print(f"Hemp Ladder stands at http://127.0.0.1:{port}")
    return 0


def _raise_house() -> tuple[int, services.Service]:
    """Start what does not run, and anew what knows the database by an address it has no more."""
    cluster = _cluster()
    if keeper.own_database():
        cluster.start(keeper.DATABASE_PORT)
    environment = keeper.environment(cluster)
    for service in (services.web(0), services.worker()):
        if service.running and service.database != environment["HEMP_LADDER_DATABASE"]:
            service.stop()
    known = keeper.web_port() or _WEB_PORT
    port = known if services.web(0).running else services.free_port(known)
    web = services.web(port)
    if not web.running:
        _python(["-m", "hemp_ladder.work.prepare"], environment)
        (HOUSE / "port").write_text(str(port))
    web.start(environment)
    services.worker().start(environment)
    keeper.service().start({})
    return port, web


def _stop(_: list[str]) -> int:
    with keeper.alone():
        known = (keeper.service(), services.web(0), services.worker())
        stopped = [service.name for service in known if service.stop()]
    stopped = [name for name in stopped if name != "keeper"]
    if Path("/usr/lib/postgresql/15/bin/pg_ctl").exists() and _cluster().stop():
        stopped.append("database")
    print(f"Stopped: {', '.join(stopped)}." if stopped else "Nothing was running.")
    return 0


def _worker(_: list[str]) -> int:
    packages.ensure_python()
    packages.ensure_node()
    environment = {**os.environ, **keeper.environment(_cluster())}
    if "None" in environment["HEMP_LADDER_DATABASE"]:
        raise Trouble("No database is running. Run ./ladder start first, or set HEMP_LADDER_DATABASE.")
    say("A worker is taking tasks; Ctrl+C ends it.")
    return subprocess.run([str(PYTHON), "-m", "hemp_ladder.work.worker"], cwd=ROOT, env=environment).returncode


def _space(arguments: list[str]) -> int:
    packages.ensure_python()
    environment = {**os.environ, **keeper.environment(_cluster())}
    if "None" in environment["HEMP_LADDER_DATABASE"]:
        raise Trouble("No database is running. Run ./ladder start first, or set HEMP_LADDER_DATABASE.")
    command = [str(PYTHON), "-m", "hemp_ladder.work.space", *arguments[1:]]
    return subprocess.run(command, cwd=ROOT, env=environment).returncode


def _test(arguments: list[str]) -> int:
    packages.ensure_debian(browser=True)
    packages.ensure_python()
    packages.ensure_front_end()
    return subprocess.run([str(PYTHON), "-m", "tests.run", *arguments[1:]], cwd=ROOT).returncode


def _bench(arguments: list[str]) -> int:
    packages.ensure_debian(browser=True)
    packages.ensure_python()
    packages.ensure_node()
    return subprocess.run([str(PYTHON), "-m", "bench", *arguments[1:]], cwd=ROOT).returncode


def _tool(arguments: list[str]) -> int:
    """`inspect` and `convert`, in the caller's folder: paths mean what the caller meant."""
    packages.ensure_python()
    if arguments[0] == "convert":
        packages.ensure_node()
    # What is compiled is kept out of the source tree, and kept: compiling takes a third of a short command.
    environment = {**os.environ, "PYTHONPATH": str(ROOT), "PYTHONPYCACHEPREFIX": str(HOUSE / "compiled")}
    environment.pop("PYTHONDONTWRITEBYTECODE", None)
    os.execve(str(PYTHON), [str(PYTHON), "-m", "hemp_ladder", *arguments], environment)  # noqa: S606


def _python(arguments: list[str], environment: dict[str, str]) -> None:
    done = subprocess.run([str(PYTHON), *arguments], cwd=ROOT, env={**os.environ, **environment})
    if done.returncode:
        raise Trouble("The database could not be prepared; what went wrong stands above.")
