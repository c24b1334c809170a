"""One session of a browser over WebDriver: pages opened at any viewport, scripts run in them, all of it bounded in time."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from sarvel.browser.kept_driver import INSTALL, KeptDriver, kept_driver
from sarvel.errors import BrowserError, PageError

if TYPE_CHECKING:
    from selenium.webdriver.remote.webdriver import WebDriver

# Nothing outside is asked: every host but loopback's is unknown to the browser. Scroll bars would take width away.
_FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--hide-scrollbars",
    "--no-first-run",
    "--mute-audio",
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost",
)
_ANSWER = 30.0  # seconds that the driver may take to answer anything
_NO_PAGE = "/sarvel-frame"  # no site has this path: the answer has the site's origin, and none of its pages
_LOAD, _SCRIPT = 20.0, 20.0  # seconds that a page, and a script in it, may take
_STILL = [{"name": "prefers-reduced-motion", "value": "reduce"}, {"name": "prefers-color-scheme", "value": "light"}]


class BrowserGoneError(BrowserError):
    """The browser or its driver ended; another may be started."""


class StuckError(PageError):
    """A page does not answer; the browser that shows it is of no more use."""


@dataclass
class Session:
    """A browser.

    Attributes:
        address: of the site that it looks at.
    """

    driver: WebDriver
    address: str

    def at(self, address: str) -> Session:
        """The same browser, looking at another site."""
        return Session(self.driver, address)

    def set_viewport(self, width: int, height: int, density: float = 1.0) -> None:
        """Makes the viewport so large, CSS px, at a pixel density; a browser without such a command gets its window resized."""
        metrics = {"width": width, "height": height, "deviceScaleFactor": density, "mobile": False}
        if self._command("Emulation.setDeviceMetricsOverride", metrics) is None:
            self.driver.switch_to.default_content()
            inner = self.run("return [outerWidth - innerWidth, outerHeight - innerHeight]")
            self.driver.set_window_size(width + inner[0], height + inner[1])

    def set_font(self, size: int) -> bool:
        """Makes the browser's font size so large, CSS px; tells whether it can."""
        return self._command("Page.setFontSizes", {"fontSizes": {"standard": size}}) is not None

    def command(self, name: str, **parameters: Any) -> Any:  # noqa: ANN401 - anything that the browser answers
        """A command of the browser's own protocol; None if it knows none such."""
        return self._command(name, parameters)

    def open(self, path: str) -> None:
        """Opens a page of the site.

        Raises:
            PageError: it does not come, or leads elsewhere.
        """
        wanted = self.address + path
        with _answering("is not there", _LOAD):
            self.driver.switch_to.default_content()
            self.driver.get(wanted)
        is_at = str(self.run("return location.href"))
        if is_at.partition("#")[0].partition("?")[0] != wanted:
            raise PageError.at("", f"leads to {is_at.removeprefix(self.address)}", "name that page instead")

    def open_in_frame(self, path: str, script: str, width: int, height: int) -> bool:
        """Opens a page of the site in a frame, where scripts run from now on, until another is opened; tells whether it is there.

        Args:
            script: `browser/scripts/frame.js`.
        """
        with _answering("is not there", _LOAD):
            self.driver.get(self.address + _NO_PAGE)
            if not self.run_until_done(script, self.address + path, width, height):
                return False
            self.driver.switch_to.frame(0)
            return True

    def run(self, script: str, *arguments: Any) -> Any:  # noqa: ANN401 - anything that the script returns
        """Runs a script in the page.

        Raises:
            PageError: it does not answer.
        """
        with _answering("does not answer", _SCRIPT):
            return self.driver.execute_script(script, *arguments)

    def run_until_done(self, script: str, *arguments: Any) -> Any:  # noqa: ANN401 - anything that the script passes on
        """Runs a script that calls its last argument when it is done; faults as `run`."""
        with _answering("does not answer", _SCRIPT):
            return self.driver.execute_async_script(script, *arguments)

    def log(self) -> list[Mapping[str, Any]]:
        """What the console says since it was last asked; nothing where the browser does not tell."""
        try:
            return list(self.driver.execute("getLog", {"type": "browser"})["value"])
        except Exception:  # noqa: BLE001 - only some browsers tell, and each of the others refuses in its own way
            return []

    def _command(self, name: str, parameters: Mapping[str, Any]) -> Any:  # noqa: ANN401 - anything that the browser answers
        from selenium.common.exceptions import WebDriverException
        from urllib3.exceptions import HTTPError

        try:
            done = self.driver.execute("executeCdpCommand", {"cmd": name, "params": dict(parameters)})
        except HTTPError as error:
            raise _unanswered(error, "does not answer", _ANSWER) from None
        except (WebDriverException, KeyError):
            return None
        return done.get("value", {})


