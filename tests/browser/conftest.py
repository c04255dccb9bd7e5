"""The whole application in real processes, and a browser without a screen."""

import os
import tempfile
from collections.abc import Iterator
from dataclasses import replace
from itertools import count
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.common.exceptions import ElementClickInterceptedException, StaleElementReferenceException
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from tests.world import World, make_world
from vokari.local.cluster import Cluster, free_ports
from vokari.local.stack import Stack
from vokari.settings import Settings
from vokari.wiring import build

ARGUMENTS = (
    "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--autoplay-policy=no-user-gesture-required", "--mute-audio",
)  # fmt: skip

_STACKS = count(1)


class Page:
    """A browser with short ways to read and press."""

    def __init__(self, base: str, width: int = 1280, height: int = 800, more: tuple[str, ...] = ()) -> None:
        os.environ["SE_OFFLINE"] = "true"
        options = Options()
        options.binary_location = "/usr/bin/chromium"
        for argument in (*ARGUMENTS, *more, f"--window-size={width},{height}", f"--user-data-dir={tempfile.mkdtemp()}"):
            options.add_argument(argument)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL", "performance": "ALL"})
        self.driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
        self.base = base

    def open(self, path: str) -> None:
        self.driver.get(self.base + path)

    def sign_in(self, email: str, password: str) -> None:
        self.open("/sign-in")
        self.type("#email", email)
        self.type("#password", password)
        self.press("Sign in")
        self.wait(lambda: "/sign-in" not in self.driver.current_url)

    def find(self, selector: str) -> WebElement:
        return self.wait(lambda: next(iter(self.driver.find_elements(By.CSS_SELECTOR, selector)), None))

    def type(self, selector: str, text: str) -> None:
        field = self.find(selector)
        field.clear()
        field.send_keys(text)

    def retype(self, selector: str, text: str) -> None:
        """Types over what stands in a field, without leaving it."""
        self.click(selector)
        field = self.driver.switch_to.active_element
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)

    def choose(self, selector: str, words: str) -> None:
        self.hit(By.XPATH, f'.//option[contains(normalize-space(), "{words}")]', selector)

    def press(self, words: str, inside: str = "body") -> None:
        """Clicks the button or link with these words, once it is there."""
        quoted = f'"{words}"'
        self.hit(By.XPATH, f".//button[normalize-space()={quoted}] | .//a[normalize-space()={quoted}]", inside)

    def put_live(self, why: str = "as it is meant") -> None:
        """Puts the draft live, with a word for the findings that ask for one."""
        self.press("Put live")
        self.wait(
            lambda: " is live." in self.text or "asks for your word" in self.text or "ask for your word" in self.text,
            "live",
        )
        if " is live." not in self.text:
            self.type("[name=consent]", why)
            self.press("Put live", "form.sheet-form")
            self.see(" is live.")

    def rehearse(self) -> None:
        """Opens the telephone as a page of its own, and calls."""
        self.open(str(self.find("#rehearse").get_attribute("href")).removeprefix(self.base))
        self.press("Call")

    def click(self, selector: str) -> None:
        """Clicks the first element that fits, in the middle of the window."""
        self.hit(By.CSS_SELECTOR, selector)

    def hit(self, by: str, path: str, inside: str = "body") -> None:
        """Clicks the first element found, again when the page changed under the pointer."""

        def done() -> bool:
            try:
                found = self.find(inside).find_elements(by, path)
                if found:
                    self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", found[0])
                    found[0].click()
                return bool(found)
            except (StaleElementReferenceException, ElementClickInterceptedException):
                return False

        self.wait(done, path)

    def see(self, words: str) -> None:
        """Waits until the words are on the page."""
        self.wait(lambda: words in self.text, words)

    @property
    def text(self) -> str:
        return str(self.driver.execute_script("return document.body.innerText"))

    def wait(self, condition: object, words: str = "", seconds: float = 25) -> WebElement:
        return WebDriverWait(self.driver, seconds, 0.1, [StaleElementReferenceException]).until(
            lambda _: condition(), f"{words} not on the page: {self.driver.current_url}"
        )

    def hosts(self) -> set[str]:
        """Every host that anything was loaded from since the last time this was asked."""
        import json
        from urllib.parse import urlsplit

        found = set()
        for entry in self.driver.get_log("performance"):
            message = json.loads(entry["message"])["message"]
            if message["method"] == "Network.requestWillBeSent":
                url = urlsplit(message["params"]["request"]["url"])
                if url.scheme not in ("data", "blob", "chrome", "about"):
                    found.add(url.hostname or "")
        return found

    def complaints(self) -> list[str]:
        """What the console says of errors, such as what the page's policy forbids."""
        return [one["message"] for one in self.driver.get_log("browser") if one["level"] == "SEVERE"]


def start_stack(cluster: Cluster, name: str) -> Stack:
    cluster.create_database(name, template="pattern")
    data = Path(tempfile.mkdtemp(prefix="vokari-stack-"))
    (data / "log").mkdir()
    ports = free_ports(3)
    return Stack(Settings(ports[0], ports[1], ports[2], cluster.port, data, cluster.url(name)))


@pytest.fixture(scope="module")
def stack(cluster: Cluster) -> Iterator[Stack]:
    made = start_stack(cluster, f"stack{os.getpid()}_{next(_STACKS)}")
    for name in ("carrier", "control", "worker", "web"):
        made.start(name)
    for name in ("carrier", "control", "web"):
        made.wait(name)
    yield made
    made.stop()


@pytest.fixture(scope="module")
def town(stack: Stack) -> World:
    """An agency in the running application."""
    return make_world(build(replace(stack.settings)))


@pytest.fixture
def page(stack: Stack) -> Iterator[Page]:
    made = Page(stack.settings.web_url)
    yield made
    made.driver.quit()
