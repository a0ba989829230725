"""Renders on another screen: looped without a gap, one after the other, also without the studio."""

import json
import signal

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Studio
from tests.browser.driver import chromium, find, keys, wait
from tests.browser.test_editor import refused

SWELL, BUOY = 3, 5
FILM, MOVING = "High water at four", "Bobbing buoy"
FRAMES = """
window.frames_seen = []
document.querySelectorAll("video").forEach((film, i) => film.requestVideoFrameCallback(function see(now, told) {
  window.frames_seen.push([i, told.mediaTime])
  film.requestVideoFrameCallback(see)
}))
"""

IS_KEPT = """
const done = arguments[arguments.length - 1]
caches.open(`coaster-screen ${location.pathname}`).then(async store => {
  const kept = (await store.keys()).map(({url}) => new URL(url).pathname)
  done(Boolean(navigator.serviceWorker.controller) && ["/projects/1/screen", "/renders/1/file"].every(each => kept.includes(each)))
})"""


@pytest.fixture
def rendered(studio, browser) -> str:
    """The address of the page, with a film of the swell and a moving picture of the buoy."""
    choices = {"loops": "1", "size": "0.25"}
    studio.post(f"/scenes/{SWELL}/renders/start", format="mp4", last="15", **choices)
    studio.post(f"/scenes/{BUOY}/renders/start", format="webp", last="12", **choices)
    browser.get(f"{studio.address}/renders")
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#queue [hx-post*=cancel]"))
    return f"{studio.address}/projects/1/screen"


def playing(driver) -> str:
    return find(driver, ".screen-list [aria-current=true] button").get_attribute("textContent")


def loops(driver) -> int:
    return int(find(driver, "#playing").get_attribute("data-loops") or 0)


def go_to(driver, name: str) -> None:
    """Choose what is played: other tests have rendered other scenes."""
    find(driver, "#playing > *")
    driver.execute_script(
        "[...document.querySelectorAll('.screen-list button')]"
        ".find(button => button.textContent === arguments[0]).click()",
        name,
    )
    wait(driver, lambda d: playing(d) == name)


def test_a_film_goes_round_and_arrows_go_on(browser, rendered):
    browser.get(rendered)
    go_to(browser, FILM)
    find(browser, "#playing video")
    wait(browser, lambda d: loops(d) >= 1)
    browser.execute_script(FRAMES)
    before = loops(browser)
    wait(browser, lambda d: loops(d) >= before + 2)
    seen = browser.execute_script("return window.frames_seen")
    # Both films play by turns, and each to its end.
    assert {film for film, _ in seen} == {0, 1}
    assert max(time for _, time in seen) > 0.3
    keys(browser, Keys.ARROW_RIGHT)
    wait(browser, lambda d: playing(d) != FILM)
    keys(browser, Keys.ARROW_LEFT)
    wait(browser, lambda d: playing(d) == FILM)


def test_what_was_loaded_plays_on_without_the_studio(browser, rendered):
    browser.get(rendered)
    go_to(browser, FILM)
    find(browser, "#playing video")
    go_to(browser, MOVING)
    find(browser, "#playing img")
    gone = {"offline": True, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
    browser.execute_cdp_cmd("Network.enable", {})
    browser.execute_cdp_cmd("Network.emulateNetworkConditions", gone)
    try:
        go_to(browser, FILM)
        wait(browser, lambda d: loops(d) >= 2)
        go_to(browser, MOVING)
        image = find(browser, "#playing img")
        wait(browser, lambda d: image.get_property("naturalWidth") > 0)
    finally:
        browser.execute_cdp_cmd("Network.emulateNetworkConditions", gone | {"offline": False})


def test_a_screen_begins_again_while_the_studio_is_away(tmp_path):
    """As after a power cut: the browser is back before the studio is."""
    studio = Studio(tmp_path)
    try:
        studio.post(
            f"/scenes/{SWELL}/renders/start", format="mp4", last="15", loops="1", size="0.25"
        )
        with chromium() as browser:
            browser.get(f"{studio.address}/renders")
            wait(
                browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#queue [hx-post*=cancel]")
            )
            browser.get(f"{studio.address}/projects/1/screen")
            wait(browser, lambda d: d.execute_async_script(IS_KEPT), "nothing is kept")
            studio.process.send_signal(signal.SIGKILL)
            studio.process.wait(10)
            wait(browser, lambda d: refused(d, studio.address), "the studio outlives its program")
            browser.refresh()
            wait(browser, lambda d: loops(d) >= 1, "it does not play again")
            assert playing(browser) == FILM
    finally:
        studio.stop()


def test_each_has_its_seconds_which_are_kept(browser, rendered):
    browser.get(rendered)
    go_to(browser, FILM)
    browser.execute_script("document.dispatchEvent(new PointerEvent('pointermove'))")
    field = find(browser, ".screen-list [aria-current=true] input")
    field.send_keys(Keys.CONTROL + "a" + Keys.NULL, "0,6", Keys.ENTER)
    assert field.get_attribute("value") == "0.6"
    # After whole loops the next one comes.
    wait(browser, lambda d: playing(d) != FILM)
    other = find(browser, ".screen-list [aria-current=true] input")
    other.send_keys(Keys.CONTROL + "a" + Keys.NULL, "no", Keys.TAB)
    assert other.get_attribute("value") == "0"
    kept = browser.execute_script("return localStorage.getItem('screen-1')")
    assert list(json.loads(kept).values()) == ["0.6"]
    browser.refresh()
    go_to(browser, FILM)
    wait(browser, lambda d: playing(d) != FILM)
    browser.execute_script("localStorage.removeItem('screen-1')")
