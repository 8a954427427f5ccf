"""The launcher's commands."""

import argparse
import os
import subprocess
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path
from xml.etree import ElementTree

from launcher import machine
from launcher.database import app_url, database, free_port
from launcher.machine import ROOT, Missing, django_env, python, say
from launcher.running import keep_running, web_command

HELP = """usage: ./bluffside COMMAND

  start [--port N]    set everything up and run Bluffside until Ctrl+C
  serve [--port N]    the same for real use: no demo, no clock to move, no simulated phones; at BLUFFSIDE_ADDRESS
  test [ARGS]         set everything up and run every check and test; ARGS go to pytest
  reset-demo          remove everything and make the demo anew
  rehearse FILE …     play a workflow through from files alone (--help says how)
  bench [NAME]        measure: core (against simpy), engine (against PostgreSQL alone), enrol, fairness, page; by name: booking, deals, dirty, people, replies, results, scale, score
  worker              one more worker beside those that run, here or on another machine (DATABASE_URL)
  doctor              say in words what is wrong, and what to do
  aside [--retry]     show what failed and was set aside, and have it tried again
  backup FILE         write everything, or one account (--account NAME), into a file
  restore FILE        put a back-up into an empty installation, and compare
  new-key             sign by a new key from now on; what older ones signed still holds
  soak                kill workers and the database again and again, and count every message
  shots [ADDRESS]     take the pictures of docs/screenshots from a running demo
  manage …            a Django command (migrate, shell, export_schema …)
"""


MOST_ALONE = 5  # tests that are run once more
HERE = Path.cwd()


