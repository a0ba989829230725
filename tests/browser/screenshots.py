"""Takes the pictures of docs/screenshots from a fresh demo, and those of docs/tutorial from what that
says: ``.venv/bin/python -m tests.browser.screenshots``.
"""

import json
from pathlib import Path
from tempfile import TemporaryDirectory

from selenium.webdriver.support.ui import WebDriverWait

from tests.browser.conftest import ROOT, Studio
from tests.browser.driver import (
    ActionChains,
    By,
    Keys,
    Stage,
    chord,
    chromium,
    find,
    kept,
    keys,
    open_editor,
    wait,
)
from tests.browser.test_tour import SWELL
from tests.browser.test_tutorial import follow

FOLDER, TUTORIAL = ROOT / "docs" / "screenshots", ROOT / "docs" / "tutorial"
CANCELS = """
document.querySelectorAll("#queue [hx-post*=cancel]:not([disabled])").forEach(button => button.click())
"""
STEPS = "for (let i = 0; i < arguments[0]; i++) document.querySelector('[data-go=on]').click()"


def main() -> None:
    for each in (FOLDER, TUTORIAL):
        each.mkdir(parents=True, exist_ok=True)
    with TemporaryDirectory() as folder, chromium() as driver:
        studio = Studio(Path(folder))
        try:
            take(driver, studio, Path(folder))
        finally:
            studio.stop()


