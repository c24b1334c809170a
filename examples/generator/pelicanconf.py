"""The settings of the site's generator."""

SITENAME = "Brindle Rock"
SITEURL = ""
AUTHOR = "The keeper"
TIMEZONE = "UTC"
DEFAULT_LANG = "en"

PATH = "content"
OUTPUT_PATH = "plain"  # what the generator makes; Sarvel weaves it into public/
THEME = "theme"
THEME_STATIC_DIR = "theme"

DIRECT_TEMPLATES = ["index"]
AUTHOR_SAVE_AS = CATEGORY_SAVE_AS = TAG_SAVE_AS = ""
FEED_ALL_ATOM = CATEGORY_FEED_ATOM = TRANSLATION_FEED_ATOM = AUTHOR_FEED_ATOM = AUTHOR_FEED_RSS = None
