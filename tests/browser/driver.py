"""A headless Chromium with a fresh profile, and the few gestures that tests share."""

import time
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import pairwise
from tempfile import TemporaryDirectory

from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver import Chrome, ChromeOptions
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

FLAGS = [
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--hide-scrollbars",
    "--force-device-scale-factor=1",
]
PATIENCE_S = 60
EARS = """
window.said = []
new MutationObserver(changes => {
  for (const {addedNodes} of changes)
    for (const node of addedNodes)
      if (node.classList?.contains("toast")) window.said.push(node.textContent)
}).observe(document, {childList: true, subtree: true})
"""
"""What pages remember for tests: short words may be gone before a slow machine looks for them."""


@contextmanager
def chromium(width: int = 1280, height: int = 800) -> Iterator[Chrome]:
    """Start Debian's Chromium at an inner size, and stop it whatever happens."""
    with TemporaryDirectory(prefix="coaster-chromium-") as profile:
        options = ChromeOptions()
        options.binary_location = "/usr/bin/chromium"
        for flag in [*FLAGS, f"--user-data-dir={profile}", f"--window-size={width},{height}"]:
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        driver = Chrome(options=options, service=Service("/usr/bin/chromedriver"))
        try:
            metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
            driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
            driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": EARS})
            yield driver
        finally:
            driver.quit()


def wait(driver: Chrome, condition, message: str = ""):
    """Wait until a condition of the driver holds; return what it gives.

    An element that is drawn anew while it is looked at is looked for again.
    """
    patient = WebDriverWait(
        driver, PATIENCE_S, poll_frequency=0.03, ignored_exceptions=[StaleElementReferenceException]
    )
    return patient.until(condition, message)


class Found(WebElement):
    """An element by its selector: what was drawn anew since it was found is found again.

    A gesture at an element that is gone did nothing, so that it can be made again.
    """

    def __init__(self, driver: Chrome, element: WebElement, selector: str) -> None:
        super().__init__(driver, element.id)
        self.selector = selector

    def _execute(self, command, params=None):
        try:
            return super()._execute(command, params)
        except StaleElementReferenceException:
            anew = self.parent.find_elements(By.CSS_SELECTOR, self.selector)
            if not anew:
                raise
            self._id = anew[0].id
            return super()._execute(command, params)


def find(driver: Chrome, selector: str) -> Found:
    """Wait for an element of a page none of whose parts is about to be drawn anew."""

    def found(d: Chrome) -> list[WebElement]:
        return [] if drawing(d) else d.find_elements(By.CSS_SELECTOR, selector)

    return Found(driver, wait(driver, found, f"no {selector}")[0], selector)


def said(driver: Chrome, words: str) -> None:
    """Wait until the page says some words, whether they are still to be seen or not; once said,
    they are forgotten.
    """
    wait(
        driver,
        lambda d: any(words in each for each in d.execute_script("return window.said")),
        f"{words!r} is not said",
    )
    driver.execute_script("window.said = []")


def drawing(driver: Chrome) -> bool:
    return bool(driver.find_elements(By.CSS_SELECTOR, "[aria-busy=true]"))


def open_editor(driver: Chrome, address: str) -> None:
    """Open an editor page and wait until its first picture is drawn and its card is there."""
    driver.get(address)
    find(driver, "#editor[data-ready]")
    find(driver, "#card [data-card]")


def drag(
    driver: Chrome, start: tuple[float, float], end: tuple[float, float], steps: int = 8
) -> None:
    """Drag with the left button between two points of the window."""
    actions = ActionChains(driver, duration=10)
    actions.w3c_actions.pointer_action.move_to_location(*map(round, start)).pointer_down()
    for i in range(1, steps + 1):
        x, y = (a + (b - a) * i / steps for a, b in zip(start, end, strict=True))
        actions.w3c_actions.pointer_action.move_to_location(round(x), round(y))
    actions.w3c_actions.pointer_action.pointer_up()
    actions.perform()


NODE = """
const nodes = [...document.querySelectorAll(".node")].at(-1).getAttribute("d").split("M").filter(d => d.includes("a"))
const [x, y] = nodes[arguments[0]].split("a")[0].split(" ").map(Number)
const box = document.querySelector("#stage").getBoundingClientRect()
return [box.x + x + 4, box.y + y]
"""


def round_node(driver: Chrome, number: int) -> tuple[float, float]:
    """Return where the middle of a round node of the chosen path lies in the window."""
    x, y = driver.execute_script(NODE, number)
    return x, y


def press(driver: Chrome, start: tuple[float, float], *stops: tuple[float, float]) -> None:
    """Press at a point, move through others, and stay pressed."""
    actions = ActionChains(driver, duration=10)
    actions.w3c_actions.pointer_action.move_to_location(*map(round, start)).pointer_down()
    for stop in stops:
        actions.w3c_actions.pointer_action.move_to_location(*map(round, stop))
    actions.perform()


