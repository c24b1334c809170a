"""A deployed site, compared with the one here: its pages, and each file that they name."""

from __future__ import annotations

import hashlib
import io
import itertools
import re
import urllib.parse
import warnings
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

from PIL import Image

from sarvel.browser.fetch import AT_ONCE, Fetched, Fetcher
from sarvel.browser.site_server import Folders
from sarvel.core.address.address import Address
from sarvel.core.address.on_request import FOR_NOW
from sarvel.core.address.pattern import path_and_query
from sarvel.core.css.device import Device
from sarvel.core.css.sheet import naming_files
from sarvel.core.edition.rendition import Rendition
from sarvel.core.html.base import base_path
from sarvel.core.html.document import read_document
from sarvel.core.html.images import ImageElement
from sarvel.core.html.source_selection import pick
from sarvel.core.html.srcset import parse_srcset
from sarvel.core.markup.backgrounds import STYLESHEET
from sarvel.encode.masters import formats_read
from sarvel.errors import PlanError
from sarvel.notices import Kind, Notice
from sarvel.pages.read.local_files import is_file
from sarvel.pages.read.page_files import SERVABLE, PageFile, read_text
from sarvel.pipeline.documents import document_of
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.roots import addresses_of, project_of
from sarvel.pipeline.site import Site
from sarvel.plan.read import Plan

MOST = 2000
"""Files that are asked for at most."""

_YEAR, _MONTH = 31_536_000, 2_592_000  # s
_GIVEN_UP = 20  # files in a row without an answer, after which the rest is not asked for
_AGE = re.compile(r"(?:^|,)\s*max-age\s*=\s*\"?(\d{1,12})", re.IGNORECASE)
_ACCEPTS = "image/avif,image/webp,image/apng,image/svg+xml,image/*,*/*;q=0.8"  # as Chromium asks for images
_OLD = "image/*,*/*;q=0.8"


@dataclass(frozen=True)
class DeployedPage:
    """A deployed page.

    Attributes:
        images: how many images of the page here are woven.
        others: images that are not woven as here: slot and master.
        strayed: devices that would fetch another file than here, by slot and master.
        problem: why it could not be looked at; "" if it could.
    """

    url: str
    images: int = 0
    others: tuple[str, ...] = ()
    strayed: Mapping[str, tuple[Device, ...]] = field(default_factory=dict)
    problem: str = ""


@dataclass(frozen=True)
class DeployedFile:
    """A deployed file.

    Attributes:
        weight: bytes.
        faults: differences, a few words each.
    """

    url: str
    weight: int
    faults: tuple[str, ...]


@dataclass
class Deployed:
    """The whole result.

    Attributes:
        pages: by address, in order.
        files: by address, in order.
        faults: why others could not be looked at, a notice each.
        notes: what the user may leave so.
    """

    pages: list[DeployedPage] = field(default_factory=list)
    files: list[DeployedFile] = field(default_factory=list)
    faults: list[Notice] = field(default_factory=list)
    notes: list[Notice] = field(default_factory=list)


@dataclass(frozen=True)
class _Named:
    """What a page says of a file that it names.

    Attributes:
        type: media type; "" if it says none.
        width: px; 0 if it says none.
    """

    type: str = ""
    width: int = 0


def confirm_deployed(
    site: Site, url: str, names: Sequence[str], devices: Sequence[Device], listener: Listener
) -> Deployed:
    """Asks for pages and for all files that they name.

    Args:
        site: the local site.
        url: where it is deployed: what / means, of http or https.
        names: its pages to look at; none for all.

    Raises:
        PlanError: the URL is not one of the web, or no page can be requested.
    """
    parts = urllib.parse.urlsplit(url)
    if parts.scheme not in ("http", "https") or not parts.netloc:
        raise PlanError.at("", f"--against {url}: is no address of the web", "write one such as https://www.example/")
    result, fetcher, named = Deployed(), Fetcher(), dict[str, _Named]()
    for page, path in _pages(site, names, result):
        result.pages.append(
            _page(page, urllib.parse.urljoin(f"{url.rstrip('/')}/", path), site, devices, fetcher, named)
        )
    if not result.pages:
        raise PlanError.at(
            site.plan.file, f"no page that a browser shows is among {', '.join(names) or 'its pages'}", "name one"
        )
    _backgrounds(site.plan, url, named)
    if len(named) > MOST:
        result.notes.append(
            Notice(
                Kind.LEFT_OUT,
                "",
                f"{len(named) - MOST} of {len(named)} files are not asked for",
                "name some of the pages",
                severity="note",
            )
        )
    _Files(site, fetcher, result).ask(dict(list(named.items())[:MOST]), listener)
    return result


