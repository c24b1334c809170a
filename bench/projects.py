"""Source projects that nobody here made: what a draft weaves of them as it is, and whether undo is exact.

    python bench/projects.py WORK [NAME…]

WORK is a folder outside the repository; projects are unpacked there from the npm registry, once. `sarvel` is the one on PATH.
Told are, by project and in sum: images whose file a tag names; how many of them the draft wove; whether `weave --undo` gave all
files back byte for byte, and whether it does after a formatter (in WORK/node_modules, if it is there) has rewritten them.

Alts that are missing are left, and files are made at one width by given encoder numbers, to be quick.
"""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import sys
import tarfile
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Project:
    """A package, the folders in it that make up the project, and the files that a formatter rewrites."""

    package: str
    folders: tuple[str, ...] = (".",)
    formatted: str = "src/**/*.js"


PROJECTS = {
    "react": Project("notus-react@1.1.0"),
    "react kit": Project("now-ui-kit-react@1.5.0"),
    "react system": Project("argon-design-system-react@1.1.0"),
    "next": Project("notus-nextjs@1.1.0", formatted="{pages,components,layouts}/**/*.js"),
    "vue": Project("vue-notus@1.1.0", formatted="src/**/*.vue"),
    "svelte": Project("notus-svelte@1.1.0", formatted="src/**/*.svelte"),
    "mdx": Project(
        "create-docusaurus@3.10.2", ("templates/classic", "templates/shared"), formatted="docs/**/*.{md,mdx}"
    ),
    "ejs theme": Project("hexo-theme-ayer@1.9.7-0", formatted=""),
}
QUICK = '[defaults]\neffort = "quick"\nwidths = 1\nquality = { avif = 40, webp = 50, jpeg = 60 }\n'
_RASTER = re.compile(r"\.(?:jpe?g|png|webp|avif)$", re.IGNORECASE)


def fetched(work: Path, project: Project) -> list[Path]:
    """The folders of an unpacked package."""
    place = work / project.package
    if not place.exists():
        archive = work / run(work, "npm", "pack", project.package, "--silent").split()[-1]
        with tarfile.open(archive) as tar:
            tar.extractall(place, filter="data")
        archive.unlink()
    return [next(place.iterdir()) / name for name in project.folders]


def run(folder: Path, *words: str) -> str:
    """What a program prints that is on PATH."""
    program = shutil.which(words[0]) or words[0]
    done = subprocess.run([program, *words[1:]], cwd=folder, capture_output=True, text=True, check=False)
    return done.stdout


def texts(site: Path) -> dict[str, bytes]:
    """The files of a project that may be woven."""
    kinds = (".js", ".jsx", ".vue", ".svelte", ".ejs", ".html", ".md", ".mdx", ".php")
    return {str(file.relative_to(site)): file.read_bytes() for file in sorted(site.rglob("*")) if file.suffix in kinds}


def format_files(work: Path, site: Path, pattern: str) -> bool:
    """Has a formatter rewrite files; tells whether there is one."""
    program = work / "node_modules" / ".bin" / "prettier"
    if not pattern or not program.exists():
        return False
    plugin = work / "node_modules" / "prettier-plugin-svelte" / "plugin.js"
    plugins = ["--plugin", str(plugin)] if plugin.exists() else []
    run(site, str(program), "--log-level", "error", "--write", *plugins, pattern)
    return True


def score(work: Path, name: str) -> dict[str, int]:
    """Takes one project through start, build, a formatter and undo."""
    project = PROJECTS[name]
    site = work / "site"
    shutil.rmtree(site, ignore_errors=True)
    for folder in fetched(work, project):
        shutil.copytree(folder, site, dirs_exist_ok=True)
    is_formatted = format_files(work, site, project.formatted)
    before = texts(site)
    surveyed = json.loads(run(site, "sarvel", "survey", ".", "--json"))
    run(site, "sarvel", "start")
    plan = site / "sarvel.toml"
    if not plan.exists():
        return {"named": 0, "woven": 0, "undone": 1, "undone after a formatter": 1}
    named = sum(
        use["kind"] == "img" for file in surveyed["files"] if _RASTER.search(file["file"]) for use in file["uses"]
    )
    text = plan.read_text().replace("[site]\n", '[site]\nalt = "leave"\n')
    plan.write_text(re.sub(r"\[defaults\]\n", QUICK, text))
    built = json.loads(run(site, "sarvel", "build", "--json"))
    woven = built["pages"]["images"]
    run(site, "sarvel", "weave", "--undo")
    undone = texts(site) == before
    again = undone
    if is_formatted:
        run(site, "sarvel", "weave")
        format_files(work, site, project.formatted)
        run(site, "sarvel", "weave", "--undo")
        format_files(work, site, project.formatted)
        again = texts(site) == before
    return {"named": named, "woven": woven, "undone": int(undone), "undone after a formatter": int(again)}


def main() -> None:
    """Scores the projects that are named, or all."""
    work = Path(sys.argv[1]).resolve()
    work.mkdir(parents=True, exist_ok=True)
    total: dict[str, int] = {}
    for name in sys.argv[2:] or PROJECTS:
        found = score(work, name)
        total = {key: total.get(key, 0) + value for key, value in found.items()}
        print(f"{name}: {json.dumps(found)}", flush=True)
    print(f"sum: {json.dumps(total)}")


if __name__ == "__main__":
    main()
