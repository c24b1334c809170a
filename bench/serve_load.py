"""Many clients at once on a server of sealed addresses: how many answers a second, how late, and what each file cost.

    python bench/serve_load.py FOLDER [--clients 200] [--seconds 60]

FOLDER holds a plan with delivery = "request" and woven pages. The server starts with an empty cache, so that files are made while
others are sent. Some clients ask for any address of the woven pages, the others for those that were made already.
"""

from __future__ import annotations

import argparse
import asyncio
import random
import re
import shutil
import socket
import statistics
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

_ADDRESS = re.compile(r"[^\s\"',]+~[\w-]{22}")
_SAMPLE = 5.0  # s between two looks at the server's memory


def main() -> None:
    """Runs and prints."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--clients", type=int, default=200)
    parser.add_argument("--seconds", type=float, default=60.0)
    parser.add_argument("--fresh", type=int, default=20, help="how many of them ask for any address")
    parser.add_argument(
        "--rate", type=float, default=2200.0, help="requests a second of all together, 0 for as many as can be"
    )
    parser.add_argument("--queue", type=int, default=64)
    asked = parser.parse_args()
    addresses = _addresses(asked.folder)
    cache = Path(tempfile.mkdtemp())
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [sys.executable, "-m", "sarvel", "deliver", "--port", str(port), "--cache", str(cache)]
    command += ["--plan", str(asked.folder / "sarvel.toml"), "--queue", str(asked.queue)]
    server = subprocess.Popen(command, stdout=subprocess.PIPE)
    try:
        assert server.stdout
        server.stdout.readline()
        asyncio.run(_load(port, addresses, asked, server.pid))
    finally:
        server.terminate()
        server.wait(60)
        shutil.rmtree(cache)


def _addresses(folder: Path) -> list[str]:
    """All sealed addresses of woven pages, as paths."""
    found: dict[str, None] = {}
    for page in sorted((folder / "public").rglob("*.html")):
        for address in _ADDRESS.findall(page.read_text()):
            found[f"/{address.lstrip('./')}"] = None
    return list(found)


async def _load(port: int, addresses: list[str], asked: argparse.Namespace, server: int) -> None:
    clients, seconds = asked.clients, asked.seconds
    statuses, times, made = Counter[str](), list[float](), list[float]()
    end = time.monotonic() + seconds
    memory = asyncio.create_task(_memory(server, end))
    every = [addresses if number < asked.fresh else _SEEN for number in range(clients)]
    pause = clients / asked.rate if asked.rate else 0.0
    await asyncio.gather(*(_client(port, theirs, end, pause, statuses, times, made) for theirs in every))
    kept = sorted(times)
    print(f"{clients} clients, {seconds:g} s, {len(addresses)} addresses")
    print(f"answers: {dict(statuses)}; {len(kept) / seconds:.0f} a second that were there already")
    print(f"of those: median {statistics.median(kept) * 1000:.1f} ms, p99 {kept[int(len(kept) * 0.99)] * 1000:.1f} ms")
    print(f"others, which were made first or waited: {len(made)}, median {statistics.median(made or [0]):.2f} s")
    print(f"memory of the server, MB every {_SAMPLE:g} s: {await memory}")
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    _, body = await _get(reader, writer, "/.sarvel/metrics")
    print("\n".join(line for line in body.decode().splitlines() if line.startswith("sarvel_files_made_total")))


async def _client(
    port: int,
    addresses: list[str],
    end: float,
    pause: float,
    statuses: Counter[str],
    times: list[float],
    made: list[float],
) -> None:
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    await asyncio.sleep(random.random() * pause)
    while time.monotonic() < end:
        if not addresses:
            await asyncio.sleep(0.1)
            continue
        address = random.choice(addresses)
        was_there = address in _SEEN
        began = time.perf_counter()
        status, _ = await _get(reader, writer, address)
        took = time.perf_counter() - began
        statuses[status] += 1
        await asyncio.sleep(max(0.0, pause - took))
        if status == "200":
            (times if was_there else made).append(took)
            if address not in _SEEN:
                _SEEN.append(address)
        else:
            await asyncio.sleep(1)
    writer.close()


_SEEN: list[str] = []
"""Addresses that were answered once to anybody; and so were there when they were asked for again."""


async def _get(reader: asyncio.StreamReader, writer: asyncio.StreamWriter, path: str) -> tuple[str, bytes]:
    writer.write(f"GET {path} HTTP/1.1\r\nHost: x\r\nAccept: image/avif,image/webp,*/*\r\n\r\n".encode())
    head = await reader.readuntil(b"\r\n\r\n")
    size = re.search(rb"content-length: (\d+)", head)
    return head[9:12].decode(), await reader.readexactly(int(size[1]) if size else 0)


async def _memory(server: int, end: float) -> list[int]:
    found = []
    while time.monotonic() < end:
        await asyncio.sleep(_SAMPLE)
        pages = int(Path(f"/proc/{server}/statm").read_text().split()[1])
        found.append(pages * 4096 // 1_000_000)
    return found


if __name__ == "__main__":
    main()
