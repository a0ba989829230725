"""A series by hand: what is filled in is named in the card, rows are looked at, films are made."""

import json

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from coaster.scene import codec
from coaster.scene.contents import Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from tests.browser.driver import find, kept, keys, open_editor, until, until_done, wait

ROWS = "name,Words\nmon,Monday\ntue,Tuesday\n"


def typed_rows(browser, text: str) -> None:
    box = find(browser, "[name=rows]")
    box.send_keys(Keys.CONTROL + "a" + Keys.NULL, Keys.DELETE)
    box.send_keys(text)
    find(browser, "form[hx-post$=look] .button:not(.small)").click()


def test_a_scene_becomes_a_film_for_each_row(browser, studio, tmp_path):
    words = Layer("words", "Words", Text("Today", size=60), Transform((200, 80)))
    box = Layer("box", "Box", Shape("rectangle", 80, 40, "#2060a0"), Transform((200, 160)))
    scene = Scene(400, 240, length=6, layers=(box, words))
    number = studio.opened(json.dumps(codec.to_data(scene)))
    open_editor(browser, studio.editor(number))
    keys(browser, Keys.ESCAPE, Keys.ESCAPE)
    find(browser, "#scene-name").click()
    Select(find(browser, "#card [name=of]")).select_by_visible_text("Words of Words")
    until_done(browser)
    kept(browser)
    assert studio.document(number)["fields"] == [{"name": "Words", "of": "words", "what": "text"}]
    find(browser, "#card a[href$=series]").click()
    typed_rows(browser, ROWS.replace("Words", "Noon"))
    until(browser, lambda: "No column of the rows" in browser.find_element(By.ID, "series").text)
    # From a file, twice, as it is mended meanwhile.
    file, picked = tmp_path / "days.csv", "#rows-file [type=file]"
    file.write_bytes("name,Words\nmon,Grüße".encode("cp1252"))
    browser.find_element(By.CSS_SELECTOR, picked).send_keys(str(file))
    until(browser, lambda: "not UTF-8" in browser.find_element(By.ID, "series").text)
    file.write_text("name,Words\nmon,Monday")
    browser.find_element(By.CSS_SELECTOR, picked).send_keys(str(file))
    until(browser, lambda: "as days.csv has them" in find(browser, "#rows-file").text)
    assert find(browser, "[name=rows]").get_property("value") == file.read_text()
    # One by hand, behind them.
    find(browser, "form details summary").click()
    for field, value in zip(browser.find_elements(By.NAME, "value"), ("tue", "Tuesday"), strict=True):  # fmt: skip
        field.clear()
        field.send_keys(value)
    find(browser, "[hx-post$=add]").click()
    until(browser, lambda: find(browser, "[name=rows]").get_attribute("value") == ROWS)
    find(browser, "form[hx-post$=look] .button:not(.small)").click()
    wait(browser, lambda d: len(d.find_elements(By.CSS_SELECTOR, "#series li img")) == 2)
    Select(find(browser, "[name=preset]")).select_by_visible_text("message")
    find(browser, "#series .button.strong").click()
    wait(browser, lambda d: d.current_url.endswith("/renders"))
    # Beside what others have rendered in this studio.
    for name in ("mon", "tue"):
        done = f"//li[@data-state='done'][contains(normalize-space(.), '· {name}')]//a[@download]"
        wait(browser, lambda d, done=done: d.find_elements(By.XPATH, done))
