"""The seam on the stage: the last frame and the first by turns and side by side, and what mends it."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import find, frame, kept, open_editor, typed, wait

MANTA = 1
OTHER = """
  const canvas = document.querySelector("#stage canvas.compared")
  return canvas.hidden ? "" : canvas.style.clipPath"""

COMPARED = "return document.querySelector('#stage canvas.compared').toDataURL()"


def test_the_last_frame_and_the_first_are_flicked_and_wiped(browser, studio):
    copy = studio.copy_of(MANTA)
    last = studio.document(copy)["length"] - 1
    open_editor(browser, studio.editor(copy))
    find(browser, "#seam").click()
    find(browser, "#seam-menu [data-flick]").click()
    wait(browser, lambda d: frame(d) == 0)
    wait(browser, lambda d: frame(d) == last)
    find(browser, "#seam-menu [data-wipe-two]").click()
    words = "frame 0, the first; right of it the last"
    wait(browser, lambda d: words in find(d, "[data-compared-words]").text)
    assert browser.execute_script(OTHER) == "inset(0px 50% 0px 0px)"
    assert frame(browser) == last
    # Whatever is gone to on the stage, left of the line it is the first.
    first = browser.execute_script(COMPARED)
    typed(find(browser, "#at"), "100 f")
    wait(browser, lambda d: frame(d) == 100)
    assert browser.execute_script(COMPARED) == first
    browser.find_element(By.CSS_SELECTOR, "[data-wipe]").send_keys(Keys.ARROW_RIGHT)
    assert browser.execute_script(OTHER) == "inset(0px 49% 0px 0px)"
    browser.find_element(By.CSS_SELECTOR, "[data-wipe]").send_keys(Keys.ESCAPE)
    assert browser.execute_script(OTHER) == ""


def test_a_loop_that_steps_is_mended_in_one_step(browser, studio):
    copy = studio.copy_of(MANTA)
    open_editor(browser, studio.editor(copy))
    find(browser, "[data-choose='layer:manta']").click()
    laps = find(browser, "#card input[name=laps]")
    laps.send_keys(Keys.CONTROL + "a" + Keys.NULL, "0,5", Keys.ENTER)
    kept(browser)
    wait(browser, lambda d: find(d, "#seam").text != "Seam clean", "half a lap is said to be clean")
    find(browser, "#seam").click()
    find(browser, "#seam-menu [data-form=loop-all]").click()
    wait(browser, lambda d: find(d, "#seam").text == "Seam clean", "it still steps")
    kept(browser)
    find(browser, "#undo").click()
    wait(browser, lambda d: find(d, "#seam").text != "Seam clean", "it was more than one step")
