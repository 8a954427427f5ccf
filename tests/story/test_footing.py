"""The front end's footing only grows firmer: what stands on the browser's own elements becomes less with each
change, and what the first page brings along stays small.

The numbers are what was there last. One that has become smaller is to be written down here as it is."""

import gzip
import re
from pathlib import Path

import pytest
from django.conf import settings

WEB = Path(settings.ROOT) / "web"
# Elements of the browser's own outside the places where they are meant (the script's parts, grids, files, dates).
NATIVE = {"button": 40, "table": 3, "dialog": 0, "input": 40, "select": 12, "textarea": 1}
MOST = {"js": 115_000, "css": 22_000}  # bytes, compressed: what the first page loads


@pytest.mark.parametrize("element", NATIVE)
def test_elements_of_the_browsers_own_become_fewer(element: str) -> None:
    found = sum(len(re.findall(rf"<{element}[\s>]", path.read_text())) for path in WEB.glob("src/**/*.vue"))
    assert found <= NATIVE[element]


def test_the_first_page_is_light() -> None:
    loaded = re.findall(r"assets/[^\"]+", (WEB / "dist/index.html").read_text())
    loaded += [f"assets/{path.name}" for path in WEB.glob("dist/assets/TodayPage-*")]
    for ending, most in MOST.items():
        files = [WEB / "dist" / name for name in loaded if name.endswith(f".{ending}")]
        assert 0 < sum(len(gzip.compress(path.read_bytes())) for path in files) < most


def test_no_universal_right_of_a_neighbour_is_styled() -> None:
    """`legend + *` alone made the browser style 200 lines anew each time one of them moved (12 ms, measured)."""
    for path in WEB.glob("dist/assets/app-*.css"):
        assert not re.findall(r"[+~]\s*\*", path.read_text())