def take(driver, studio: Studio, folder: Path) -> None:
    def shot(name: str, into: Path = FOLDER) -> None:
        driver.execute_async_script(
            "requestAnimationFrame(() => requestAnimationFrame(arguments[0]))"
        )
        driver.save_screenshot(str(into / f"{name}.png"))

    driver.get(studio.address)
    wait(driver, lambda d: d.execute_script("return [...document.images].every(i => i.complete)"))
    shot("projects")
    open_editor(driver, studio.editor(1))
    driver.execute_script(STEPS, 70)
    shot("editor")
    open_editor(driver, studio.editor(1))
    keys(driver, "?")
    find(driver, "#keys[open]")
    shot("help")
    keys(driver, Keys.ESCAPE)
    driver.execute_script(STEPS, 100)
    find(driver, ".pill[data-of=manta]:nth-of-type(4)").click()
    find(driver, "[data-peg-card]")
    find(driver, ".graph-knob")
    shot("pace")
    keys(driver, Keys.ESCAPE)
    open_editor(driver, studio.editor(2))
    find(driver, "[data-choose='layer:young']").click()
    find(driver, "#card [data-id=young]")
    find(driver, ".track-name[data-graph=scale]").click()
    driver.execute_script("document.querySelector('#card input[value=look]').click()")
    driver.execute_script(STEPS, 60)
    find(driver, ".graph-key")
    shot("keys")
    open_editor(driver, studio.editor(6))
    driver.execute_script(STEPS, 40)
    find(driver, "[data-choose='path:walk']").click()
    find(driver, "#card #take-tolerance")
    find(driver, ".raw-words")
    shot("take")
    open_editor(driver, studio.editor(11))
    driver.execute_script(STEPS, 40)
    find(driver, "[data-layer=float] [data-choose]").click()
    find(driver, "#card [data-id=float]")
    driver.execute_script("document.querySelector('#card input[value=look]').click()")
    find(driver, "[data-do=second]")
    driver.execute_script("document.querySelector('[data-do=second]').click()")
    find(driver, "#second[data-shows=above] .picture-edge")
    shot("depth")
    driver.execute_script("document.querySelector('#second [data-second=\"\"]').click()")
    open_editor(driver, studio.editor(1))
    (folder / "swell.svg").write_text(SWELL)
    driver.find_element(By.ID, "upload").send_keys(str(folder / "swell.svg"))
    find(driver, "#drawing[open] input[value=path]")
    shot("drawing")
    find(driver, "#drawing [data-closes]").click()
    find(driver, "[data-choose='path:reef-run']").click()
    find(driver, "#card [data-card=path]")
    keys(driver, "]", "]", "]")
    wait(driver, lambda d: "Node 3" in d.find_element(By.ID, "card").text)
    shot("nodes")
    keys(driver, Keys.ESCAPE, "s", "2")
    stage = Stage(driver)
    stage.click(180, 980)
    stage.drag((620, 900), (760, 860))
    kept(driver)
    stage.drag((1180, 990), (1330, 1010))
    kept(driver)
    stage.hover(1680, 900)
    shot("draw")
    keys(driver, Keys.ESCAPE, Keys.ESCAPE)
    find(driver, "[data-opens=renders]").click()
    find(driver, "#renders form .button.strong").click()
    WebDriverWait(driver, 180).until(
        lambda d: d.find_elements(By.CSS_SELECTOR, "#renders [data-state=done]")
    )
    wait(
        driver,
        lambda d: (
            d.execute_script("return document.querySelector('#renders video').currentTime") > 1
        ),
    )
    shot("renders")
    driver.get(f"{studio.address}/renders")
    find(driver, "[data-opens=several]").click()
    for box in driver.find_elements(By.CSS_SELECTOR, "#several input[type=checkbox]")[1:4]:
        box.click()
    find(driver, "#several .strong").click()
    WebDriverWait(driver, 60).until(
        lambda d: d.execute_script(
            "return document.querySelector('[data-state=running] progress')?.value > 60"
        )
    )
    shot("queue")
    driver.execute_script(CANCELS)
    wait(driver, lambda d: not d.find_elements(By.CSS_SELECTOR, "#queue [hx-post*=cancel]"))
    open_editor(driver, studio.editor(1))
    find(driver, "#shelf [data-choose='layer:title']").click()
    more = ActionChains(driver).key_down(Keys.SHIFT)
    more.click(find(driver, "#shelf [data-choose='layer:where']")).key_up(Keys.SHIFT).perform()
    chord(driver, Keys.CONTROL, "g")
    find(driver, "#card [data-do=ungroup]")
    kept(driver)
    shot("group")
    keys(driver, "v")
    rails = len(driver.find_elements(By.CSS_SELECTOR, "#stage .rails > *"))
    find(driver, "#history [data-number='0'] .past-look").click()
    # The path that was drawn since is gone from the stage.
    wait(driver, lambda d: len(d.find_elements(By.CSS_SELECTOR, "#stage .rails > *")) < rails)
    shot("history")
    open_editor(driver, studio.editor(9))
    find(driver, "[data-choose='layer:buoy']").click()
    find(driver, "#card [data-id=buoy]")
    driver.execute_script("document.querySelector('#card input[value=look]').click()")
    find(driver, "#card a[href^='/scenes/5/']")
    driver.execute_script(STEPS, 45)
    driver.execute_script(
        "document.querySelector('#card [name=speed]').scrollIntoView({block: 'center'})"
    )
    shot("inset")
    open_editor(driver, studio.editor(8))
    find(driver, ".film").click()
    find(driver, "#card [data-id=kelp]")
    driver.execute_script("document.querySelector('#card input[value=look]').click()")
    wait(driver, lambda d: "small frames are ready" in find(d, "#card").text)
    driver.execute_script("document.querySelector('#small-frames').scrollIntoView({block: 'end'})")
    driver.execute_script(STEPS, 20)
    shot("footage")
    chord(driver, Keys.CONTROL, "k")
    find(driver, "#find[open] input").send_keys("sp")
    wait(driver, lambda d: d.find_elements(By.CSS_SELECTOR, "#found [aria-selected=true]"))
    shot("finder")
    broken = studio.copy_of(1)
    revision = json.loads(studio.get(f"/scenes/{broken}/revision"))["revision"]
    studio.post(
        f"/scenes/{broken}/edit", form="time", layer="manta", laps="1.4", base=str(revision)
    )
    open_editor(driver, studio.editor(broken))
    find(driver, "#seam").click()
    find(driver, "[data-seam-panel] [data-form=loop]")
    shot("seam")
    follow(driver, studio, lambda name: shot(name, TUTORIAL))
    for scene in (3, 5):
        studio.post(f"/scenes/{scene}/delete")
    driver.get(f"{studio.address}/bin")
    find(driver, "[data-ask=erase]")
    shot("bin")


if __name__ == "__main__":
    main()
