"""The way of a plan up to its files: composed, made and settled, a portion of its masters at a time."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Container, Iterator, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from sarvel.core.edition.compose import Edition
from sarvel.core.patterns import matches
from sarvel.errors import PlanError
from sarvel.files.atomic import sweep
from sarvel.files.folder_lock import alone_in
from sarvel.files.ledger import Ledger
from sarvel.files.name_set import NameSet
from sarvel.files.output_folder import OutputFolder, prune
from sarvel.notices import Kind, Notice
from sarvel.pages.read.references import names_in_pages
from sarvel.pipeline.cluster_when_needed import ClusterWhenNeeded
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.make_files import Rendered, make_files
from sarvel.pipeline.page_sums import Pair, Weighed, weigh
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.sending import Publishing, send_left_behind
from sarvel.pipeline.site import PlanAndPages, RequestedImages, Site, read_asked, settled
from sarvel.pipeline.targets import side_places
from sarvel.pipeline.todo import Todo, placeholders_to_do, work_to_do
from sarvel.pipeline.unchanged import endings_by_folder
from sarvel.plan.messages import nearest
from sarvel.plan.read import Plan


@dataclass(frozen=True)
class RenderOptions:
    """The part of a plan to render, and how.

    Attributes:
        only: patterns of names of slots and masters; empty for all.
        force: whether to make existing files again.
        verify: whether to compare the content of existing files.
        prune: whether to remove files that the plan does not make any more.
        workers: processes at most, >= 1; None for as many as suit.
        on: the address of a dask scheduler whose workers do it; None for this machine.
    """

    only: tuple[str, ...] = ()
    force: bool = False
    verify: bool = False
    prune: bool = False
    workers: int | None = None
    on: str | None = None


@dataclass
class RenderedPlan:
    """The result of rendering all that a plan asks for.

    Attributes:
        left_out: names of files that were made and are of formats that do not pay.
        count: how many files the plan has.
        masters: the folders that its masters lie in, each with the endings of their names.
        faults: obstacles, each once.
        warnings: about pictures, each once.
        notes: what the user may leave so about pictures, each once.
        pictures: the pictures whose files all exist, if their weights are wanted.
        site: the site, if it is a single portion.
    """

    asked: RequestedImages
    rendered: Rendered = field(default_factory=Rendered)
    left_out: set[str] = field(default_factory=set)
    count: int = 0
    masters: dict[Path, set[str]] = field(default_factory=dict)
    faults: dict[Notice, None] = field(default_factory=dict)
    warnings: dict[Notice, None] = field(default_factory=dict)
    notes: dict[Notice, None] = field(default_factory=dict)
    pictures: dict[Pair, Weighed] = field(default_factory=dict)
    site: Site | None = None

    def add(self, site: Site, rendered: Rendered) -> None:
        """Adds a portion of it."""
        self.rendered.add(rendered)
        self.left_out |= site.dropped().intersection(rendered.made)
        self.count += len(site.edition.files())
        endings_by_folder(site.masters_read(), self.masters)
        self.faults |= dict.fromkeys([*site.faults, *rendered.faults.values()])
        self.warnings |= dict.fromkeys(site.warnings)
        self.notes |= dict.fromkeys(site.notes)
        self.site = site if set(site.wanted) == set(self.asked.wanted) else None


def render_plan(
    plan: Plan, ledger: Ledger, options: RenderOptions, listener: Listener, *, weighs: bool = False
) -> RenderedPlan:
    """Renders all that a plan asks for, a portion of its masters at a time, so that memory stays the same for any number.

    Of a plan whose files are not made beforehand only placeholders are made. Files that the plan makes no more are not
    removed: `prune_plan` does that, once pages are written.

    Args:
        options: which files to render, and how.
        weighs: whether it is asked what pictures weigh.

    Raises:
        PlanError: the plan's pages cannot be found, it would write where it may not, or the options name nothing of it.
        OutputError: the folder of renditions cannot be read or written.
        ClusterError: the cluster cannot be reached, or went away.
    """
    made: list[str] = []
    while True:
        was_damaged = ledger.is_damaged
        result = RenderedPlan(asked := read_asked(plan))
        with contextlib.ExitStack() as running:
            cluster = ClusterWhenNeeded(options.on, listener, running)
            if plan.makes_files:
                running.enter_context(alone(asked.output, listener))
            for part in Parts(asked, ledger).by_masters(chosen(asked, options), cluster.portion):
                site, rendered = made_of(part, ledger, options, listener, cluster)
                result.add(site, rendered)
                if weighs and plan.makes_files:
                    result.pictures |= weigh(site.made(there := site.there()), there)
                del part, site  # before the next one is worked out
        made += result.rendered.made
        if was_damaged or not ledger.is_damaged:
            break  # it was asked before that was found out: once more, with the rest
    result.rendered.made = made
    return result


def made_of(
    site: Site, ledger: Ledger, options: RenderOptions, listener: Listener, cluster: ClusterWhenNeeded | None = None
) -> tuple[Site, Rendered]:
    """Makes the missing files of a site, or of a part of it, by a run that is alone in the folder of renditions.

    Where a format turns out not to pay, the others get the widths that suit all its visits, and missing files are made.

    Returns:
        The site with its files, and the result.

    Raises:
        OutputError: the folder of renditions cannot be read or written.
        ClusterError: the cluster cannot be reached, or went away.
    """
    output = site.output
    if not site.plan.makes_files:
        return with_placeholders(site, ledger, listener), Rendered()
    send_left_behind(output, ledger, listener)
    rendered, part = Rendered(), site
    while True:
        todo = to_do(part, ledger, options)
        listener.trouble(_altered(todo, output))
        there = cluster() if cluster and todo.works else None
        made = make_files(todo, output, ledger, options.workers, listener, there, Publishing(part, ledger))
        rendered.add(made if not rendered.made else replace(made, kept=0))
        if not todo.count:
            break  # nothing is known now that was not known before
        if part is site and not todo.copies:
            part = _part_of(site, {work.digest for work in todo.works})
        wanted, part = part.edition.files().keys(), settled(part, ledger)
        if rendered.faults or part.edition.files().keys() <= wanted:
            break
        options = replace(options, force=False, verify=False)
    site = _with_part(site, part)
    gone = output.sizes(site.dropped()).keys() | OutputFolder(output.folder).sizes(site.dropped()).keys()
    output.discard(gone - names_in_use(site) if gone else ())
    return site, rendered


def _part_of(site: Site, digests: Container[str]) -> Site:
    """The part of a site that is made of some masters, by their digests."""
    whole = site.composed.pictures
    pairs = {pair for pair, one in whole.items() if any(crop.source.digest in digests for crop in one.crops)}
    return replace(
        site,
        composed=Edition({pair: one for pair, one in whole.items() if pair in pairs}),
        edition=Edition({pair: one for pair, one in site.edition.pictures.items() if pair in pairs}),
        left_out=tuple(one for one in site.left_out if (one.slot, one.master) in pairs),
    )


def _with_part(site: Site, part: Site) -> Site:
    """A site with a part of it that was settled again."""
    pairs = part.composed.pictures
    order = {pair: place for place, pair in enumerate(site.composed.pictures)}
    left_out = [one for one in site.left_out if (one.slot, one.master) not in pairs]
    return replace(
        site,
        edition=Edition({**site.edition.pictures, **part.edition.pictures}),
        left_out=tuple(sorted([*left_out, *part.left_out], key=lambda one: order[one.slot, one.master])),
        placeholders={**site.placeholders, **part.placeholders},
    )


def to_do(site: Site, ledger: Ledger, options: RenderOptions) -> Todo:
    """Works out the files that the options ask for; none of a plan whose files are not made beforehand.

    Raises:
        OutputError: the folder of renditions cannot be read.
    """
    if not site.plan.makes_files:
        return Todo([], {}, 0)
    master = site.masters.file
    return work_to_do(site.edition, master, site.output, ledger, force=options.force, verify=options.verify)


def chosen(asked: RequestedImages, options: RenderOptions) -> list[tuple[str, str]]:
    """The pictures that the options ask for: slot name and master key.

    Raises:
        PlanError: they name no slot or master of the plan.
    """
    only = options.only
    found = [pair for pair in asked.wanted if not only or any(map(_matcher(pair), only))]
    if only and not found:
        known = dict.fromkeys(name for pair in asked.wanted for name in pair)
        raise PlanError.at(
            f"--only {only[0]}", "no slot and no master of the pages has this name", nearest(only[0], known)
        )
    return found


def _matcher(pair: tuple[str, str]) -> Callable[[str], bool]:
    """Tells whether a pattern matches this slot or this master."""
    return lambda pattern: any(matches(pattern, name) for name in (*pair, pair[1].rsplit("/", 1)[-1]))


def _altered(todo: Todo, output: OutputFolder) -> Iterator[Notice]:
    if count := len(todo.altered):
        some = ", ".join(todo.altered[:3]) + (", …" if count > 3 else "")
        is_, are = ("1 file is", "is") if count == 1 else (f"{count} files are", "are")
        text = f"{is_} changed by others, and {are} made again: {some}"
        yield Notice(Kind.ALTERED, str(output), text, severity="warning")


def prune_plan(
    asked: RequestedImages, ledger: Ledger, faults: Sequence[Notice], options: RenderOptions, listener: Listener
) -> list[str]:
    """Removes renditions that neither the plan makes nor a page names any more; returns their names.

    Args:
        faults: obstacles: then nothing is deleted.
        options: how the run was asked for.

    Raises:
        OutputError: one cannot be removed.
    """
    output = asked.output
    unread = "some masters or pages could not be read" if faults else ""
    if why := unread or ("--only looks at a part of the plan" if options.only else ""):
        listener.notes([Notice(Kind.KEPT, str(output), f"nothing pruned, since {why}", severity="note")])
        return []
    with NameSet() as wanted, alone(output, listener):
        for site in Parts(asked, ledger).by_masters():
            wanted.add(site.edition.files())
        return prune(wanted, output, ledger, names_in_use(asked))


def names_in_use(site: PlanAndPages) -> set[str]:
    """Names of files that the site's pages name as they stand, authors' and woven ones, and its side files."""
    plan = site.plan
    files = {file for one in (*(page.file for page in site.pages), *site.others) for file in (one.source, one.target)}
    return names_in_pages([*sorted(files), *side_places(plan)])


def make_placeholders(parts: Parts, listener: Listener) -> None:
    """Makes the placeholders of a plan that are missing, and nothing else."""
    for number, site in enumerate(parts.by_masters()):
        done = with_placeholders(site, parts.ledger, listener)
        parts.whole = None if number else done


def with_placeholders(site: Site, ledger: Ledger, listener: Listener) -> Site:
    """Makes missing placeholders, which is rare after rendering; returns the site with them."""
    todo = placeholders_to_do(site.edition, site.masters.file, site.output, ledger)
    if todo.works:
        make_files(todo, site.output, ledger, 1, listener)
    return settled(site, ledger)


@contextlib.contextmanager
def alone(output: OutputFolder, listener: Listener) -> Iterator[None]:
    """Keeps other runs from writing renditions while the block runs; what killed runs left half written is removed."""
    waiting = Notice(Kind.WAITING, str(output), "another run is writing there; waiting for it", severity="note")
    with alone_in(output.folder, lambda: listener.notes([waiting])):
        sweep(output.folder)
        yield