def main(arguments: list[str]) -> int:
    name, *rest = arguments or ["help"]
    commands: dict[str, Callable[[list[str]], int]] = {
        "start": start,
        "serve": serve,
        "test": test,
        "reset-demo": reset_demo,
        "rehearse": rehearse,
        "bench": bench,
        "shots": shots,
        "manage": manage,
        "worker": worker,
        "doctor": partial(as_application, "doctor"),
        "aside": partial(as_application, "aside"),
        "backup": partial(as_owner, "backup"),
        "restore": partial(as_owner, "restore"),
        "new-key": new_key,
        "soak": soak,
    }
    if name not in commands:
        print(HELP)
        return 0 if name in ("help", "--help", "-h") else 2
    os.chdir(ROOT) if name != "rehearse" else None
    try:
        return commands[name](rest)
    except Missing as error:
        print(f"\n{error}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


def _prepare(for_tests: bool = False) -> None:
    machine.debian_packages(for_tests, own_database="DATABASE_URL" not in os.environ)
    machine.virtual_environment()


def _django(url: str, *arguments: str, **more: str) -> None:
    done = subprocess.run([python(), "-m", "django", *arguments], env=django_env(DATABASE_URL=url, **more), cwd=ROOT)
    if done.returncode:
        raise Missing(f"“{' '.join(arguments)}” failed; what it said stands above.")


def _made(url: str) -> None:
    """The database itself, where the server does not have it yet."""
    script = "from launcher.create_database import create; create()"
    done = subprocess.run([python(), "-c", script], env=django_env(DATABASE_URL=url), cwd=ROOT)
    if done.returncode:
        raise Missing("The database cannot be reached or made; what it said stands above.")


def _migrated(url: str) -> None:
    _made(url)
    _django(url, "migrate", "--verbosity", "0")


def start(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="bluffside start")
    parser.add_argument("--port", type=int, default=8000)
    options = parser.parse_args(arguments)
    began = time.monotonic()
    _prepare()
    machine.web_app()
    with database() as url:
        _migrated(url)
        here = f"http://127.0.0.1:{free_port(options.port)}"
        address = here.replace("127.0.0.1", "localhost")  # passkeys belong to a name, and an address of numbers is none
        _django(url, "load_demo", BLUFFSIDE_ADDRESS=address)
        env = django_env(DATABASE_URL=app_url(url), BLUFFSIDE_ADDRESS=address)
        from_cast = "from bluffside.server.demo.cast import *; print(CONSULTANT[1], PARTS[0].member[1], PASSWORD, PARTS[0].name, sep='|')"
        told = subprocess.run(
            [python(), "-c", from_cast], env=env, capture_output=True, text=True, cwd=ROOT
        ).stdout.strip()
        consultant, member, password, account = told.split("|")
        ready = (
            f"\nBluffside runs at {address}   (ready after {time.monotonic() - began:.0f} s; Ctrl+C stops it)\n\n"
            f"  consultant, all accounts            {consultant}   {password}\n"
            f"  team member, {account:<20}   {member}       {password}\n"
        )
        keep_running(
            {"web": [python(), *web_command(here)], "worker": [python(), "-m", "django", "work"]},
            env,
            here,
            ready,
        )
    return 0


def serve(arguments: list[str]) -> int:
    """Listens on loopback; the proxy in front is reached at BLUFFSIDE_ADDRESS."""
    parser = argparse.ArgumentParser(prog="bluffside serve")
    parser.add_argument("--port", type=int, default=8000)
    options = parser.parse_args(arguments)
    _prepare()
    machine.web_app()
    with database() as url:
        _migrated(url)
        here = f"http://127.0.0.1:{free_port(options.port)}"
        address = os.environ.get("BLUFFSIDE_ADDRESS", here.replace("127.0.0.1", "localhost"))
        _django(url, "take_into_use", BLUFFSIDE_ADDRESS=address)
        env = django_env(DATABASE_URL=app_url(url), BLUFFSIDE_ADDRESS=address)
        commands = {"web": [python(), *web_command(here)], "worker": [python(), "-m", "django", "work"]}
        keep_running(commands, env, here, f"\nBluffside runs at {address}, listening at {here}; Ctrl+C stops it.\n")
    return 0


def reset_demo(arguments: list[str]) -> int:
    _prepare()
    with database() as url:
        _migrated(url)
        _django(url, "load_demo", "--reset")
    say("The demo is as it was.")
    return 0


def rehearse(arguments: list[str]) -> int:
    machine.virtual_environment()
    command = [python(), "-m", "bluffside.commandline.rehearse", *arguments]
    return subprocess.run(command, env=os.environ | {"PYTHONPATH": str(ROOT / "src")}).returncode


def manage(arguments: list[str]) -> int:
    _prepare()
    with database() as url:
        _made(url)
        return subprocess.run(
            [python(), "-m", "django", *arguments], env=django_env(DATABASE_URL=url), cwd=ROOT
        ).returncode


def as_application(name: str, arguments: list[str]) -> int:
    """A command that works behind the walls, as web and workers do."""
    _prepare()
    with database() as url:
        if app_url(url) != url:  # a worker elsewhere needs no more than the role that it works as
            _made(url)
        env = django_env(DATABASE_URL=app_url(url))
        return subprocess.run([python(), "-m", "django", name, *arguments], env=env, cwd=ROOT).returncode


def as_owner(name: str, arguments: list[str]) -> int:
    """A command of the database's owner; files are meant from where it was called."""
    arguments = [one if one.startswith("-") else str(HERE / one) for one in arguments[:1]] + arguments[1:]
    _prepare()
    with database() as url:
        (_made if name == "backup" else _migrated)(url)  # a back-up changes nothing of what it keeps
        env = django_env(DATABASE_URL=url)
        return subprocess.run([python(), "-m", "django", name, *arguments], env=env, cwd=ROOT).returncode


def new_key(arguments: list[str]) -> int:
    """Takes effect when web and workers start anew; other machines need both files."""
    machine.rotate_secret()
    say(f"A new key is in {machine.SECRET}, the one before in {machine.OLD_SECRETS}. Start web and workers anew.")
    return 0


def worker(arguments: list[str]) -> int:
    return as_application("work", arguments)


def soak(arguments: list[str]) -> int:
    _prepare(for_tests=True)
    command = [python(), "-m", "bench.soak", *arguments]
    return subprocess.run(command, env=django_env(), cwd=ROOT).returncode


def shots(arguments: list[str]) -> int:
    _prepare(for_tests=True)
    command = [python(), "-m", "launcher.shots", *(arguments or ["http://127.0.0.1:8000"])]
    return subprocess.run(command, env=django_env(), cwd=ROOT).returncode


BENCHES = ("core", "engine", "enrol", "fairness", "letters", "page")
SLOW = ("scale", "soak", "people", "dirty", "booking", "deals", "replies", "results", "score")
# As many as cores: browsers, servers and databases of the tests share them, too.
TEST_PROCESSES = "2"


def bench(arguments: list[str]) -> int:
    """One bench, or those that take minutes in all; those of SLOW take longer and are asked for by name."""
    names = arguments[:1] or list(BENCHES)
    if unknown := set(names) - {*BENCHES, *SLOW}:
        raise Missing(f"There is no bench “{unknown.pop()}”. There are {', '.join((*BENCHES, *SLOW))}.")
    _prepare(for_tests=True)
    with database() as url:
        _made(url)
        for name in names:
            say(f"bench {name} …")
            command = [python(), "-m", f"bench.{name}", *arguments[1:]]
            code = subprocess.run(command, env=django_env(DATABASE_URL=url), cwd=ROOT).returncode
            if code:
                return code
    return 0


def test(arguments: list[str]) -> int:
    """Every test, and beside them linters and types; with arguments, only pytest with them."""
    _prepare(for_tests=True)
    machine.web_app()
    with database() as url, ThreadPoolExecutor() as beside:
        _made(url)
        env = django_env(DATABASE_URL=url)
        failing = beside.submit(_ahead_and_checks, env) if not arguments else None
        say("pytest …")
        found = ROOT / "data" / "tests.xml"
        found.unlink(missing_ok=True)
        usual = ["-n", TEST_PROCESSES, "--dist", "worksteal", f"--junitxml={found}"]
        command = [python(), "-m", "pytest", *(arguments or usual)]
        code = subprocess.run(command, env=env, cwd=ROOT).returncode
        failed = failing.result() if failing else []
        if code and not arguments and (again := _few_alone(found)):
            say(f"Once more, with nothing beside them: {', '.join(again)}")
            code = subprocess.run([python(), "-m", "pytest", *again], env=env, cwd=ROOT).returncode
            say(
                "They hold by themselves: unsteady on a busy machine." if code == 0 else "They fail by themselves, too."
            )
    if failed:
        say(f"Beside the tests, these failed: {', '.join(failed)}")
    return 1 if failed else code


def _few_alone(found: Path) -> list[str]:
    """The tests that failed, where they are a few: all share two cores, and a browser, a thread or a mail server that is kept waiting is
    not a wrong result. What fails by itself, too, is one."""
    cases = ElementTree.parse(found).iter("testcase") if found.exists() else []  # noqa: S314  # our own file
    wrong = [one for one in cases if one.find("failure") is not None or one.find("error") is not None]
    names = [f"{(one.get('classname') or '').replace('.', '/')}.py::{one.get('name')}" for one in wrong]
    return names if len(names) <= MOST_ALONE else []


def _ahead_and_checks(env: dict[str, str]) -> list[str]:
    """Makes the demo that the tests in the browser wait for, then runs linters and types; answers what failed, which is
    printed when it is known."""
    bin, web = Path(python()).parent, machine.node()
    checks: list[tuple[str, list[str], Path, dict[str, str]]] = [
        ("demo", [python(), "-m", "tests.databases"], ROOT, env),
        ("ruff", [f"{bin}/ruff", "check", "."], ROOT, env),
        ("ruff format", [f"{bin}/ruff", "format", "--check", "."], ROOT, env),
        ("import-linter", [f"{bin}/lint-imports"], ROOT, env),
        ("mypy", [f"{bin}/mypy"], ROOT, env),
        ("vue-tsc", ["npx", "--no-install", "vue-tsc", "--noEmit"], machine.WEB, web),
        ("eslint", ["npx", "--no-install", "eslint", "."], machine.WEB, web),
        ("prettier", ["npx", "--no-install", "prettier", "--check", "."], machine.WEB, web),
        ("vitest", ["npx", "--no-install", "vitest", "run"], machine.WEB, web),
    ]
    failed = []
    for name, command, folder, with_env in checks:
        done = subprocess.run(command, cwd=folder, env=with_env, capture_output=True, text=True)
        if done.returncode:
            failed.append(name)
            say(f"\n{name} failed:\n{done.stdout[-6000:]}{done.stderr[-2000:]}")
    return failed
