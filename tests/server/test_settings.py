"""Settings by variables of the environment, and records: counts and lines."""

import json
from pathlib import Path

import pytest

from sarvel.errors import PlanError
from sarvel.server.records import Records
from sarvel.server.settings import default_workers, from_environment, weight_of


def test_settings_of_the_environment(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    plan = tmp_path / "sarvel.toml"
    told = from_environment({"SARVEL_PLAN": str(plan)})
    assert told.cache == tmp_path / "sarvel.cache" and told.workers == default_workers() >= 2
    assert (told.cache_bytes, told.queue, told.log) == (10**10, 64, "")
    said = {"SARVEL_PLAN": str(plan), "SARVEL_CACHE": "/c", "SARVEL_CACHE_SIZE": "2.5 MB", "SARVEL_WORKERS": "7"}
    told = from_environment({**said, "SARVEL_QUEUE": "3", "SARVEL_PATIENCE": "9", "SARVEL_ACCESS_LOG": "-"})
    assert (str(told.cache), told.cache_bytes, told.workers, told.queue) == ("/c", 2_500_000, 7, 3)
    assert (told.patience, told.log) == (9.0, "-")
    monkeypatch.chdir(tmp_path)
    with pytest.raises(PlanError, match=r"no sarvel\.toml"):
        from_environment({})


@pytest.mark.parametrize(
    ("name", "value", "words"),
    [
        ("SARVEL_WORKERS", "0", "'0' is no whole number from 1 to 100000"),
        ("SARVEL_QUEUE", "many", "'many' is no whole number"),
        ("SARVEL_PATIENCE", "٣", "is no whole number"),
        ("SARVEL_CACHE_SIZE", "10", "'10' is no weight; write one such as \"10 GB\""),
        ("SARVEL_MEMORY", "0 MB", "'0 MB' is no weight"),
    ],
)
def test_what_variables_cannot_hold(tmp_path: Path, name: str, value: str, words: str) -> None:
    with pytest.raises(PlanError, match=words) as told:
        from_environment({"SARVEL_PLAN": str(tmp_path / "sarvel.toml"), name: value})
    assert str(told.value).startswith(f"{name}: ")


@pytest.mark.parametrize(("said", "size"), [("1 kB", 1000), (" 1.5MB ", 1_500_000), ("2 TB", 2 * 10**12)])
def test_weights(said: str, size: int) -> None:
    assert weight_of(said, "--cache-size") == size


def test_counts_and_lines(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    log = tmp_path / "log.jsonl"
    records = Records(str(log))
    said = {"method": "GET", "path": '/a"\n\xff' + "x" * 900, "client": "127.0.0.1"}
    records.request(200, "memory", 50, 0.002, said)
    records.request(404, "seal", 9, 0.001, said)
    records.flush()
    moved = log.rename(tmp_path / "log.1")
    records.flush()  # notices, and begins anew
    records.request(200, "disk", 7, 0.01, said)
    records.close()
    lines = [json.loads(line) for file in (moved, log) for line in file.read_text().splitlines()]
    assert [(one["status"], one["from"], one["bytes"]) for one in lines] == [
        (200, "memory", 50),
        (404, "seal", 9),
        (200, "disk", 7),
    ]
    assert all(one["path"].startswith('/a"\n\xff') and len(one["path"]) == 500 for one in lines)
    text = records.metrics().decode()
    assert 'sarvel_answers_total{from="memory",status="200"} 1.0' in text and "sarvel_sent_bytes_total 66.0" in text
    for _ in range(3):
        records.trouble("a.jpg: is damaged")
    assert capsys.readouterr().err.count("a.jpg: is damaged") == 1
