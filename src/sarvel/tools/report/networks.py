"""Networks for which a report gives loading times."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Network:
    """A network.

    Attributes:
        megabits: of data a second.
    """

    name: str
    megabits: float
    round_trip: int

    def seconds(self, weight: int) -> float:
        """How long so many bytes take: two round trips, to connect and to ask, and the bytes at the network's rate."""
        return 2 * self.round_trip / 1000 + weight * 8 / (self.megabits * 1e6)

    def __str__(self) -> str:
        return f"{self.name} ({self.megabits:g} Mbit/s, {self.round_trip} ms)"


# Our choice: what phones have on the road, in a town, and at home.
NETWORKS = (Network("slow mobile", 1.6, 150), Network("mobile", 10, 60), Network("home", 50, 20))
