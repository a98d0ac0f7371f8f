"""A real browser on a real server, for tests and pictures."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager, suppress
from pathlib import Path

import psutil
from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webdriver import WebDriver
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

FLAGS = (
    "--headless=new --no-sandbox --disable-dev-shm-usage --use-angle=swiftshader --enable-unsafe-swiftshader "
    "--ignore-gpu-blocklist --disable-quic --no-first-run --disable-background-networking --disable-component-update "
    "--disable-sync --disable-gpu-compositing --window-size=1280,800"
)
# Every other host is refused, so that whatever asks for one shows up as a failed request.
BLOCKED = "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1"


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


class Server:
    """``lean-lattice serve`` in a process of its own."""

    def __init__(
        self, data: Path, demo: bool = True, workers: int = 2, **settings: int | str
    ) -> None:
        self.data, self.demo, self.port = data, demo, free_port()
        self.settings = {f"LEAN_LATTICE_{k.upper()}": str(v) for k, v in settings.items()}
        self.settings["LEAN_LATTICE_WORKERS"] = str(workers)
        self.url = f"http://127.0.0.1:{self.port}"
        self.start()

    def start(self) -> None:
        command = [
            sys.executable,
            "-m",
            "leanlattice.cli",
            "serve",
            "--port",
            str(self.port),
            "--data",
            str(self.data),
        ]
        self.log = (self.data.parent / f"server-{self.port}.log").open("ab")
        self.process = subprocess.Popen(
            command + ["--demo"] * self.demo, stdout=self.log, stderr=self.log,
            env={**os.environ, **self.settings},
        )  # fmt: skip
        for _ in range(300):
            with suppress(OSError):
                urllib.request.urlopen(f"{self.url}/api/about", timeout=1).read()
                return
            if self.process.poll() is not None:
                break
            time.sleep(0.1)
        raise RuntimeError(f"the server did not start: {Path(self.log.name).read_text()[-2000:]}")

    def kill(self) -> None:
        """As a power cut would: SIGKILL."""
        self.process.kill()
        self.process.wait()
        self.log.close()

    def stop(self) -> None:
        self.process.terminate()
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.process.kill()
        self.log.close()


@contextmanager
def chromium(
    downloads: Path | None = None, logs_requests: bool = False, density: float = 1.0
) -> Iterator[WebDriver]:
    """Headless Chromium as Debian ships it, on a screen with ``density`` dots for each pixel of a
    page. What it asks of the network is only logged where a test reads it: all that is sent to a
    page would be kept until then."""
    binary, driver = shutil.which("chromium"), shutil.which("chromedriver")
    if not binary or not driver:
        raise RuntimeError(
            "Chromium and ChromeDriver are needed: apt-get install chromium chromium-driver"
        )
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        options = Options()
        options.binary_location = binary
        screen = f"--force-device-scale-factor={density}"
        for flag in [*FLAGS.split(), screen, BLOCKED, f"--user-data-dir={profile}"]:
            options.add_argument(flag)
        logs = {"browser": "ALL"} | ({"performance": "ALL"} if logs_requests else {})
        options.set_capability("goog:loggingPrefs", logs)
        if downloads:
            options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
        with webdriver.Chrome(
            options=options, service=Service(driver, env=dict(os.environ))
        ) as browser:
            browser.set_window_size(1280, 800)
            inner = browser.execute_script("return [innerWidth, innerHeight]")
            browser.set_window_size(2 * 1280 - inner[0], 2 * 800 - inner[1])
            yield browser


DENSITY = 0.5
"""Dots for each pixel of a page where nobody looks at it: drawn without a graphics processor, a
picture takes as long as it has dots."""


class Browsers:
    """The browser that tests share, and another in its place once it no longer answers."""

    def __init__(self, downloads: Path) -> None:
        self.downloads = downloads
        self._browser: WebDriver | None = None
        self._open = ExitStack()

    def answering(self) -> WebDriver:
        """A browser that answers."""
        if self._browser is not None:
            try:
                self._browser.get("about:blank")
                return self._browser
            except Exception:
                self._kill()
        self._browser = self._open.enter_context(chromium(self.downloads, density=DENSITY))
        return self._browser

    def leave(self) -> None:
        """Closes the page that is open, so that nothing of it goes on beside the next test."""
        if self._browser is not None:
            with suppress(Exception):
                self._browser.get("about:blank")

    def close(self) -> None:
        """Ends the browser as a person would."""
        self._open.close()
        self._browser = None

    def _kill(self) -> None:
        """Ends the browser and all its processes, whatever they are at."""
        driver = psutil.Process(self._browser.service.process.pid)  # type: ignore[union-attr]
        for process in [*driver.children(recursive=True), driver]:
            with suppress(psutil.Error):
                process.kill()
        with suppress(Exception):
            self._open.close()
        self._browser, self._open = None, ExitStack()


class Page:
    """What a person does in the interface, in a few words."""

    def __init__(self, browser: WebDriver, url: str) -> None:
        self.browser, self.url = browser, url

    def wait(self, test, seconds: float = 80):  # type: ignore[no-untyped-def]
        return WebDriverWait(self.browser, seconds, 0.05, ignored_exceptions=[Exception]).until(
            lambda _: test()
        )

    def find(self, css: str) -> WebElement:
        def found() -> WebElement:
            self.open_sentences(css)
            return self.browser.find_element(By.CSS_SELECTOR, css)

        return self.wait(found)

    def open_sentences(self, css: str) -> None:
        """Shows sentences to their ends, where something stands behind “more” in one."""
        if "[data-value" in css and not self.find_all(css):
            for more in self.find_all('[data-more][aria-expanded="false"]'):
                self.browser.execute_script("arguments[0].click()", more)

    def find_all(self, css: str) -> list[WebElement]:
        return self.browser.find_elements(By.CSS_SELECTOR, css)

    def word(self, text: str, tag: str = "*") -> WebElement:
        """The visible element that says exactly this."""
        return self.wait(lambda: self._shown(text, tag))

    def _shown(self, text: str, tag: str = "*") -> WebElement | None:
        said = self.browser.find_elements(By.XPATH, f'//{tag}[normalize-space(.)="{text}"]')
        return next((element for element in said if element.is_displayed()), None)

    def click(self, text: str, tag: str = "*") -> None:
        def press() -> bool:
            self.word(text, tag).click()
            return True

        self.wait(press)

    def press(self, css: str) -> None:
        """Clicks what may have to be scrolled to first, clear of headings that stay in sight."""

        def press() -> bool:
            self.open_sentences(css)
            element = self.browser.find_element(By.CSS_SELECTOR, css)
            self.browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
            element.click()
            return True

        self.wait(press)

    def choose(self, value: str, option: str, within: str = "") -> None:
        """Chooses a word of a value's menu, which is opened anew where something closed it."""

        def opened() -> WebElement:
            self.open_sentences(f'{within} [data-value="{value}"]')
            self.find(f'{within} [data-value="{value}"]').click()
            return self.wait(lambda: self._shown(option), 5)

        def press() -> bool:
            (self._shown(option) or opened()).click()
            return True

        self.wait(press)

    def open(self, path: str = "/") -> None:
        self.browser.get(self.url + path)

    def open_project(self, name: str) -> None:
        self.open("/")
        self.find(f'[data-project="{name}"] a').click()
        self.ready()

    def ready(self) -> None:
        """Until everything has been computed and shown."""
        self.wait(
            lambda: self.find_all('[data-testid="ready"]') and self.find_all("[data-clause]"), 90
        )

    def ready_or_loaded(self) -> None:
        """Until a screen other than the workbench has been filled."""
        self.wait(lambda: self.find_all('[data-testid="ready"]'), 60)
        time.sleep(1.0)

    def figure(self, name: str) -> str:
        return self.find(f'[data-figure="{name}"] dd').text.replace("\u202f", " ")

    def fine_picture(self) -> None:
        """Until the view is still and has drawn it finely."""

        def fine() -> bool:
            self.pictures()
            return bool(self.find_all('[data-picture="fine"]'))

        self.wait(lambda: fine() and fine())

    def pictures(self) -> None:
        """Until the view has drawn what was last shown."""
        self.browser.execute_async_script(
            "const done = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 150)))"
        )
