"""A text on a path with the hand: by letters, by words, at rest, in one piece."""

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.driver import (
    chord,
    find,
    frame,
    kept,
    keys,
    open_editor,
    press,
    round_node,
    tab,
    typed,
    until_undo,
    wait,
)

SWELL = 3


def letters(studio, scene: int) -> dict | None:
    return studio.layer(scene, "words")["ride"]["letters"]


def framed(browser) -> list[str]:
    """Return the frames round what is chosen, each as the corners that it goes through."""
    drawn = browser.find_elements(By.CSS_SELECTOR, "#stage .chosen-box:not(.under)")
    return [box for each in drawn for box in each.get_attribute("d").split("M")[1:]]


def test_letters_look_as_they_will_while_their_path_is_held(browser, studio):
    scene = studio.copy_of(SWELL)
    open_editor(browser, studio.editor(scene))
    find(browser, "[data-choose='path:swell']").click()
    find(browser, "[data-card=path]")
    find(browser, ".ruler").click()
    wait(browser, lambda d: frame(d) > 100)
    code = "return document.querySelector('#stage canvas').toDataURL()"
    before = browser.execute_script(code)
    x, y = round_node(browser, 3)
    way = (x, y), (x + 10, y + 20), (x + 25, y + 60)
    press(browser, *way)
    ActionChains(browser).release().perform()
    kept(browser)
    wait(browser, lambda d: d.execute_script(code) != before, "no letter lies elsewhere")
    let_go = browser.execute_script(code)
    chord(browser, Keys.CONTROL, "z")
    wait(browser, lambda d: d.execute_script(code) == before, "it is not as it was")
    press(browser, *way)
    wait(browser, lambda d: d.execute_script(code) == let_go, "they lie elsewhere")
    keys(browser, Keys.ESCAPE)
    ActionChains(browser).release().perform()
    wait(browser, lambda d: d.execute_script(code) == before, "it is not put back")


def test_a_text_rides_by_words_later_each_rests_and_is_one_again(browser, studio):
    scene = studio.copy_of(SWELL)
    open_editor(browser, studio.editor(scene))
    find(browser, "[data-choose='layer:words']").click()
    find(browser, "#card [data-card][data-id=words]")
    tab(browser, "ride")
    assert letters(studio, scene)["by"] == "letter"
    find(browser, "#card label:has(> [name=by][value=word])").click()
    kept(browser)
    typed(find(browser, "#card [name=each_later_s]"), "0.2")
    kept(browser)
    assert letters(studio, scene) == {"by": "word", "later": 6, "squeeze": False}
    find(browser, "#card label:has(> [name=squeeze])").click()
    kept(browser)
    find(browser, "#card label:has(> [name=beyond][value=round])").click()
    kept(browser)
    assert studio.layer(scene, "words")["ride"]["beyond"] == "round"
    find(browser, "#card [data-letters] button").click()
    until_undo(browser, "High water at four at rest on its path")
    assert len(studio.layer(scene, "words")["ride"]["pegs"]) == 1
    # Each word is framed where it is seen; what lies nowhere as a whole has no handles.
    wait(browser, lambda d: len(framed(d)) == 4, "not every word is framed")
    assert not browser.find_elements(By.CSS_SELECTOR, "#stage .span-knob")
    lefts = [float(word.split(" ")[0]) for word in framed(browser)]
    assert lefts == sorted(lefts)
    find(browser, "#card label:has(> [name=by][value=one])").click()
    until_undo(browser, "High water at four in one piece")
    assert letters(studio, scene) is None
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#card [name=each_later_s]"))
    wait(browser, lambda d: len(framed(d)) == 1, "the text is not framed in one")
    assert browser.find_elements(By.CSS_SELECTOR, "#stage .span-knob")


def test_the_seam_of_a_text_is_that_of_its_letters(browser, studio):
    """Letters that are in the first frame and not in the last show, and the pill says so."""
    scene = studio.copy_of(SWELL)
    open_editor(browser, studio.editor(scene))
    wait(browser, lambda d: "clean" in find(d, "#seam").text)
    find(browser, "[data-choose='layer:words']").click()
    tab(browser, "ride")
    typed(find(browser, "#card [name=offset]"), "30")
    kept(browser)
    wait(browser, lambda d: "shows" in find(d, "#seam").text, "the pill does not say it")
