"""The report as pages of HTML that need nothing else: no server, no network, and no script to be read."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from importlib.resources import files

from jinja2 import DictLoader, Environment
from markupsafe import Markup

from sarvel.core.amounts import percent, weight
from sarvel.core.model import ONLY_CROP
from sarvel.tools.report.facts import CropFacts, Edges, PictureFacts, Report
from sarvel.tools.report.networks import NETWORKS
from sarvel.tools.report.staircase import in_words, staircase

MOST_IN_ONE = 40
"""Pictures that one page holds; of more, each has a page of its own, so that the first one stays below 10 MB."""

_TEMPLATES = ("frame.html", "report.html", "picture.html", "one.html")


def as_pages(report: Report, name: str, plan: str) -> dict[str, bytes]:
    """The pages, by name; the first is the report, others are of single pictures where there are many.

    Args:
        plan: what the plan's file is called.
    """
    environment = _environment()
    split = len(report.pictures) > MOST_IN_ONE
    folder = f"{name.rpartition('.')[0] or name}-pictures"
    links = [f"{folder}/{i}.html" if split else f"#picture-{i}" for i, _ in enumerate(report.pictures, 1)]
    pages = {
        name: environment.get_template("report.html").render(
            report=report,
            plan=plan,
            networks=NETWORKS,
            files=len({file.name for one in report.pictures for crop in one.crops for file in crop.files}),
            weight=sum(
                {f.name: f.weight for one in report.pictures for crop in one.crops for f in crop.files}.values()
            ),
            faults=sum(one.severity == "fault" for one in report.tasks),
            charts=[] if split else [_charts(one, f"c{i}") for i, one in enumerate(report.pictures)],
            since=report.since,
            split=split,
            links=links,
            data=Markup(_data(report)),  # noqa: S704 - JSON in which no "<" is left
        )
    }
    for i, picture in enumerate(report.pictures if split else (), 1):
        pages[links[i - 1]] = environment.get_template("one.html").render(
            report=report, picture=picture, number=i, charts=_charts(picture, "c"), back=f"{name}#pictures"
        )
    return {name: text.encode("utf-8", "xmlcharrefreplace") for name, text in pages.items()}


def _environment() -> Environment:
    place = files("sarvel.tools.report").joinpath("templates")
    texts = {
        name: place.joinpath(name).read_text(encoding="utf-8") for name in (*_TEMPLATES, "report.css", "report.js")
    }
    environment = Environment(loader=DictLoader(texts), autoescape=True, trim_blocks=True, lstrip_blocks=True)
    environment.filters |= {"weight": weight, "percent": percent, "seconds": seconds, "edges": _edges}
    environment.globals |= {"only": ONLY_CROP, "css": Markup(texts["report.css"]), "js": Markup(texts["report.js"])}  # noqa: S704 - our own
    return environment


def seconds(count: float) -> str:
    """Seconds, with as many places as anybody feels."""
    places = 0 if count >= 9.95 else 1 if count >= 0.095 else 2
    return f"{count:.{places}f}"


def _edges(box: Edges) -> str:
    left, top, right, bottom = (min(1.0, max(0.0, edge)) for edge in box)
    return f"left:{left:.2%};top:{top:.2%};width:{right - left:.2%};height:{bottom - top:.2%}"


def _charts(picture: PictureFacts, name: str) -> list[tuple[Markup, str, float]]:
    """The charts of a picture, each with a description and its density."""
    most = max(max(*one.needed, *one.got) for one in picture.stairs)
    step = 10 ** math.floor(math.log10(most)) / 2
    top = math.ceil(most / step) * step
    return [
        (
            Markup(staircase(one, round(top), f"{name}-{one.density:g}")),  # noqa: S704 - numbers alone
            in_words(one),
            one.density,
        )
        for one in picture.stairs
    ]


def _data(report: Report) -> str:
    """What the page's script reckons with, as JSON that may are in a script element (HTML, section 4.12.1.3)."""
    pictures = {one.key: _picture(one) for one in report.pictures}
    pages = {page.name: [one.key for one in report.pictures if page.name in one.pages] for page in report.pages}
    document = {"only": ONLY_CROP, "pictures": pictures, "pages": {name: keys for name, keys in pages.items() if keys}}
    return json.dumps(document, ensure_ascii=True, separators=(",", ":")).replace("<", "\\u003c")


def _picture(one: PictureFacts) -> Mapping[str, object]:
    return {"shown": one.shown, "densest": one.densest, "crops": [_crop(crop) for crop in one.crops]}


def _crop(crop: CropFacts) -> Mapping[str, object]:
    """A crop with the files of its first format."""
    first = crop.files[0].format
    spans = [(start, None if math.isinf(end) else end) for start, end in crop.viewports]
    some = [{"name": f.name, "width": f.width, "bytes": f.weight} for f in crop.files if f.format == first]
    return {"name": crop.name, "viewports": spans, "files": some}
