"""Web and worker, started anew when one dies, stopped cleanly on Ctrl+C."""

import signal
import subprocess
import time
import urllib.request
from collections.abc import Mapping
from types import FrameType

from launcher.machine import ROOT, Missing, say

QUICK = 5.0  # seconds; who dies sooner than this again and again is given up
MOST_QUICK_DEATHS = 5


class Stopped(Exception):
    """Ctrl+C, or the machine asks us to end."""


def _stop(number: int, frame: FrameType | None) -> None:
    raise Stopped


def web_command(address: str, log_level: str = "warning") -> list[str]:
    """The web server at an address, as Python's arguments. With threads: a worker without them waits for a connection that
    a browser opened ahead and does not use yet, and answers nobody meanwhile. Loaded once, and then forked."""
    return ["-m", "gunicorn", "bluffside.server.wsgi", "--bind", address.removeprefix("http://"),
            "--preload", "--workers", "2", "--worker-class", "bluffside.server.slow_clients.Worker", "--threads", "16",
            "--timeout", "60", "--log-level", log_level]  # fmt: skip


def until_it_answers(address: str) -> None:
    """Raises TimeoutError after some 20 seconds."""
    for _ in range(100):
        if _answers(address):
            return
        time.sleep(0.2)
    raise TimeoutError("the web server does not answer")


def keep_running(commands: Mapping[str, list[str]], env: dict[str, str], address: str, ready: str) -> None:
    """Runs the commands until stopped; prints `ready` once the address answers."""
    signal.signal(signal.SIGTERM, _stop)
    signal.signal(signal.SIGINT, _stop)
    processes: dict[str, subprocess.Popen[bytes]] = {}
    begun: dict[str, float] = {}
    deaths = dict.fromkeys(commands, 0)

    def begin(name: str) -> None:
        begun[name] = time.monotonic()
        processes[name] = subprocess.Popen(commands[name], cwd=ROOT, env=env, start_new_session=True)

    try:
        for name in commands:
            begin(name)
        told = False
        while True:
            for name, process in processes.items():
                if process.poll() is None:
                    continue
                deaths[name] = deaths[name] + 1 if time.monotonic() - begun[name] < QUICK else 1
                if deaths[name] > MOST_QUICK_DEATHS:
                    raise Missing(f"The {name} process dies as soon as it starts; its last words stand above.")
                say(f"The {name} process ended with {process.returncode}; starting it again.")
                begin(name)
            if not told and _answers(address):
                say(ready)
                told = True
            time.sleep(0.3)
    except Stopped:
        say("\nStopping …")
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        for process in processes.values():
            if process.poll() is None:
                process.terminate()
        for process in processes.values():
            try:
                process.wait(timeout=15)
            except subprocess.TimeoutExpired:
                process.kill()


def _answers(address: str) -> bool:
    try:
        with urllib.request.urlopen(f"{address}/api/session", timeout=2) as answer:  # noqa: S310  # our own address
            return bool(answer.status == 200)
    except OSError:
        return False
