"""A real browser over WebDriver, and the site served to it on loopback. Needs the extra `browser`."""