@contextlib.contextmanager
def _answering(what: str, seconds: float) -> Iterator[None]:
    """Tells in words what a page or the browser does not do.

    Args:
        what: it is when a time is over.
    """
    from selenium.common.exceptions import JavascriptException, TimeoutException, WebDriverException
    from urllib3.exceptions import HTTPError  # by which selenium speaks to the driver

    try:
        yield
    except TimeoutException:
        raise StuckError.at("", *_endless(what, seconds)) from None
    except HTTPError as error:
        raise _unanswered(error, what, seconds) from None
    except JavascriptException as error:
        raise PageError.at("", f"its scripts prevent it ({_first_line(error)})", "look at its console") from None
    except WebDriverException as error:
        raise _of_driver(error) from error


def _endless(what: str, seconds: float) -> tuple[str, str]:
    """The text and cure for a timeout."""
    return f"{what} after {seconds:.0f} seconds", "look for a script that never ends"


def _unanswered(error: Exception, what: str, seconds: float) -> Exception:
    """The fault where the driver gives no answer: it takes too long, or is gone."""
    from urllib3.exceptions import ReadTimeoutError

    is_late = isinstance(getattr(error, "reason", None) or error, ReadTimeoutError)
    return (
        StuckError.at("", *_endless(what, seconds))
        if is_late
        else BrowserGoneError.at("", "the browser's driver ended")
    )


def _first_line(error: Exception) -> str:
    return str(getattr(error, "msg", "") or error).strip().splitlines()[0][:120]


def _of_driver(error: Exception) -> Exception:
    """A fault of a page, or the end of the browser."""
    said = _first_line(error)
    gone = (
        "invalid session",
        "disconnected",
        "not reachable",
        "Connection refused",
        "tab crashed",
        "target frame detached",
    )
    if any(words in said for words in gone):
        return BrowserGoneError.at("", f"the browser ended ({said})")
    return PageError.at("", f"cannot be opened ({said})", "look at it in a browser")


@contextlib.contextmanager
def session(address: str, driver: str | None) -> Iterator[Session]:
    """A browser that looks at a site, ended behind the block.

    Args:
        driver: address of a WebDriver that runs already; None starts the one that is installed.

    Raises:
        BrowserError: it is missing, or it cannot be started.
    """
    try:
        from selenium.common.exceptions import WebDriverException
    except ImportError:
        raise BrowserError.at("", "there is no browser", INSTALL) from None
    from urllib3.exceptions import HTTPError  # by which selenium speaks to the driver

    with contextlib.ExitStack() as stack:
        kept = None if driver else stack.enter_context(kept_driver())
        try:
            browser = _remote(driver) if kept is None else _own(kept)
        except (WebDriverException, HTTPError, OSError, ValueError) as error:
            where = driver or "chromedriver"
            raise BrowserError.at(where, f"no browser could be started ({_first_line(error)})", INSTALL) from error
        if kept is None:
            stack.callback(_quit, browser)
        _prepare(browser)
        yield Session(browser, address)


def _quit(browser: WebDriver) -> None:
    with contextlib.suppress(Exception):  # it may have ended by itself
        browser.quit()


def _options() -> Any:  # noqa: ANN401 - selenium is loaded where it is used
    from selenium.webdriver import ChromeOptions

    options = ChromeOptions()
    for flag in _FLAGS:
        options.add_argument(flag)
    options.page_load_strategy = "eager"  # what comes late is waited for by our own script, within bounds
    options.set_capability("goog:loggingPrefs", {"browser": "ALL", "performance": "OFF"})
    return options


def _own(kept: KeptDriver) -> WebDriver:
    from selenium.webdriver import Remote

    options = _options()
    options.binary_location = kept.browser
    options.add_argument(f"--user-data-dir={kept.profile}")
    return _with_commands(Remote(kept.address, options=options))


def _remote(address: str | None) -> WebDriver:
    from selenium.common.exceptions import WebDriverException
    from selenium.webdriver import FirefoxOptions, Remote

    try:
        browser = Remote(address or "", options=_options())
    except WebDriverException:
        options = FirefoxOptions()
        options.add_argument("-headless")
        options.page_load_strategy = "eager"
        return Remote(address or "", options=options)
    return _with_commands(browser)


def _with_commands(browser: WebDriver) -> WebDriver:
    """A browser that takes commands that only drivers of its kind know."""
    commands: Any = browser.command_executor
    commands.add_command("executeCdpCommand", "POST", "/session/$sessionId/goog/cdp/execute")
    commands.add_command("getLog", "POST", "/session/$sessionId/se/log")
    return browser


def _prepare(browser: WebDriver) -> None:
    executor: Any = browser.command_executor
    executor.client_config.timeout = _ANSWER
    browser.set_page_load_timeout(_LOAD)
    browser.set_script_timeout(_SCRIPT)
    for name, parameters in (
        ("Network.enable", {}),
        ("Network.setCacheDisabled", {"cacheDisabled": True}),
        ("Network.setBypassServiceWorker", {"bypass": True}),
        ("Emulation.setEmulatedMedia", {"media": "screen", "features": _STILL}),
    ):
        with contextlib.suppress(Exception):  # browsers of other makers know none of these
            browser.execute("executeCdpCommand", {"cmd": name, "params": parameters})
