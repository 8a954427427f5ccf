"""The front end's footing only grows firmer: what stands on the browser's own elements becomes less with each
change, and what the first page brings along stays small.

The numbers are what was there last. One that has become smaller is to be written down here as it is."""

import gzip
import re
from collections import Counter
from pathlib import Path

from django.conf import settings

WEB = Path(settings.ROOT) / "web"
# Elements of the browser's own, where they are meant (the script's parts, grids, files, dates): all others are the library's inside
# ours. What is not named here has none.
NATIVE = {
    "areas/deals": {"table": 1},  # stages across, when the next thing happens down
    "areas/people": {"table": 2, "input": 3, "textarea": 1},  # two people side by side, the grid of quick entry, a file
    "areas/set-up": {"input": 5},  # whom the account writes to, a picture, a colour
    "areas/today": {"input": 1},  # a moment
    "areas/workflows": {"input": 14, "button": 25, "table": 1},  # the script, a picture's file
    "sentences": {"button": 14, "select": 12, "input": 11},
    "shared": {"input": 6},
    "ui": {"input": 2},
}
ELEMENTS = ("button", "table", "dialog", "input", "select", "textarea", "progress")
MOST = {"js": 115_000, "css": 22_000}  # bytes, compressed: what the first page loads


def test_elements_of_the_browsers_own_become_fewer() -> None:
    found: Counter[tuple[str, str]] = Counter()
    for path in WEB.glob("src/**/*.vue"):
        first, *rest = path.relative_to(WEB / "src").parts
        area = f"{first}/{rest[0]}" if first == "areas" else first
        for element in ELEMENTS:
            found[area, element] += len(re.findall(rf"<{element}(?=[\s>])", path.read_text()))
    more = {at: count for at, count in found.items() if count > NATIVE.get(at[0], {}).get(at[1], 0)}
    assert not more


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
