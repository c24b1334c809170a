"""The template tag for pictures that only the database knows: {% picture "card" entry.file alt=entry.words %}."""

import functools

from django import template
from django.conf import settings

import sarvel

register = template.Library()


@functools.cache
def _plan() -> sarvel.LoadedPlan:
    return sarvel.load(settings.BASE_DIR / "sarvel.toml")


@register.simple_tag
def picture(slot: str, master: str, **attributes: str) -> str:
    """The markup of a picture; `sarvel render` made its files."""
    return _plan().picture(slot, master, **attributes)
