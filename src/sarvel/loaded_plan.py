"""Sarvel from Python: what the commands do, without printing. `sarvel.load` is where it begins; docs/python.md.

Errors that the user can correct are `SarvelError`, whose text is the line that a command would print.
"""

from __future__ import annotations

import html
import os
import threading
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from markupsafe import Markup

from sarvel.core.css.device import Device
from sarvel.core.edition.compose import Edition, masters_of
from sarvel.core.layout.audience import Visits, busiest
from sarvel.core.markup.picture import write_markup
from sarvel.errors import MasterError, OutputError, PlanError
from sarvel.files.ledger_entries import known_placeholders
from sarvel.files.output_folder import sizes_of
from sarvel.pages.read.page_files import read_text
from sarvel.pages.weave.write import standing_alone
from sarvel.pipeline.check import check_files, pages_of_plan
from sarvel.pipeline.checker import CheckedPage
from sarvel.pipeline.listener import Nobody
from sarvel.pipeline.plan_folders import masters_of_plan, output_of_plan
from sarvel.pipeline.render import RenderedPlan, RenderOptions, render_plan
from sarvel.pipeline.roots import addresses_of
from sarvel.pipeline.settling import settled_edition
from sarvel.pipeline.site import compose_edition, ledger_of, read_site
from sarvel.plan.find import find_plan
from sarvel.plan.messages import nearest
from sarvel.plan.read import Plan, read_plan
from sarvel.tools.pick import Outcome, images_of, outcomes

if TYPE_CHECKING:
    from sarvel.files.ledger import Stamp


def load(plan: str | Path | None = None) -> LoadedPlan:
    """Reads a plan.

    Args:
        plan: its file; None for the nearest `sarvel.toml`, here or in a folder above.

    Raises:
        PlanError: it is missing, or it is wrong: a line for each fault.

    >>> import sarvel
    >>> plan = sarvel.load("sarvel.toml")
    >>> sorted(plan.slots)
    ['badge', 'banner', 'card', 'card-link', 'icon', 'panel', 'share', 'sheet', 'still']
    """
    return LoadedPlan(read_plan(Path(plan) if plan is not None else find_plan(Path.cwd())))


