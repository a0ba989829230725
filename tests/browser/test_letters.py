"""A text on a path with the hand: by letters, by words, at rest, in one piece."""

from tests.browser.driver import find, kept, open_editor, tab, typed, until_undo, wait

SWELL = 3


def letters(studio, scene: int) -> dict | None:
    return studio.layer(scene, "words")["ride"]["letters"]


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
    find(browser, "#card label:has(> [name=by][value=one])").click()
    until_undo(browser, "High water at four in one piece")
    assert letters(studio, scene) is None
    wait(browser, lambda d: not d.find_elements("css selector", "#card [name=each_later_s]"))
