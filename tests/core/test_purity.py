"""The core has no clock, no chance and no I/O: a whole rehearsal is played with sockets, files and `now` barred."""

import subprocess
import sys
from pathlib import Path

import bluffside

SCRIPT = """
import sys
from datetime import UTC, datetime

from bluffside.core.care.calendar import HolidayCalendar
from bluffside.core.rehearsal.scenarios import play_all
from bluffside.core.workflow.checks import check
from bluffside.core.workflow.differences import differences
from bluffside.core.workflow.files import read_workflow, write_workflow
from bluffside.core.workflow.reading import read

texts = [open(path, encoding="utf-8").read() for path in sys.argv[1:]]
zones = {"Europe/London", "Australia/Hobart"}
workflows = [read_workflow(text) for text in texts]


def everything():
    for workflow in workflows:
        others = [one for one in workflows if one is not workflow]
        assert all(verdict.passed for verdict in play_all(workflow, others=others))
        for zone in zones:
            read(workflow, datetime(2026, 3, 2, 9, tzinfo=UTC), zone)
        check(workflow)
        differences(workflow, others[0])
        assert read_workflow(write_workflow(workflow, "yaml")) == workflow


everything()  # once, so that modules are imported and the data of zones and holidays is read

NOT_TOUCHED = ("open", "socket", "subprocess", "os.", "shutil", "tempfile", "glob", "urllib", "sqlite3")
NOT_CALLED = {"now", "utcnow", "today", "time", "time_ns", "monotonic", "perf_counter", "sleep", "urandom", "getrandbits",
              "random", "seed", "uuid4", "input", "print"}
seen = []


def audited(event, arguments):
    if barred and event.startswith(NOT_TOUCHED):
        seen.append(event)
        raise RuntimeError(f"the core touched {event} {arguments}")


def called(frame, event, argument):
    if event == "c_call" and argument.__name__ in NOT_CALLED and argument.__module__ != "re":
        owner = getattr(argument, "__self__", None)
        if owner is datetime or getattr(owner, "__name__", "") in ("time", "random", "os", "date", "datetime", "posix"):
            seen.append(argument.__qualname__)


barred = False
sys.addaudithook(audited)

# The bars hold: each of these is caught.
sys.setprofile(called)
barred = True
datetime.now()
for touch in (lambda: open("/etc/hostname"), lambda: __import__("socket").socket()):
    try:
        touch()
    except RuntimeError:
        pass
barred = False
sys.setprofile(None)
assert "datetime.now" in seen and "open" in seen and any(one.startswith("socket") for one in seen), seen
seen.clear()

sys.setprofile(called)
barred = True
everything()
barred = False
sys.setprofile(None)
sys.stdout.write("touched: " + repr(seen))
"""


def test_a_rehearsal_of_every_example_touches_nothing_outside() -> None:
    examples = sorted((Path(__file__).parents[2] / "docs/examples/workflows").glob("*.yaml"))
    source = str(Path(bluffside.__file__).parents[1])
    done = subprocess.run(
        [sys.executable, "-c", SCRIPT, *map(str, examples)], capture_output=True, text=True, env={"PYTHONPATH": source}
    )
    assert done.stdout == "touched: []", done.stderr[-3000:]