@dataclass
class LoadedPlan:
    """A plan that was read. Any thread may call it."""

    plan: Plan
    _known: dict[tuple[str, str], tuple[list[Stamp | None], Edition]] = field(default_factory=dict, repr=False)
    _lock: threading.Lock = field(default_factory=threading.Lock, repr=False)

    @property
    def slots(self) -> tuple[str, ...]:
        """The names of its slots, in the plan's order."""
        return tuple(self.plan.slots)

    def compose(self) -> Edition:
        """Everything that the plan makes of what its pages ask for: crops, widths, files, by slot and master. Makes nothing.

        Raises:
            PlanError: its pages cannot be found, or it would write where it may not.

        >>> edition = sarvel.load("sarvel.toml").compose()
        >>> crop = edition.pictures["card", "great-lens.jpg"].crops[0]
        >>> [one.width for one in crop.renditions["jpeg"]]
        [384, 768, 1074, 1194, 1776]
        """
        with ledger_of(self.plan, _unheard, creates=False) as ledger:
            return read_site(self.plan, ledger).edition

    def render(self, *only: str, workers: int | None = None) -> RenderedPlan:
        """Makes the files that are missing, as `sarvel render`.

        Args:
            only: patterns of names of slots and masters; none for all.
            workers: processes at most; None for as many as suit.

        Returns:
            The made files, the number of existing ones, and faults.

        Raises:
            PlanError: as compose; or a pattern means nothing.
            OutputError: the folder of renditions cannot be written.

        >>> done = sarvel.load("sarvel.toml").render("card", workers=1)
        >>> len(done.rendered.made), list(done.faults)
        (0, [])
        """
        # As the command does, before NumPy is loaded: our products are too small to share out.
        os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
        with ledger_of(self.plan, _unheard) as ledger:
            return render_plan(self.plan, ledger, RenderOptions(only=only, workers=workers), Nobody())

    def picture(self, slot: str, master: str, alt: str | None = None, **attributes: str) -> Markup:
        """The markup of one picture, as weaving would write it: safe text for templates that escape.

        Args:
            master: the master's path below the masters folder.
            alt: the alt text; None uses the plan's.
            attributes: others of the img; `class_` for class, `data_id` for data-id.

        Raises:
            PlanError: there is no such slot, or there is no alt text.
            MasterError: the master cannot be read.
            OutputError: its files are not made yet.

        >>> plan = sarvel.load("sarvel.toml")
        >>> print(plan.picture("badge", "crest.png", alt="The crest", class_="round"))  # doctest: +ELLIPSIS
        <picture
          ><source type="image/avif" hidden
            srcset="pictures/crest-badge-96....avif 1x, ...
        ... alt="The crest"
            class="round"></picture>
        """
        plan = self.plan
        if slot not in plan.slots:
            raise PlanError.at(plan.file, f"no slot '{slot}'", nearest(slot, plan.slots))
        words = alt if alt is not None else plan.masters[master].alt if master in plan.masters else None
        if words is None and not plan.leaves_alt:
            raise PlanError.at(
                plan.file, f"{master} has no words", f'say alt here, or in the plan under [masters."{master}"]'
            )
        with self._lock, ledger_of(plan, _unheard, creates=False) as ledger:
            edition = self._edition(slot, master)
            output = output_of_plan(plan)
            if plan.makes_files:
                edition, _ = settled_edition(edition, output, ledger)
                wanted = {one.name for one in edition.pictures[slot, master].renditions()}
                if not wanted <= sizes_of(edition, output).keys():
                    raise OutputError.at(
                        plan.file, f"the files of {master} for {slot} are not made", "run sarvel render"
                    )
            backgrounds = None if plan.stylesheet else known_placeholders(ledger, edition)
        markup = write_markup(edition.pictures[slot, master], addresses_of(plan).rooted, backgrounds)
        others = " ".join(f'{_name(name)}="{html.escape(value)}"' for name, value in attributes.items())
        return Markup(standing_alone(markup, words, others=others))  # noqa: S704 - written by ourselves, attributes escaped

    def pick(self, page: str | Path, devices: Sequence[Device] = ()) -> Mapping[int, Sequence[Outcome]]:
        """The file that each device fetches for each image of a page.

        Args:
            page: the page, woven or not.
            devices: the devices; none for the busiest of the plan's audience.

        Returns:
            By the image's number from 1, an outcome for each device in order.

        Raises:
            PageError: the page cannot be read.

        >>> found = sarvel.load("sarvel.toml").pick("public/index.html", [sarvel.Device(390, 844, 3)])
        >>> found[1][0].pick.url  # doctest: +ELLIPSIS
        'pictures/crest-badge-288....avif'
        """
        file = Path(page)
        text = read_text(file).text
        audience = [Visits(device, 1, "") for device in devices] or busiest(self.plan.audience)
        return outcomes(images_of(text, file, self.plan), audience, text, file, self.plan)

    def check(self, *pages: str | Path) -> Sequence[CheckedPage]:
        """The faults in the image markup of pages.

        Args:
            pages: pages and stylesheets; none for the plan's, as woven. The stylesheets that they link to come with them.

        Raises:
            PlanError: the plan's pages cannot be found.

        >>> sum(len(page.findings) for page in sarvel.load("sarvel.toml").check("public/index.html"))
        0
        """
        files: Iterable[Path] = map(Path, pages) if pages else pages_of_plan(self.plan)
        return check_files(files, self.plan).pages

    def _edition(self, slot: str, master: str) -> Edition:
        """The composition of one picture; computed again when a master of it changes.

        Raises:
            MasterError: the master cannot be read.
        """
        pair, masters = (slot, master), masters_of_plan(self.plan)
        stamps = [masters.stamp(key) for key in masters_of([pair], self.plan.masters)]
        known = self._known.get(pair)
        if known is None or known[0] != stamps:
            with ledger_of(self.plan, _unheard, creates=False) as ledger:
                edition, unreadable = compose_edition(self.plan, masters, [pair], ledger)
            for error in unreadable.values():
                raise MasterError.at(self.plan.file, str(error))
            known = self._known[pair] = (stamps, edition)
        return known[1]


def _name(said: str) -> str:
    """The name of an attribute, as Python can state it."""
    return said.rstrip("_").replace("_", "-")


def _unheard(_: str) -> None:
    """Takes reports on a ledger that cannot be used: it only ever saves time."""