def double_click(driver: Chrome, place: tuple[int, int]) -> None:
    """Click twice within a tenth of a second, by the times that the events bear: a slow machine
    may take longer over them.
    """
    x, y = place
    driver.execute_cdp_cmd("Input.dispatchMouseEvent", {"type": "mouseMoved", "x": x, "y": y})
    now = time.time()
    for count in (1, 2):
        for kind in ("mousePressed", "mouseReleased"):
            event = {"type": kind, "x": x, "y": y, "button": "left", "clickCount": count}
            timed = event | {"timestamp": now + 0.1 * (count - 1)}
            driver.execute_cdp_cmd("Input.dispatchMouseEvent", timed)


def centre(element: WebElement) -> tuple[float, float]:
    box = element.rect
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def kept(driver) -> None:
    """Wait until the last edit is stored and shown."""
    wait(driver, lambda d: find(d, "#kept").text == "All kept", "never kept")


def frame(driver) -> int:
    return int(find(driver, "[data-frame]").text)


def keys(driver, *strokes: str) -> None:
    ActionChains(driver).send_keys(*strokes).perform()


def chord(driver, *strokes: str) -> None:
    """Hold all keys but the last, and press that."""
    actions = ActionChains(driver)
    for held in strokes[:-1]:
        actions.key_down(held)
    actions.send_keys(strokes[-1])
    for held in strokes[:-1]:
        actions.key_up(held)
    actions.perform()


def typed(element: WebElement, text: str) -> None:
    """Replace what is in a field, and press Enter."""
    element.send_keys(Keys.CONTROL + "a" + Keys.NULL, text, Keys.ENTER)


class Stage:
    """The stage of an open editor: gestures by places of the scene, in its px."""

    def __init__(self, driver: Chrome) -> None:
        self.driver = driver

    def at(self, x: float, y: float) -> tuple[int, int]:
        """Return the place in the window of a place of the scene."""
        box = self.driver.find_element(By.CSS_SELECTOR, ".frame").rect
        wide = int(self.driver.find_element(By.CSS_SELECTOR, "[data-size]").text.split("×")[0])
        scale = box["width"] / wide
        return round(box["x"] + x * scale), round(box["y"] + y * scale)

    def drag(
        self,
        *places: tuple[float, float],
        held: tuple[str, ...] = (),
        drop: bool = True,
        button: int = 0,
    ) -> None:
        """Press at the first place, move over the others, let go at the last; one place is
        a click.
        """
        # Keys are pressed by themselves: within one chain they would run beside the pointer.
        for key in held:
            ActionChains(self.driver).key_down(key).perform()
        actions = ActionChains(self.driver, duration=10)
        pointer = actions.w3c_actions.pointer_action
        spots = [self.at(*place) for place in places]
        pointer.move_to_location(*spots[0])
        pointer.pointer_down(button=button)
        for (ax, ay), (bx, by) in pairwise(spots):
            for i in range(1, 6):
                pointer.move_to_location(
                    round(ax + (bx - ax) * i / 5), round(ay + (by - ay) * i / 5)
                )
        if drop:
            pointer.pointer_up(button=button)
        actions.perform()
        for key in held:
            ActionChains(self.driver).key_up(key).perform()

    def click(self, x: float, y: float, *held: str, button: int = 0) -> None:
        self.drag((x, y), held=held, button=button)

    def hover(self, x: float, y: float) -> None:
        actions = ActionChains(self.driver, duration=10)
        actions.w3c_actions.pointer_action.move_to_location(*self.at(x, y))
        actions.perform()

    def double_click(self, x: float, y: float) -> None:
        double_click(self.driver, self.at(x, y))

    @property
    def scale(self) -> float:
        return self.at(1000, 0)[0] / 1000 - self.at(0, 0)[0] / 1000


NOTHING = "Nothing to undo"


def undone(driver: Chrome) -> str:
    """Return what undo would take back."""
    return driver.find_element(By.ID, "undo").get_attribute("title").removeprefix("Undo: ")


def until_done(driver: Chrome) -> None:
    """Wait until there is an edit that undo would take back, and it is kept."""
    wait(driver, lambda d: undone(d) != NOTHING, "nothing was done")
    kept(driver)


def until_undo(driver: Chrome, words: str) -> None:
    """Wait until the last edit kept is called so."""
    wait(driver, lambda d: undone(d) == words, f"undo is not {words!r}")
    kept(driver)


def until(driver: Chrome, holds, message: str = "") -> None:
    """Wait until something holds that has nothing to do with the driver."""
    wait(driver, lambda _: holds(), message)


def tab(driver: Chrome, name: str) -> None:
    """Show a part of the card."""
    find(driver, f"label:has(> [data-tab][value={name}])").click()


def refused_at(driver: Chrome, selector: str, words: str) -> None:
    """Wait until a field says these words of what was typed in it, which it still shows."""
    field = "const e = document.querySelector(arguments[0]); return e.ariaInvalid === 'true' &&"
    said = f"{field} document.getElementById(e.getAttribute('aria-describedby')).textContent"
    wait(
        driver,
        lambda d: words in (d.execute_script(said, selector) or ""),
        f"{words!r} is not said",
    )
