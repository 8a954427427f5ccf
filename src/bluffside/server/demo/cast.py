"""Who is in the demo. All of it invented: numbers from ranges set aside for fiction, addresses at example.com."""

from dataclasses import dataclass, field

PASSWORD = "chalk-and-thrift"  # noqa: S105  # the demo's, printed at start
PRACTICE = "Lantern Rock Follow-up"
CONSULTANT = ("Imogen Farrow", "imogen@example.com", "+447700900001")
FIRST = (
    "Ada Bram Cleo Dov Esme Finn Greta Hugo Ines Jonas Kit Lena Milo Nora Otis Priya Quinn Rosa Sami Tess "
    "Uma Viggo Wren Xenia Yuri Zora Alba Bruno Celia Dario Elin Farid Gwen Hana Ivo Juno Kofi Livia Marek Nell"
).split()
LAST = (
    "Anand Barlow Cray Dunmore Eskett Fallow Garrick Hythe Ingram Jessop Kestle Lorne Marsh Nettle Orrin Pell "
    "Quarrie Rusk Selwyn Thorne Upwey Varley Wick Yarrow Zeal Ashcombe Brill Corran Denholm Elver"
).split()


@dataclass(frozen=True)
class Part:
    """One account: how many people, from where their numbers come, what tag brings them in, what they answer."""

    slug: str
    name: str
    zone: str
    region: str
    member: tuple[str, str, str]
    text_number: str
    address: str
    numbers: list[str]
    people: int
    tag: str
    workflows: list[str]
    answers: list[tuple[str, int]] = field(default_factory=list)


UK = [f"+447700900{n}" for n in range(200, 290)]
DC = [f"+1202555{n:04}" for n in range(110, 190)]
CO = [f"+1303555{n:04}" for n in range(110, 190)]
TAS = ["+61491570006", "+61491570156", "+61491570157", "+61491570158"]

PARTS = [
    Part(
        "tern-harbour", "Tern Harbour Sailing", "Europe/London", "GB",
        ("Mel Rowan", "mel@example.com", "+447700900100"), "+447700900123", "The Old Slip, Tern Harbour", UK, 46, "taster day",
        ["tern-after-the-taster-day", "tern-season-letter"],
        [("Yes please", 9), ("Keen! When?", 4), ("No thanks", 5), ("What does it cost?", 4), ("Can my son come too?", 2), ("STOP", 1)],
    ),
    Part(
        "slipware-lane", "Slipware Lane Pottery", "America/New_York", "US",
        ("Juno Castell", "juno@example.com", "+12025550101"), "+12025550102", "9 Slipware Lane, Alder Falls", DC, 30, "wheel class",
        ["slip-new-enquiry"],
        [("Evenings are best", 6), ("weekends please", 5), ("no, sorry", 2), ("Is there parking?", 4), ("Stop", 1)],
    ),
    Part(
        "huon-street", "Huon Street Physiotherapy", "Australia/Hobart", "AU",
        ("Tam Okoro", "tam@example.org", "+61491570159"), "+61491570110", "4 Huon Street, Ferny Bay", TAS, 18, "course of treatment done",
        ["huon-check-in"],
        [("Much better, thank you", 6), ("Still sore in the mornings", 3), ("good", 2)],
    ),
    Part(
        "two-brakes", "Two Brakes Bicycles", "America/Denver", "US",
        ("Sol Hartigan", "sol@example.net", "+13035550101"), "+13035550102", "77 Switchback Road, Dry Gulch", CO, 26, "service due",
        ["two-ready"],
        [("Yes", 7), ("sure, next week", 3), ("sold it", 2), ("how long does it take?", 3)],
    ),
]  # fmt: skip
