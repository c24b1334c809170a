"""Files on their way to where they are published, where that is object storage."""

from __future__ import annotations

from collections.abc import Sequence

from sarvel.core.amounts import counted
from sarvel.core.edition.compose import Edition
from sarvel.encode.work import Made
from sarvel.files.ledger import Ledger, MadeFile
from sarvel.files.output_folder import OutputFolder, Sender
from sarvel.notices import Kind, Notice
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.settling import settled_edition
from sarvel.pipeline.site import Site


def send_left_behind(output: OutputFolder, ledger: Ledger, listener: Listener) -> None:
    """Sends what an earlier run made and could not send.

    Raises:
        StorageError: it is refused again.
    """
    if left := output.left_behind(ledger):
        text = f"{counted(len(left), 'file')} of an earlier run sent first"
        listener.notes([Notice(Kind.SENDING, str(output), text, severity="note")])
        with output.sending() as send:
            send(left)
            finish(send, listener)


def finish(send: Sender, listener: Listener) -> None:
    """Waits until all is sent."""
    with listener.progress("sending", send.left) as advance:
        send.finish(lambda count: advance(count, ""))


class Publishing:
    """Tells which files of a master are to be sent, once all of them are made: none of formats that do not pay."""

    def __init__(self, site: Site, ledger: Ledger) -> None:
        """Takes the site, and what knows the weights of files."""
        self._site, self._ledger = site, ledger
        self._pairs: dict[str, set[tuple[str, str]]] = {}
        if site.output.place:
            for picture, crop in site.composed.crops():
                pair = (picture.slot.name, picture.master.key)
                self._pairs.setdefault(crop.source.key, set()).add(pair)

    def __call__(self, made: Made) -> Sequence[MadeFile]:
        """The files of a master to send."""
        pictures = self._site.composed.pictures
        edition = Edition({pair: pictures[pair] for pair in self._pairs.get(made.key, ())})
        settled, left_out = settled_edition(edition, self._site.output, self._ledger)
        dropped = {one.name for left in left_out for one in left.renditions} - settled.files().keys()
        return [file for file in made.files if file.name not in dropped]
