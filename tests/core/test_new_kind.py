"""docs/a-new-kind-of-step.md, followed to the letter: one new file, its tests, and a workflow that uses it."""

import re
import shutil
import subprocess
import sys
from pathlib import Path

import bluffside

ROOT = Path(__file__).parents[2]


def test_the_worked_example_works_by_adding_its_one_file(tmp_path: Path) -> None:
    page = (ROOT / "docs/a-new-kind-of-step.md").read_text()
    (step, tests), [workflow] = (re.findall(rf"```{kind}\n(.*?)```", page, re.S) for kind in ("python", "yaml"))
    source = tmp_path / "src/bluffside"
    shutil.copytree(Path(bluffside.__file__).parent, source, ignore=shutil.ignore_patterns("server", "__pycache__"))
    (source / "core/steps/date_ahead.py").write_text(step)
    shutil.copytree(ROOT / "tests/core", tmp_path / "tests/core", ignore=shutil.ignore_patterns("__pycache__"))
    (tmp_path / "tests/core/test_date_ahead.py").write_text(tests)
    (tmp_path / "after-the-service.yaml").write_text(workflow)

    def run(*command: str) -> str:
        env = {"PYTHONPATH": f"{tmp_path / 'src'}:{tmp_path}"}
        done = subprocess.run([sys.executable, *command], cwd=tmp_path, env=env, capture_output=True, text=True)
        assert done.returncode == 0, done.stdout[-3000:] + done.stderr[-3000:]
        return done.stdout

    patterns = "tests/core/test_steps.py::test_a_kind_declares_what_the_pattern_asks_for"
    ran = run(
        "-m", "pytest", "-v", "-p", "no:cacheprovider", "-p", "no:django", "tests/core/test_date_ahead.py", patterns
    )
    assert "test_a_kind_declares_what_the_pattern_asks_for[date_ahead] PASSED" in ran
    assert "1 scenarios played, 0 failed." in run("-m", "bluffside.commandline.rehearse", "after-the-service.yaml")
