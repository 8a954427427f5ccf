"""Three workers on machines of their own, one database: one machine is cut off in the middle of its work, the worker of
another is killed, and at the end each message has gone once.

The machines are network namespaces on a bridge, each with a cable of its own that can be pulled. Needs root.
"""

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from django.conf import settings
from launcher.database import Cluster, app_url

BRIDGE, HOME = "bluffbr0", "10.199.77.1"
PEOPLE = 1_500
SET_UP = """
import os, django; django.setup()
from django.core.management import call_command
call_command("migrate", verbosity=0)
from bench.ground import make_people
from tests.server.conftest import make_house
from bluffside.server.events.stream import Cause
from bluffside.server.workflows import enrolling
from bluffside.server.outside.models import Temper
house = make_house()
make_people(house.sailing.id, {people})
text = {{"kind": "text", "id": "one", "message": {{"name": "One", "body": "Ahoy"}}}}
mail = {{"kind": "email", "id": "two", "message": {{"name": "Two", "subject": "S", "body": "Ahoy again"}}}}
workflow = house.workflow(steps=[text, mail], leaves_on=[])
Temper.objects.create(slow=100)
ids = list(house.sailing.contacts.exclude(mobile__endswith="99").values_list("id", flat=True))
enrolling.enrol(workflow, ids, "test", Cause())
print(len(ids))
"""


def ip(*words: str) -> None:
    subprocess.run(["ip", *words], check=True, capture_output=True)


class Machine:
    def __init__(self, number: int) -> None:
        self.name, self.cable, self.address = f"bluff{number}", f"bluffv{number}", f"10.199.77.{10 + number}"
        ip("netns", "add", self.name)
        ip("link", "add", self.cable, "type", "veth", "peer", "name", "eth0", "netns", self.name)
        ip("link", "set", self.cable, "master", BRIDGE, "up")
        for words in (
            ("addr", "add", f"{self.address}/24", "dev", "eth0"),
            ("link", "set", "eth0", "up"),
            ("link", "set", "lo", "up"),
        ):
            ip("-n", self.name, *words)
        self.worker: subprocess.Popen[bytes] | None = None

    def start(self, url: str) -> None:
        env = os.environ | {"DATABASE_URL": url, "PYTHONPATH": str(settings.ROOT / "src"), "BLUFFSIDE_LEASE": "8"}
        command = ["ip", "netns", "exec", self.name, sys.executable, "-m", "django", "work"]
        self.worker = subprocess.Popen(command, env=env, stderr=subprocess.DEVNULL, start_new_session=True)

    def pull_cable(self) -> None:
        ip("link", "set", self.cable, "down")

    def kill(self) -> None:
        if self.worker and self.worker.poll() is None:
            os.killpg(self.worker.pid, signal.SIGKILL)
            self.worker.wait()

    def remove(self) -> None:
        self.kill()
        ip("link", "del", self.cable)
        ip("netns", "del", self.name)


@pytest.fixture
def machines() -> Iterator[list[Machine]]:
    if subprocess.run(["ip", "netns", "add", "bluffprobe"], capture_output=True).returncode:
        pytest.skip("network namespaces cannot be made here: that needs root")
    ip("netns", "del", "bluffprobe")
    for left in (["link", "del", BRIDGE], *(["link", "del", f"bluffv{n}"] for n in range(3))):
        subprocess.run(["ip", *left], capture_output=True)  # by a run that was killed
    for number in range(3):
        subprocess.run(["ip", "netns", "del", f"bluff{number}"], capture_output=True)
    ip("link", "add", BRIDGE, "type", "bridge")
    ip("addr", "add", f"{HOME}/24", "dev", BRIDGE)
    ip("link", "set", BRIDGE, "up")
    made = [Machine(number) for number in range(3)]
    yield made
    for machine in made:
        machine.remove()
    ip("link", "del", BRIDGE)


@pytest.fixture
def cluster(machines: list[Machine]) -> Iterator[Cluster]:
    folder = Path(tempfile.mkdtemp(prefix="bluffside-machines-"))
    folder.chmod(0o755)
    made = Cluster(folder / "pg", also=HOME)
    made.make()
    made.start()
    yield made
    made.stop("immediate")
    shutil.rmtree(folder)


def test_a_machine_cut_off_and_a_worker_killed_lose_nothing_and_double_nothing(
    machines: list[Machine], cluster: Cluster
) -> None:
    url = cluster.url("machines")
    env = os.environ | {"DATABASE_URL": url, "PYTHONPATH": f"{settings.ROOT / 'src'}:{settings.ROOT}"}

    def run(code: str) -> str:
        done = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, cwd=settings.ROOT)
        assert done.returncode == 0, done.stderr
        return done.stdout

    run("from launcher.create_database import create; create()")
    expected = int(run(SET_UP.format(people=PEOPLE)))
    seen_from_outside = app_url(url).replace("127.0.0.1", HOME)
    for machine in machines:
        machine.start(seen_from_outside)
    cut_off, killed, _ = machines
    with psycopg.connect(url, autocommit=True) as there:

        def count(query: str) -> int:
            row = there.execute(f"SELECT count(*) FROM {query}").fetchone()
            assert row
            return int(row[0])

        def until(query: str, number: int, patience: float) -> None:
            began = time.monotonic()
            while count(query) < number:
                assert time.monotonic() - began < patience, f"{query}: {count(query)} of {number}"
                time.sleep(0.05)

        until("practice_workerseen", 3, 60)
        until("outside_item", 200, 60)
        until(f"pg_stat_activity WHERE client_addr = '{cut_off.address}' AND state <> 'idle'", 1, 30)
        cut_off.pull_cable()
        until("outside_item", 600, 60)
        killed.kill()
        until("workflows_enrolment WHERE ended <> ''", expected, 120)
        until("messaging_message WHERE state IN ('sent', 'delivered')", 2 * expected, 120)
        held = Counter(there.execute("SELECT theirs, channel FROM outside_item").fetchall())
        assert len(held) == 2 * expected
        assert set(held.values()) == {1}
        assert count("workflows_turn") == expected
        until(
            "(SELECT 1 WHERE 1 = (SELECT count(*) FROM practice_workerseen WHERE seen_at > now() - interval '10 s')) AS a",
            1,
            30,
        )
