"""The pages of the site."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

LOG = [
    {"says": "The boat came in at last.", "file": "supply-boat.jpg", "words": "The supply boat under way"},
    {"says": "The lens is clean again.", "file": "great-lens.jpg", "words": "The great lens in its frame"},
]
"""Rows of a database: words, and the file of a master."""


def index(request: HttpRequest) -> HttpResponse:
    """The home page."""
    return render(request, "index.html")


def log(request: HttpRequest) -> HttpResponse:
    """The keeper's log."""
    return render(request, "log.html", {"entries": LOG})
