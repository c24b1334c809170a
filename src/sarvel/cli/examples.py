"""Two examples of each command, which its help shows. The tests run them on the demo site."""

from __future__ import annotations

EXAMPLES: dict[str, tuple[tuple[str, str], ...]] = {
    "remove": (
        ("sarvel remove --dry-run", "list the pages to restore and the files to remove"),
        ("sarvel remove --yes", "do it without asking; masters and the plan stay"),
    ),
    "demo": (("sarvel demo", "in the new folder brindle-rock"), ("sarvel demo rock", "in another one")),
    "start": (
        ("sarvel start", "draft sarvel.toml for this folder"),
        ("sarvel start --measure", "and measure in a browser how wide images are shown"),
    ),
    "survey": (
        ("sarvel survey", "the images of this folder's site, those with most to save first"),
        ("sarvel survey masters pages --all", "every image of some folders, and which pages there show it"),
    ),
    "measure": (
        ("sarvel measure", "how wide each slot shows its images, as lines for the plan"),
        ("sarvel measure --save", "and write them into it"),
    ),
    "one": (
        (
            "sarvel one masters/lamp-at-dusk.jpg --alt 'The lamp, lit'",
            "the files in pictures/, the markup on the terminal",
        ),
        (
            "sarvel one masters/great-lens.jpg --alt '' --crop 4:3 --sizes 384px --as-plan",
            "the same as a plan to start from",
        ),
    ),
    "plan": (
        ("sarvel plan", "every slot: crops, widths, files, and what a phone and a desktop fetch"),
        ("sarvel plan card --why", "how well the widths of one slot fit"),
    ),
    "proof": (
        ("sarvel proof", "proof.png: every crop with its subject"),
        ("sarvel proof --each", "a sheet for each master"),
    ),
    "subjects": (
        ("sarvel subjects --open", "choose them on a page"),
        ("sarvel subjects --save", "write the guesses that are at least 80 % sure"),
    ),
    "render": (
        ("sarvel render --dry-run", "files to make, and how long it may take"),
        ("sarvel render --only card", "make the files of one slot"),
    ),
    "weave": (
        ("sarvel weave --dry-run", "the changes as a diff"),
        ("sarvel weave --undo", "restore the authors' tags"),
    ),
    "pick": (
        ("sarvel pick public/index.html --device 390x844@3", "what one phone fetches of a page"),
        ("sarvel pick public/index.html --image banner --why", "one slot's image, and why no other file"),
    ),
    "confirm": (
        ("sarvel confirm", "every page before and after, on six devices"),
        ("sarvel confirm --device 390x844@3 --json", "on one device, for programs"),
    ),
    "check": (
        ("sarvel check", "the plan's pages"),
        ("sarvel check public --format sarif", "any folder of pages, for programs that show findings"),
    ),
    "report": (
        ("sarvel report", "report.html, next to the plan"),
        ("sarvel report --markdown", "the same in short, for a review request"),
    ),
    "build": (
        ("sarvel build", "make missing files, weave, check"),
        ("sarvel build --effort thorough --prune", "for publishing; and delete unused files"),
    ),
    "serve": (
        ("sarvel serve --port 8080", "the site at that port, built again at each change"),
        ("sarvel serve --before --no-watch", "the pages as their authors wrote them"),
    ),
    "deliver": (
        ("sarvel deliver --new-key", "create the key that signs addresses"),
        ("sarvel deliver --port 8080", "make and serve files at that port"),
    ),
}
"""By command: a call, and its effect. In the folder of a site, unless stated otherwise."""
