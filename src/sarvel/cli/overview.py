"""The commands in words, and the help of the program. Start-up is a feature: this needs no parser, and loads nothing."""

GROUPS: dict[str, dict[str, str]] = {
    "begin": {
        "demo": "create the demo site and build it",
        "start": "draft a plan from images, pages and stylesheets",
        "one": "make the files and markup of one image, without a plan",
    },
    "build": {
        "build": "make missing files, write the markup, check the pages",
        "serve": "preview the site; list what each browser fetches",
        "render": "make missing files only",
        "weave": "write the markup into the pages only",
        "deliver": "make files when browsers ask for them",
    },
    "look before": {
        "survey": "list a site's images: uses, bytes, possible savings",
        "measure": "measure in a browser how wide images are shown",
        "plan": "show crops, widths and sizes, with reasons",
        "proof": "draw every crop with its subject on a contact sheet",
        "subjects": "show and choose what crops must keep in view",
    },
    "look after": {
        "check": "find mistakes in the image markup of any page",
        "pick": "show which file each device fetches, and why",
        "confirm": "compare pages before and after in a browser",
        "report": "write a page about files, devices and open points",
    },
    "leave": {
        "remove": "restore the pages, and remove all that Sarvel made",
    },
}
"""Commands in the order of the work, and their descriptions."""

SAYS = {name: says for names in GROUPS.values() for name, says in names.items()}
"""Descriptions of commands, by name."""

DESCRIPTION = "Makes crops of a site's master images at its breakpoints, and writes the markup for them."
EPILOG = """\
Begin with `sarvel demo`. `sarvel` alone prints the next step for a site.
`sarvel help COMMAND` shows options and examples.
Exit codes: 0 done; 1 not all done; 2 nothing done; 130 interrupted."""


def overview() -> str:
    """The help of the program: commands in the order of the work. It fits a terminal of 80 by 24."""
    lines = []
    for group, names in GROUPS.items():
        heads = [group, *[""] * (len(names) - 1)]
        lines += [f"{head:12} {name:9} {SAYS[name]}" for head, name in zip(heads, names, strict=True)]
    return "\n".join(["usage: sarvel COMMAND [OPTION ...]", "", *lines, "", EPILOG, ""])
