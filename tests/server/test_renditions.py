"""Files by address, in this process: two servers that share a cache make each once, and a search is done when there is time."""

import asyncio
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest

from sarvel.core.address.on_request import Asked, asked_of
from sarvel.files.ledger import Ledger
from sarvel.pipeline.site import read_site
from sarvel.plan.read import read_plan
from sarvel.server.outcomes import Moved, Refused, Sent
from sarvel.server.pictures import Pictures
from sarvel.server.records import Records
from sarvel.server.renditions import Renditions
from sarvel.server.settings import ServerSettings


@pytest.fixture
def settings(site: Path, monkeypatch: pytest.MonkeyPatch) -> ServerSettings:
    monkeypatch.setenv("SARVEL_KEY", "k" * 40)
    plan = site / "sarvel.toml"
    text = plan.read_text().replace("[site]", '[site]\ndelivery = "request"').replace("quality = {", "# quality = {")
    plan.write_text(
        text.replace('sizes = { phone = "100vw", desktop = "50vw" }', 'sizes = "40px"').replace("phone = ", "all = ")
    )
    plan.write_text(plan.read_text().replace("desktop = 800\n", "").replace(', desktop = "2:1"', ""))
    return ServerSettings(plan, site / "cache", workers=2, longest=60)


def asked(settings: ServerSettings) -> list[Asked]:
    with Ledger() as ledger:
        edition = read_site(read_plan(settings.plan), ledger).edition
    return [
        asked_of(picture, crop, one, by_accept=False)
        for picture, crop in edition.crops()
        for ladder in crop.renditions.values()
        for one in ladder
    ]


def count(records: Records) -> dict[str, float]:
    return {
        sample.labels["number"]: sample.value
        for metric in records.made.collect()
        for sample in metric.samples
        if sample.name.endswith("_total")
    }


def test_two_servers_make_each_file_once_and_search_when_there_is_time(settings: ServerSettings) -> None:
    wanted = asked(settings)

    async def run() -> None:
        records = Records(""), Records("")
        servers = [Renditions(settings, one) for one in records]
        for server in servers:
            await server.start()
        try:
            outcomes = await asyncio.gather(*(server.outcome(one, "") for one in wanted for server in servers * 3))
            assert all(isinstance(one, Sent) for one in outcomes)
            first = [sum(count(one).get(name, 0) for one in records) for name in ("usual", "known")]
            assert sum(first) >= len(wanted) and first[0] > 0
            end = time.monotonic() + 60
            while True:
                outcomes = [await server.outcome(one, "") for one in wanted for server in servers]
                if all(isinstance(one, Sent) and one.entry.is_final for one in outcomes):
                    break
                assert time.monotonic() < end
                await asyncio.sleep(0.2)
            total = sum(sum(count(one).values()) for one in records)
            assert total == len(wanted) + first[0]  # each once, and those whose number was not known once more
            assert not list((settings.cache).rglob("*.first.*"))
        finally:
            for server in servers:
                await server.close()
        again = Renditions(settings, Records(""))
        await again.start()
        outcome = await again.outcome(wanted[0], "")
        assert isinstance(outcome, Sent) and outcome.source == "disk"
        assert isinstance(await again.outcome(replace(wanted[0], width=7), ""), Moved)
        assert isinstance(await again.outcome(replace(wanted[0], slot="none"), ""), Refused)
        await again.close()

    asyncio.run(run())


def test_what_cannot_be_made_is_told_of_once_and_not_tried_again_at_once(
    settings: ServerSettings, capsys: pytest.CaptureFixture[str]
) -> None:
    one = next(one for one in asked(settings) if one.master == "gull.jpg")

    async def run() -> None:
        records = Records("")
        server = Renditions(replace(settings, longest=0.0), records)
        await server.start()
        outcomes = [await server.outcome(one, "") for _ in range(3)]
        assert all(isinstance(told, Refused) and told.status == 500 for told in outcomes)
        assert records.failed._value.get() == 1
        await server.close()

    asyncio.run(run())
    assert capsys.readouterr().err.count("gull.jpg: it took more than 0 s") == 1


def test_an_application_that_cannot_start_says_why(settings: ServerSettings) -> None:
    """As ASGI servers run it: the plan is gone, and the server ends with our words."""
    settings.plan.unlink()
    told = []

    async def run() -> None:
        async def send(message: dict[str, str]) -> None:
            told.append(message)

        async def receive() -> dict[str, str]:
            return {"type": "lifespan.startup"}

        app: Callable[..., object] = Pictures(lambda: settings)
        await app({"type": "lifespan"}, receive, send)  # type: ignore[misc]

    asyncio.run(run())
    assert [one["type"] for one in told] == ["lifespan.startup.failed"] and "there is no such file" in told[0][
        "message"
    ]