def _pages(site: Site, names: Sequence[str], result: Deployed) -> Iterator[tuple[PageFile, str]]:
    """Pages that browsers show, each with the path that it is served at."""
    plan, folders = (
        site.plan,
        Folders([*([site.plan.woven] if site.plan.woven else []), *project_of(site.plan).tops], base=site.plan.base),
    )
    files = [page.file for page in site.pages if page.file.source.suffix.lower() in SERVABLE]
    if not names and len(files) < len(site.pages):
        count = len(site.pages) - len(files)
        are = "1 page of the plan is" if count == 1 else f"{count} pages of the plan are"
        result.notes.append(Notice(Kind.LEFT_OUT, "", f"{are} no HTML, and not asked for", severity="note"))
    wanted = {Path(name).resolve(): name for name in names}
    for file in files:
        places = {file.source.resolve(), file.target.resolve()}
        for place in places & wanted.keys():
            wanted.pop(place)
        chosen = not names or any(Path(name).resolve() in places for name in names)
        path = folders.path(file.target) if chosen else None
        if chosen and not is_file(file.target):
            result.faults.append(Notice(Kind.PAGE, str(file.target), "is not there", "run sarvel build first"))
        elif path:
            yield file, path.lstrip("/")
    result.faults += [
        Notice(Kind.PAGE, name, f"is no page of {plan.file}", "name one that site.pages means")
        for name in wanted.values()
    ]


def _page(
    file: PageFile, url: str, site: Site, devices: Sequence[Device], fetcher: Fetcher, named: dict[str, _Named]
) -> DeployedPage:
    """A page there, compared with the one here; the files that it names are put in."""
    answer = fetcher.get(url, "text/html,application/xhtml+xml,*/*;q=0.8")
    folder, _, name = url.rpartition("/")
    if answer.status == 404 and name in ("index.html", "index.htm"):
        url = f"{folder}/"
        answer = fetcher.get(url, "text/html,*/*;q=0.8")
    if answer.problem or answer.status != 200:
        return DeployedPage(url, problem=answer.problem or f"is answered with {answer.status}")
    there, here = answer.body.decode("utf-8", "replace"), read_text(file.target).text
    images = [image for image in document_of(here, file.target, site.plan).images if image.master]
    theirs = [image.element for image in read_document(there, file.dialect).images]
    base, tell = urllib.parse.urljoin(url, base_path(there) or ""), _teller(site.plan)
    others: list[str] = []
    strayed: dict[str, tuple[Device, ...]] = {}
    for image in images:
        alike = [one for one in theirs if _files_in(one, tell) == _files_in(image.element, tell)]
        in_place = [one for one in theirs[image.number - 1 : image.number] if one.sources or "srcset" in one.attributes]
        for one, said in itertools.chain.from_iterable(map(_files_of, (alike or in_place)[:1])):
            named.setdefault(urllib.parse.urljoin(base, one), said)
        if alike:
            continue
        name = f"{image.slot} {image.master.rpartition('/')[2]}".strip()
        others.append(name)
        for other in in_place:
            if apart := tuple(device for device in devices if _apart(other, image.element, device, tell)):
                strayed[name] = apart
    return DeployedPage(url, len(images), tuple(others), strayed)


def _apart(one: ImageElement, other: ImageElement, device: Device, tell: Callable[[str], str]) -> bool:
    """Tells whether a device fetches other files for two images."""
    return tell(pick(one, device).url) != tell(pick(other, device).url)


def _files_of(image: ImageElement) -> Iterator[tuple[str, _Named]]:
    """The addresses that an image names, and its description of each."""
    for attributes in (*image.sources, image.attributes):
        type_ = attributes.get("type", "")
        for one in parse_srcset(attributes.get("srcset", "")):
            yield one.url, _Named(type_, one.width or 0)
    if src := image.attributes.get("src"):
        yield src, _Named()


def _files_in(image: ImageElement, tell: Callable[[str], str]) -> list[str]:
    return [tell(url) for url, _ in _files_of(image)]


def _teller(plan: Plan) -> Callable[[str], str]:
    """What tells files apart of their addresses: the last part, which holds a digest; of a service elsewhere all of it."""
    if plan.delivery == "elsewhere":
        return lambda url: urllib.parse.unquote(path_and_query(url))
    return lambda url: urllib.parse.unquote(url.rpartition("/")[2])


def _backgrounds(plan: Plan, url: str, named: dict[str, _Named]) -> None:
    """Puts in what the stylesheet of weave names."""
    sheet = plan.output / STYLESHEET
    if not is_file(sheet):
        return
    there = urllib.parse.urljoin(f"{url.rstrip('/')}/", f"{addresses_of(plan).prefix}/{STYLESHEET}")
    for rule in naming_files(sheet.read_text("utf-8", "replace")):
        for one in rule.urls:
            if not one.url.startswith("data:"):
                named.setdefault(urllib.parse.urljoin(there, one.url), _Named(one.type))


