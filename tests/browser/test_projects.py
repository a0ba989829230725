"""The page of projects: scenes are found and sorted, and one that others show is not deleted unasked."""

import json

from PIL import Image
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.driver import NOTHING, find, open_editor, undone, until_done, wait


def listed(browser) -> list[str]:
    cards = browser.find_elements(By.CSS_SELECTOR, "[data-scenes] > li")
    return [card.get_attribute("data-name") for card in cards if card.is_displayed()]


def worded(browser) -> list[str]:
    """Return the names of words alone: they are sorted alike by every rule of sorting."""
    return [name for name in listed(browser) if name.replace(" ", "").isalpha()]


def test_scenes_are_found_by_parts_of_their_names_and_sorted(browser, studio):
    browser.get(studio.address)
    find(browser, "[data-search]").send_keys("window at")
    # Other tests copy scenes of the demo: what is left has both words, whatever else there is.
    wait(browser, lambda d: all("window" in name and "at" in name for name in listed(d)))
    assert {"at the kelp window", "buoy at the window"} <= set(listed(browser))
    find(browser, "[data-search]").send_keys(" nowhere")
    wait(browser, lambda d: find(d, "[data-nothing]").is_displayed())
    find(browser, "[data-search]").clear()
    find(browser, "[data-search]").send_keys(Keys.SPACE)
    wait(browser, lambda d: len(listed(d)) >= 9)
    Select(find(browser, "[data-sort]")).select_by_value("name")
    assert worded(browser) == sorted(worded(browser))
    browser.get(studio.address)
    # The order is kept, and a name that is typed leads to its scene.
    assert worded(browser) == sorted(worded(browser))
    Select(find(browser, "[data-sort]")).select_by_value("made")
    find(browser, "[data-search]").send_keys("porthole", Keys.ENTER)
    wait(browser, lambda d: d.title.startswith("Through the porthole"))


def test_what_others_show_is_deleted_only_when_it_is_meant(browser, studio):
    inner, outer = studio.copy_of(5), studio.copy_of(3)
    revision = json.loads(studio.get(f"/scenes/{outer}/revision"))["revision"]
    studio.post(f"/scenes/{outer}/edit", form="inset", shown=str(inner), base=str(revision))
    browser.get(studio.address)
    card = browser.find_element(By.XPATH, f"//li[.//a[@href='/scenes/{inner}/']]")
    # Its picture is loaded when it is come to, and that is to be over before it is deleted.
    browser.execute_script("arguments[0].scrollIntoView()", card)
    image = card.find_element(By.TAG_NAME, "img")
    wait(browser, lambda d: image.get_property("naturalWidth") > 0)
    card.find_element(By.CSS_SELECTOR, "[data-menu]").click()
    card.find_element(By.CSS_SELECTOR, "[data-ask=delete-used]").click()
    asked = find(browser, "#delete-used[open]")
    assert "There its frame stays empty" in asked.text
    asked.find_element(By.CSS_SELECTOR, "[data-closes]").click()
    wait(browser, lambda d: not asked.is_displayed())
    card.find_element(By.CSS_SELECTOR, "[data-menu]").click()
    card.find_element(By.CSS_SELECTOR, "[data-ask=delete-used]").click()
    asked.find_element(By.CSS_SELECTOR, ".strong").click()
    find(browser, ".toast form[action*=restore] button").click()
    wait(browser, lambda d: d.find_elements(By.XPATH, f"//li[.//a[@href='/scenes/{inner}/']]"))


def test_a_picture_that_nothing_uses_is_removed_and_put_back(browser, studio, tmp_path):
    picture = tmp_path / "shell.png"
    Image.effect_noise((40, 30), 60).save(picture)
    scene = studio.copy_of(5)
    open_editor(browser, studio.editor(scene))
    browser.find_element(By.ID, "upload").send_keys(str(picture))
    until_done(browser)
    browser.get(f"{studio.address.rstrip('/')}/projects/1/files")
    row = "//li[.//*[text()='shell.png']]"
    assert used_where(browser, row) != "nowhere"
    open_editor(browser, studio.editor(scene))
    find(browser, "#undo:not([disabled])").click()
    wait(browser, lambda d: undone(d) == NOTHING)
    browser.get(f"{studio.address.rstrip('/')}/projects/1/files")
    assert used_where(browser, row) == "in the history alone"
    browser.find_element(By.XPATH, row).find_element(By.TAG_NAME, "button").click()
    wait(browser, lambda d: not d.find_elements(By.XPATH, row))
    find(browser, ".toast form button").click()
    wait(browser, lambda d: d.find_elements(By.XPATH, row))


def used_where(browser, row: str) -> str:
    """Return where a file is used, as its row says."""
    return browser.find_element(By.XPATH, f"{row}/span[3]").text
