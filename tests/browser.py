"""A real browser without a screen, and a server of the live page to look at with it."""

import re
import shutil
import subprocess
import sys
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import numpy as np
from selenium.common.exceptions import WebDriverException
from selenium.webdriver import ActionChains, Chrome, ChromeOptions
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

SWITCHES = (
    "--headless=new", "--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader",
    "--disable-background-networking", "--disable-quic", "--hide-scrollbars",
)  # fmt: skip
PATIENCE = 400.0
SEEN = "return [...mooring.stage.eye.sights().values()].every((link) => link.wholly)"
LOADED = "window.mooring && mooring.stage.model.loaded"
# What a look raises at what is not there yet: no element, no text, no number.
NOT_YET = (WebDriverException, StopIteration, LookupError, TypeError, ValueError, AttributeError)
Found = TypeVar("Found")


def serve(test: type[unittest.TestCase], *arguments: str | Path) -> str:
    """Run `mooring open` until the tests of a class are over; the address it prints."""
    start = [sys.executable, "-u", "-c", "from mooring.cli import main; main()", "open"]
    options = ["--no-browser", "--port", "0"]
    server = subprocess.Popen(
        [*start, *map(str, arguments), *options],
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )

    def end() -> None:
        server.terminate()
        server.wait()
        server.stdout.close()

    test.addClassCleanup(end)
    said = ""
    for line in server.stdout:
        said += line
        if address := re.search(r"http://\S+", line):
            return address[0]
    raise AssertionError(f"mooring open ended: {said}")


class Window:
    """One window of a browser, looked at as a user would."""

    def __init__(
        self, test: unittest.TestCase | type[unittest.TestCase], address: str, ready: str = LOADED
    ) -> None:
        options = ChromeOptions()
        for switch in SWITCHES:
            options.add_argument(switch)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        self.browser = Chrome(options=options, service=Service(shutil.which("chromedriver")))
        clean = test.addClassCleanup if isinstance(test, type) else test.addCleanup
        clean(self.browser.quit)
        # Coarse pixels, since a processor draws them all.
        size = {"width": 1100, "height": 640, "deviceScaleFactor": 0.4, "mobile": False}
        self.browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
        self.browser.get(address)
        self.until(lambda: self.js(f"return {ready}"), "the model")

    def js(self, script: str, *given: object) -> object:
        return self.browser.execute_script(script, *given)

    def until(self, look: Callable[[], Found], what: str) -> Found:
        """What comes of looking until there is something to see."""
        ends = time.monotonic() + PATIENCE
        missed: Exception | None = None
        while time.monotonic() < ends:
            try:
                if found := look():
                    return found
            except NOT_YET as error:
                missed = error
            time.sleep(0.05)
        raise AssertionError(
            f"{what} did not come; the page says {self.js('return document.body.innerText')[:900]}"
        ) from missed

    def all(self, selector: str) -> list[WebElement]:
        return self.browser.find_elements(By.CSS_SELECTOR, selector)

    def text(self, selector: str) -> str:
        return " ".join(element.text for element in self.all(selector))

    def click(self, text: str, selector: str = ".q-btn, .q-tab, .q-checkbox, button") -> None:
        """Click on what says something."""

        def press() -> bool:
            found = [e for e in self.all(selector) if e.text.strip() == text and e.is_displayed()]
            found[0].click() if found else None
            return bool(found)

        self.until(press, f"something to click that says {text!r}")

    def drag(self, start: tuple[int, int], end: tuple[int, int]) -> None:
        """Press the pointer at one place [pixels], move it and let it go at another."""
        hand = ActionChains(self.browser)
        pointer = hand.w3c_actions.pointer_action
        pointer.move_to_location(*start)
        pointer.pointer_down()
        for share in (0.3, 0.6, 1.0):
            pointer.move_to_location(
                *(round(a + share * (b - a)) for a, b in zip(start, end, strict=True))
            )
            pointer.pause(0.1)
        pointer.pointer_up()
        hand.perform()

    def slide(self, joint: str, value: float) -> None:
        """Drag a slider to a value [rad or m]."""
        self.js(
            "const s = document.querySelector(`[data-joint='${arguments[0]}'] .m-slider`);"
            "s.value = arguments[1]; s.dispatchEvent(new Event('input')); s.dispatchEvent(new Event('change'))",
            joint, value,
        )  # fmt: skip

    def write(self, look: Callable[[], list[WebElement]], text: str, end: str = Keys.ENTER) -> None:
        """Type into the first field that a look finds."""

        def fill() -> bool:
            # What was found may be made anew until it is used.
            field = next(e for e in look() if e.is_displayed() and e.is_enabled())
            field.click()
            field.send_keys(Keys.CONTROL, "a")
            field.send_keys(text, end)
            return True

        self.until(fill, "a field to fill")

    def pose(self, link: str) -> np.ndarray:
        """Where a link is in the scene that is drawn, (4, 4)."""
        return np.array(self.js("return mooring.stage.pose(arguments[0])", link)).reshape(4, 4).T

    def until_at(self, link: str, pose: np.ndarray, within: float = 1e-5) -> None:
        self.until(lambda: np.abs(self.pose(link) - pose).max() < within, f"{link} at its place")

    def complaints(self) -> list[str]:
        """What the browser's console holds of errors."""
        return [e["message"] for e in self.browser.get_log("browser") if e["level"] == "SEVERE"]
