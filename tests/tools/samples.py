"""A report of made-up facts, whose names and words are full of markup."""

from sarvel.notices import Kind, Notice
from sarvel.pipeline.checker import FindingNotice
from sarvel.rules import RULES
from sarvel.tools.report.facts import (
    Budget,
    CropFacts,
    Fetch,
    FileFacts,
    PageFacts,
    PictureFacts,
    Report,
    ShownWidths,
    Stair,
    Window,
)

HOSTILE = """<img src=x onerror=alert(1)> & "quoted" 'single' `code` | ](x) </script>"""
PIXEL = "data:image/gif;base64,R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7"
FINDING = FindingNotice(Kind.FINDING, "index.html:1:1", "a hint", "mend it", "note", rule=RULES["alt-missing"])
PHONE, DESKTOP = "360x740@3", "1920x1080@1"


def picture(
    slot: str = "card", master: str = "gull.jpg", phone: int = 20_000, desktop: int = 30_000, alt: str = "A gull"
) -> PictureFacts:
    files = (
        FileFacts(f"{slot}-400.avif", "p/400.avif", "avif", 400, 300, phone, "50", 93.1),
        FileFacts(f"{slot}-800.avif", "p/800.avif", "avif", 800, 600, desktop, "48", None),
        FileFacts(f"{slot}-800.jpeg", "p/800.jpeg", "jpeg", 800, 600, 2 * desktop, "lossless", None),
    )
    crop = CropFacts(
        "desktop", "(min-width: 800px)", 400, 300, ((0.2, 0.2, 0.6, 0.8),), 0.25, 0.61, "50vw", (400, 800), 0.031, 0.8,
        0.2, "1344x800@3", 2.4, "240x800@1", files, PIXEL, ((800.0, float("inf")),)
    )  # fmt: skip
    stairs = tuple(Stair(density, (240, 800, 3840), (200, 400, 800), (400, 400, 800)) for density in (1.0, 2.0))
    window = Window(2, 2, "desktop", 800, {"master": PIXEL, "avif": PIXEL}, {"avif": PIXEL}, {"avif": 3.2, "png": 0.0})
    return PictureFacts(
        slot, master, 1_000_000, alt, ("index.html",), "later", (crop,),
        {PHONE: Fetch(files[0].name, phone, 0.98, {"avif": phone, "jpeg": 2 * desktop}), DESKTOP: Fetch(files[1].name, desktop, 0.97, {"avif": desktop, "jpeg": 2 * desktop})},
        stairs, f"<img alt='{alt}'>", (f"look at {alt}",), 2.0, ((240, 200.0), (3840, 800.0)), (window,),
    )  # fmt: skip


def report(*pictures: PictureFacts, tasks: tuple[Notice, ...] = ()) -> Report:
    """A site of one page; of one picture whose words are hostile, if none is given."""
    some = pictures or (picture(master=HOSTILE, alt=HOSTILE),)
    shown = {PHONE: (ShownWidths(1, "card-400.avif", 400, 20_000, "sharp"), ShownWidths(2, "", None, None, "missing"))}
    page = PageFacts("index.html", "index.html", 2, {PHONE: 1_000_000}, {PHONE: 20_000}, shown)
    fetched = {
        PHONE: sum(one.fetched[PHONE].weight for one in some),
        DESKTOP: sum(one.fetched[DESKTOP].weight for one in some),
    }
    return Report(
        HOSTILE if not pictures else "Brindle Rock", (page,), some, 1_000_000, fetched,
        (Budget("index.html", PHONE, 10_000, 20_000), Budget("index.html", DESKTOP, 90_000, 30_000)),
        tasks or (Notice(Kind.MASTER, HOSTILE, HOSTILE, HOSTILE),), (FINDING,),
        ("card: measured",), (), (PHONE, DESKTOP),
    )  # fmt: skip
