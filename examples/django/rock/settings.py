"""The settings of the project."""

import os
from pathlib import Path

BASE_DIR = Path(__file__).parent.parent
DEBUG = os.environ.get("ROCK_DEBUG", "1") == "1"
SECRET_KEY = os.environ.get("ROCK_KEY", "for trying alone")
ALLOWED_HOSTS = ["127.0.0.1", "localhost"]
ROOT_URLCONF = "rock.urls"
INSTALLED_APPS = ["django.contrib.staticfiles", "rock"]
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {"libraries": {"pictures": "rock.pictures"}},
    }
]
STATIC_URL = "/static/"
STATIC_ROOT = BASE_DIR / "deployed"
# The masters are there for templates that are not woven yet; no visitor gets one.
STATICFILES_DIRS = [BASE_DIR / "static", *([("masters", BASE_DIR / "masters")] if DEBUG else [])]
USE_TZ = True
