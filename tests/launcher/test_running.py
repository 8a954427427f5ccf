"""The launcher keeps web and worker running, starts anew the one that dies, and stops both on Ctrl+C."""

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from launcher.database import free_port
from launcher.machine import Missing

from launcher import machine

ROOT = Path(__file__).parents[2]
KEEP = """
import os, sys
from launcher.running import keep_running
note = "import os, sys, time; open(sys.argv[1], 'a').write(f'{os.getpid()}\\\\n'); time.sleep(60)"
commands = {name: [sys.executable, "-c", note, f"{sys.argv[1]}/{name}"] for name in ("web", "worker")}
keep_running(commands, dict(os.environ), "http://127.0.0.1:9", "")
"""


def wait_for(what: Callable[[], object]) -> None:
    for _ in range(100):
        if what():
            return
        time.sleep(0.1)
    pytest.fail("it did not come about in ten seconds")


def alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return True


def test_who_dies_is_started_again_and_ctrl_c_stops_both(tmp_path: Path) -> None:
    keeper = subprocess.Popen([sys.executable, "-c", KEEP, str(tmp_path)], cwd=ROOT, stdout=subprocess.PIPE)

    def pids(name: str) -> list[int]:
        path = tmp_path / name
        return [int(line) for line in path.read_text().split()] if path.exists() else []

    try:
        wait_for(lambda: pids("web") and pids("worker"))
        os.kill(pids("worker")[0], signal.SIGKILL)
        wait_for(lambda: len(pids("worker")) == 2)
        assert len(pids("web")) == 1
        keeper.send_signal(signal.SIGINT)
        keeper.wait(timeout=10)
        wait_for(lambda: not any(alive(pid) for pid in pids("web") + pids("worker")))
    finally:
        keeper.kill()


def test_without_root_the_missing_packages_are_named_with_the_command(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(machine, "_is_there", lambda sign: False)
    monkeypatch.setattr("os.geteuid", lambda: 1000)
    monkeypatch.setattr("shutil.which", lambda name: "/usr/bin/" + name)
    with pytest.raises(
        Missing, match="As root, run:\n  apt-get update && apt-get install .*postgresql chromium-headless-shell"
    ):
        machine.debian_packages(for_tests=True, own_database=True)


def test_without_a_network_what_could_not_be_had_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(machine, "_is_there", lambda sign: False)
    monkeypatch.setattr("os.geteuid", lambda: 0)
    monkeypatch.setattr("shutil.which", lambda name: "/usr/bin/" + name)
    no_network = subprocess.CompletedProcess([], 100, stdout="Could not resolve the mirror's name")
    monkeypatch.setattr(subprocess, "run", lambda *args, **options: no_network)
    with pytest.raises(Missing, match="(?s)Could not resolve.*Is there a network.*apt-get install"):
        machine.debian_packages(for_tests=False, own_database=True)


def test_a_port_that_is_taken_is_passed_over() -> None:

    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert free_port(port) != port


def test_a_new_key_keeps_the_ones_before_the_newest_first_and_lets_nobody_else_read_them(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.delenv("BLUFFSIDE_SECRET_KEY", raising=False)
    monkeypatch.setattr(machine, "DATA", tmp_path)
    monkeypatch.setattr(machine, "SECRET", tmp_path / "secret")
    monkeypatch.setattr(machine, "OLD_SECRETS", tmp_path / "secret.old")
    had = [machine.secret()]
    for _ in range(2):
        machine.rotate_secret()
        had.insert(0, machine.secret())
    assert len(set(had)) == 3 and machine.OLD_SECRETS.read_text().split() == had[1:]
    assert {path.stat().st_mode & 0o777 for path in tmp_path.iterdir()} == {0o600}
    monkeypatch.setenv("BLUFFSIDE_SECRET_KEY", "set elsewhere")
    with pytest.raises(Missing, match="BLUFFSIDE_OLD_KEYS"):
        machine.rotate_secret()
