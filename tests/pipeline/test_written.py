"""Which files earlier runs wrote: by the ledger, else by what is in them."""

from pathlib import Path

from sarvel.files.ledger import Ledger
from sarvel.pipeline.written import WrittenFiles
from sarvel.plan.read import read_plan


def test_what_is_ours(site: Path) -> None:
    plan = read_plan(site / "sarvel.toml")
    for name in ("public/index.html", "public/a.css", "public/other.css", "public/part.html", "masters/x.html"):
        (site / name).parent.mkdir(parents=True, exist_ok=True)
        (site / name).write_text('<img src="a-480.0123456789.webp">' if name.endswith("html") else "p {}")
    with Ledger() as ledger:
        files = WrittenFiles(plan, ledger, [])
        assert files.has(site / "public" / "part.html") and not files.has(site / "public" / "a.css")
        assert not files.has(site / "masters" / "x.html"), "nothing among masters is ours, whatever it holds"
        files.add([site / "public" / "a.css"])
        again = WrittenFiles(plan, ledger, [site / "public" / "index.html"])
        assert again.has(site / "public" / "a.css") and not again.has(site / "public" / "other.css")
    with Ledger() as new:  # as after a checkout without the ledger: one woven page tells of the whole folder
        assert WrittenFiles(plan, new, [site / "public" / "index.html"]).has(site / "public" / "other.css")
