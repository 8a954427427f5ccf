"""./bluffside bench dirty: a deliberately dirty file of 100,000 rows, brought in through the page in headless Chromium, with
the worker killed on the way. docs/a-dirty-file.md tells of it.

Two encodings in one file, semicolons, people who come twice with other capitals and other ways to write their number,
days that no calendar has, formulas, cells that are no address, columns nobody asked for, an old "unsubscribed" mark.

BENCH_SCALE=0.01 makes a hundredth; BLUFFSIDE_SHOTS=FOLDER takes the pictures.
"""

import os
import random
import re
import signal
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from bench.ground import fresh_database, served, workers

ROWS = int(100_000 * float(os.environ.get("BENCH_SCALE", "1")))
SHOTS = os.environ.get("BLUFFSIDE_SHOTS", "")
FIRST = "Ana Björn Celestine Dafydd Émilie Finn Greta Håkon Ines Jürgen Kaija Lluís Mabel Noé Orla Päivi Quinn Renée Søren Tamsin Ursula Vigdís Wren Zoë".split()
LAST = "Ålund Barlow Cœur Dürer Elver Fallow Garrick Holm Ingram Jäger Kestrel Lunde Marsh Nåls Orrin Penrose Quay Råberg Strand Tern Ünver Vane Wharf Yarrow".split()
HEADINGS = "Full name;E-mail;Telephone;Born on;Spent;Unsubscribed;Street;Remarks\n"


def rows(chance: random.Random) -> Iterator[str]:
    for number in range(ROWS):
        who = number if chance.random() > 0.15 else chance.randrange(number + 1)  # came before, most likely
        first, last = FIRST[who % len(FIRST)], LAST[who // 7 % len(LAST)]
        name = chance.choice([f"{first} {last}", f'"{last}, {first}"', f"  {first}   {last.upper()} "])
        email = f"{'N' if chance.random() < 0.3 else 'n'}{who}@example.com"
        local = f"7700 {900_000 + who % 1_000:06}" if who % 20 == 0 else f"7911 {who % 1_000_000:06}"
        phone = chance.choice(["0", "+44 ", "0044 ", "(0)"]) + local
        born = f"{1 + who % 28:02}/{1 + who % 12:02}/{1940 + who % 65}"
        odd = chance.random()
        if odd < 0.05:
            born = chance.choice(["31/02/1990", "00/00/0000", "30.2.1971", "yesterday"])
        elif odd < 0.08:
            email, phone = "nowhere", "ask her"
        elif odd < 0.10:
            phone = "12"
        spent = chance.choice(["£ 1.204,50", "12,00", "0,00", "980,5", ""])
        out = "yes" if chance.random() < 0.02 else ""
        says = chance.choice(
            ['=HYPERLINK("http://saltby.example";"win")', "@SUM(1+1)*cmd", "came by the slip “twice”", "", "–"]
        )
        yield f"{name};{email};{phone};{born};{spent};{out};{who % 90} Quay Row;{says} {'ask again in spring, ' * 5}\n"


def dirty() -> bytes:
    """Rows in blocks of one encoding or the other, as when two programs have written into one file."""
    chance = random.Random(20_26)  # the same file each time
    made = [HEADINGS.encode()]
    for number, row in enumerate(rows(chance)):
        text = row if number // 500 % 2 else row.replace("–", "-")
        made.append(text.encode("utf-8" if number // 500 % 2 else "cp1252", "replace"))
    return b"".join(made)


def main() -> None:
    url = fresh_database("bluffside_dirty")
    from django.core.management import call_command
    from launcher.shots import open_browser, sign_in
    from playwright.sync_api import sync_playwright

    call_command("load_demo", weeks=1)
    data = dirty()
    folder = Path(tempfile.mkdtemp())
    file = folder / "members of old.csv"
    file.write_bytes(data)
    print(f"  {ROWS:,} rows, {len(data) / 1e6:.1f} MB")
    with served(url) as address, sync_playwright() as playwright:
        browser = open_browser(playwright)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-GB")
        page.set_default_timeout(900_000)
        sign_in(page, address)
        page.goto(f"{address}/tern-harbour/people/bring-in")
        bring_in(page, file, url)
        browser.close()


def bring_in(page: Any, file: Path, url: str) -> None:
    began = time.perf_counter()
    page.get_by_label("Choose a file, or drop it here").set_input_files(file)
    page.get_by_text(re.compile("Of the first")).wait_for()
    print(f"  read, matched and looked at: {time.perf_counter() - began:.1f} s")
    page.get_by_label("What Born on is").select_option(label="“Born on”, date")
    page.get_by_label("What Spent is").select_option(label="“Spent”, money")
    page.get_by_label("How Spent is read").wait_for()
    page.wait_for_timeout(2_000)
    told(page)
    picture(page, "file")
    page.get_by_label("to emails").check()
    page.get_by_label("How and when they said so").fill("sign-up sheets at the slip, since 2019")
    page.get_by_label("Tags").last.fill("old members")
    began = time.perf_counter()
    with workers(url, 1) as [worker]:
        page.get_by_role("button", name=re.compile("Bring in")).click()
        page.get_by_text(re.compile(rf"^(?!{ROWS:,})[1-9][\d,]* of {ROWS:,} rows")).wait_for()
        page.wait_for_timeout(3_000)
        worker.send_signal(signal.SIGKILL)
        worker.wait()
        print("  the worker is killed")
        page.wait_for_timeout(3_000)
    with workers(url, 1):
        page.get_by_role("status").filter(has_text="came in").wait_for()
        print(f"  brought in after {time.perf_counter() - began:.0f} s")
        page.wait_for_timeout(1_500)
        told(page, reasons=True)
        picture(page, "file-done")
        began = time.perf_counter()
        page.get_by_role("button", name="Take back…").first.click()
        page.get_by_role("button", name="Take it back").click()
        page.get_by_role("status").filter(has_text="stayed").wait_for()
        print(f"  taken back after {time.perf_counter() - began:.0f} s")
        told(page)


def told(page: Any, reasons: bool = False) -> None:
    print("   ", " ".join(page.get_by_role("status").first.inner_text().split()))
    for reason in page.locator(".reasons li").all_inner_texts() if reasons else ():
        print("     ", " ".join(reason.split()))


def picture(page: Any, name: str) -> None:
    if SHOTS:
        page.evaluate("window.scrollTo(0, 0)")
        page.screenshot(path=Path(SHOTS) / f"{name}.png")


if __name__ == "__main__":
    main()
