"""The most memory that rendering one 4800×3200 master takes, in one process: `python bench/memory.py`."""

from __future__ import annotations

import resource
import subprocess
import sys
import tempfile
from pathlib import Path

from sarvel.demo import copy_site

PAGE = "".join(f'<img data-sarvel="{slot}" src="../masters/lamp-at-dusk.jpg">\n' for slot in ("banner", "card"))


def main() -> None:
    """Measures and prints."""
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder, "site")
        copy_site(site)
        for page in (site / "pages").glob("*.html"):
            page.write_text(PAGE, encoding="utf-8")
        command = [sys.executable, "-m", "sarvel", "render", "--plan", str(site / "sarvel.toml"), "--workers", "1"]
        subprocess.run(command, check=True)
    # Linux gives the largest child's peak in KiB (getrusage(2)).
    print(f"peak memory {resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024:.0f} MiB")


if __name__ == "__main__":
    main()