class _Files:
    """Files, requested and compared with the expected ones."""

    def __init__(self, site: Site, fetcher: Fetcher, result: Deployed) -> None:
        self._plan, self._output, self._fetcher, self._result = site.plan, site.output, fetcher, result
        self._tell = _teller(site.plan)
        self._known = dict(_known(site, addresses_of(site.plan).rooted, self._tell))
        self._silent = self._young = 0

    def ask(self, named: Mapping[str, _Named], listener: Listener) -> None:
        """Asks for all of them, a few at once."""
        with listener.progress("asking", len(named)) as advance, ThreadPoolExecutor(AT_ONCE) as pool:
            for one in pool.map(lambda item: self._file(*item), named.items()):
                if one:
                    self._result.files.append(one)
                advance(1, one.url.rpartition("/")[2] if one else "")
        if self._young:
            self._result.notes.append(
                Notice(
                    Kind.LEFT_OUT,
                    "",
                    f"{self._young} files still wait for their encoder's number",
                    "run again in a while",
                    severity="note",
                )
            )
        if len(self._result.files) < len(named):
            left = len(named) - len(self._result.files)
            self._result.faults.append(
                Notice(Kind.PAGE, "", f"{left} files were not asked for, since {_GIVEN_UP} others were not answered")
            )

    def _file(self, url: str, said: _Named) -> DeployedFile | None:
        if self._silent >= _GIVEN_UP:
            return None
        answer = self._fetcher.get(url, _ACCEPTS)
        self._silent = 0 if answer.status else self._silent + 1
        faults = list(self._faults(url, said, answer))
        if not faults and self._plan.by_accept:
            faults = list(self._chosen(url, answer))
        return DeployedFile(url, len(answer.body), tuple(faults))

    def _faults(self, url: str, said: _Named, answer: Fetched) -> Iterator[str]:
        """Faults of a response."""
        if answer.problem or answer.status != 200:
            yield answer.problem or f"is answered with {answer.status}"
            return
        files = self._known.get(self._tell(url), ())
        types = {one.media_type for one in files} or ({said.type} if said.type else set())
        sent = answer.headers.get("content-type", "").partition(";")[0].strip().lower()
        width, format_ = _size_and_type(answer.body)
        if not format_:
            yield "is no image that can be read"
            return
        if sent != format_:
            yield f"is {format_}, and is sent as {sent or 'nothing'}"
        if types and format_ not in types:
            yield f"is {format_}, and should be {' or '.join(sorted(types))}"
        wanted = files[0].width if files else said.width
        if wanted and width != wanted:
            yield f"is {width} px wide, and should be {wanted}"
        elif len(files) == 1 and (own := self._own(files[0])) and hashlib.sha256(answer.body).digest() != own:
            yield "has other bytes than the file made here"
        said_of_age = answer.headers.get("cache-control", "")
        if self._plan.delivery == "request" and said_of_age == FOR_NOW:
            self._young += 1
        else:
            yield from _kept(said_of_age)

    def _own(self, rendition: Rendition) -> bytes | None:
        """The digest of the file as it was made here; None if it was not."""
        try:
            return hashlib.sha256(self._output.read(rendition.name)).digest() if self._plan.makes_files else None
        except OSError:
            return None

    def _chosen(self, url: str, answer: Fetched) -> Iterator[str]:
        """Faults in how a server chooses the format."""
        if "accept" not in {one.strip().lower() for one in answer.headers.get("vary", "").split(",")}:
            yield "is sent in a format by Accept, and without Vary: Accept, so that caches mix formats up"
        files = self._known.get(self._tell(url), ())
        old = self._fetcher.get(url, _OLD)
        if files and _size_and_type(old.body)[1] != files[-1].media_type:
            yield f"is not sent as {files[-1].media_type} to a browser that names no format"


def _known(site: Site, way: Address, tell: Callable[[str], str]) -> Iterator[tuple[str, tuple[Rendition, ...]]]:
    """The files that each address serves, best format first."""
    for picture, crop in site.edition.crops():
        by_address: dict[str, list[Rendition]] = {}
        for one in (one for ladder in crop.renditions.values() for one in ladder):
            by_address.setdefault(tell(way.of(picture, crop, one)), []).append(one)
        yield from ((key, tuple(files)) for key, files in by_address.items())


def _kept(said: str) -> Iterable[str]:
    """Faults in how long caches may keep a file whose address identifies its content."""
    words = {one.strip().lower() for one in said.split(",")}
    age = _AGE.search(said)
    seconds = int(age[1]) if age else 0
    wanted = f"send Cache-Control: public, max-age={_YEAR}, immutable"
    if words & {"no-store", "no-cache", "private"} or seconds < _MONTH:
        return [f"may be kept for {_time(seconds)} though its address changes with its contents; {wanted}"]
    return [] if "immutable" in words else [f"is asked for again when a page is reloaded; {wanted}"]


def _time(seconds: int) -> str:
    for size, name in ((86_400, "days"), (3600, "hours"), (60, "minutes")):
        if seconds >= size:
            return f"{seconds // size} {name}"
    return f"{seconds} s"


def _size_and_type(content: bytes) -> tuple[int, str]:
    """Width in px and media type of an image, by its bytes; 0 and "" if it is not an image."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(io.BytesIO(content), formats=formats_read()) as image:
                return image.width, Image.MIME.get(image.format or "", "")
    except Exception:  # noqa: BLE001 - decoders raise anything for other files
        return 0, ""
