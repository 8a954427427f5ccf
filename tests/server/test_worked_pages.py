"""The worked pages of docs/, followed to the letter: what each says is added is added to a copy, its tests are run on the real
database as it was, its workflow is rehearsed, and nothing asks for a migration."""

import os
import re
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from django.conf import settings

from tests import databases

ROOT = Path(settings.ROOT)
PATTERN = "tests/core/test_steps.py::test_a_kind_declares_what_the_pattern_asks_for"
# A page, and the kind of line that the pattern finds after it has been followed; none: no new line.
PAGES = {
    "a-new-kind-of-step": "date_ahead",
    "a-new-channel": "picture",
    "a-new-kind-of-field": "",
    "a-new-outside-service": "invite_review",
}
FILE = re.compile(r"`((?:src/|tests/)?[\w/-]+\.(?:py|yaml))`")


@pytest.fixture
def copied(tmp_path: Path) -> Path:
    """The application and its tests, to be added to."""
    away = shutil.ignore_patterns("__pycache__", "filled")
    for folder in ("src/bluffside", "tests/core", "tests/server", "launcher"):
        shutil.copytree(ROOT / folder, tmp_path / folder, ignore=away)
    for file in ("tests/__init__.py", "tests/databases.py", "pyproject.toml"):
        shutil.copy(ROOT / file, tmp_path / file)
    return tmp_path


def follow(page: str, to: Path) -> tuple[list[str], dict[str, str]]:
    """Writes each file that the page shows, named by the last name of a file above it; answers their names, and what is set
    where the application is started."""
    files, environment, before = [], {}, 0
    for block in re.finditer(r"```(\w+)\n(.*?)```", page, re.S):
        if block[1] == "sh":
            environment |= dict(one.split("=", 1) for one in shlex.split(block[2])[1:])
        else:
            named = reversed(FILE.findall(page[before : block.start()]))
            name = next(name for name in named if (to / name).parent.is_dir() and not (to / name).exists())
            (to / name).write_text(block[2])
            files.append(name)
        before = block.end()
    return files, environment


@pytest.mark.parametrize("page", PAGES)
def test_a_worked_page_works_as_it_says(page: str, copied: Path) -> None:
    files, environment = follow((ROOT / f"docs/{page}.md").read_text(), copied)
    (folder := copied / "pictures").mkdir()
    environment = {name: str(folder) if text.startswith("/var/spool") else text for name, text in environment.items()}

    def run(*command: str) -> str:
        own = {"PYTHONPATH": f"{copied / 'src'}:{copied}", "BLUFFSIDE_TESTED": f"test_bluffside_{page}"}
        env = os.environ | environment | own
        done = subprocess.run([sys.executable, *command], cwd=copied, env=env, capture_output=True, text=True)
        assert done.returncode == 0, done.stdout[-3000:] + done.stderr[-3000:]
        return done.stdout

    tests = [one for one in files if one.startswith("tests/")]
    with databases.copy(databases.blank(), f"test_bluffside_{page}"):
        ran = run("-m", "pytest", "-vv", *tests, PATTERN)
    assert tests and all(f"{one}::test_" in ran for one in tests)
    assert not PAGES[page] or f"asks_for[{PAGES[page]}] PASSED" in ran
    for workflow in (one for one in files if one.endswith(".yaml")):
        assert "1 scenarios played, 0 failed." in run("-m", "bluffside.commandline.rehearse", workflow)
    assert "No changes detected" in run("-m", "django", "makemigrations", "--check", "--dry-run")
