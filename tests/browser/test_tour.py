"""The whole way: a new scene, her own picture and path, a ride, a render; with mouse and
with keys.
"""

import io
import json
import os
import re
import signal
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image, ImageDraw
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from coaster.export.drawers import painter_of
from coaster.export.orders import Choices
from coaster.media.pictures import straight_rgba
from coaster.scene import codec
from tests.browser.driver import (
    centre,
    drag,
    find,
    frame,
    kept,
    keys,
    open_editor,
    said,
    tab,
    typed,
    wait,
)

SWELL = """<svg xmlns="http://www.w3.org/2000/svg" width="640" height="360" viewBox="0 0 640 360">
  <path id="rise" d="M40 300C200 300 200 60 320 60S440 300 600 300"/>
  <circle id="ring" cx="320" cy="180" r="120"/></svg>"""


@pytest.fixture
def files(tmp_path: Path) -> dict[str, Path]:
    """A small fish, one far too large, a drawing with two paths, and something that is no
    picture.
    """

    def fish(size: int) -> Image.Image:
        picture = Image.new("RGBA", (size, size // 2), (0, 0, 0, 0))
        points = [
            (size * 0.05, size * 0.05),
            (size * 0.95, size * 0.25),
            (size * 0.05, size * 0.45),
        ]
        ImageDraw.Draw(picture).polygon(points, fill=(228, 87, 46, 255))
        return picture

    found = {
        name: tmp_path / name
        for name in ("fish.png", "whale.png", "swell.svg", "broken.png", "evil.svg")
    }
    fish(80).save(found["fish.png"])
    fish(3000).save(found["whale.png"])
    found["swell.svg"].write_text(SWELL)
    found["broken.png"].write_bytes(found["fish.png"].read_bytes()[:200])
    found["evil.svg"].write_text(
        '<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>'
    )
    return found


def new_scene(browser, studio, *, transparent: bool = False, frames: str = "48") -> int:
    """Make a 640 x 360 scene through the dialog, as a person does, and wait for its editor."""
    browser.get(studio.address)
    find(browser, "[hx-get*='new-scene']").click()
    find(browser, "#dialog input[name=name]").send_keys("Minnow")
    find(browser, "#dialog input[name=size][value=free]").click()
    find(browser, "#dialog input[name=width]").send_keys("640")
    find(browser, "#dialog input[name=height]").send_keys("360")
    find(browser, "#dialog input[name=rate]").send_keys(Keys.CONTROL + "a" + Keys.NULL, "24")
    Select(find(browser, "#dialog select[name=unit]")).select_by_visible_text("frames")
    length = find(browser, "#dialog input[name=length]")
    length.clear()
    length.send_keys(frames)
    if transparent:
        find(browser, "#dialog input[name=transparent]").click()
    return make_scene(browser)


def pick(field, colour: str) -> None:
    """Choose a colour as the browser's own window of colours does, which has no elements."""
    field.parent.execute_script(
        """arguments[0].value = arguments[1]
        arguments[0].dispatchEvent(new Event("change", {bubbles: true}))""",
        field,
        colour,
    )


def make_scene(browser) -> int:
    """End the dialog of a new scene, and wait for its editor; return the scene's number."""
    find(browser, "#dialog .button.strong").click()
    wait(browser, lambda d: "/scenes/" in d.current_url, "no editor")
    find(browser, "#editor[data-ready]")
    find(browser, "#card [data-card]")
    return int(re.search(r"/scenes/(\d+)/", browser.current_url)[1])


def upload(browser, path: Path) -> None:
    browser.find_element(By.ID, "upload").send_keys(str(path))


def choose_path(browser, name: str = "") -> None:
    """Answer the question what a drawing should become: one of its paths."""
    find(browser, "#drawing[open] input[value=path]")
    if name:
        for box in browser.find_elements(By.CSS_SELECTOR, "#drawing input[name=pick]"):
            if box.is_selected() != (box.get_attribute("aria-label") == name):
                box.click()
    find(browser, "#drawing .button.strong").click()
    find(browser, "[data-path]")


def test_from_a_picture_and_a_path_to_a_looping_video(browser, studio, files):
    scene = new_scene(browser, studio)
    upload(browser, files["fish.png"])
    find(browser, "[data-layer=fish].chosen")
    upload(browser, files["swell.svg"])
    choose_path(browser, "ring")
    kept(browser)
    find(browser, "[data-choose='layer:fish']").click()
    find(browser, "#card [aria-label='Ride ring']").click()
    find(browser, "#card input[name=mode]")
    ride = studio.layer(scene, "fish")["ride"]
    assert [p["time"] for p in ride["pegs"]] == [0, 48]  # a closed path takes the whole scene
    assert find(browser, "#seam").text == "Seam clean"
    keys(browser, Keys.SPACE)
    wait(browser, lambda d: frame(d) > 5)
    keys(browser, Keys.SPACE)

    keys(browser, "r")
    find(browser, "#renders[open] form .button.strong").click()
    done = find(browser, "#renders [data-state=done]")
    assert "48 frames" in done.text
    wait(
        browser,
        lambda d: (
            d.execute_script("return document.querySelector('#renders video').readyState") >= 2
        ),
    )
    assert browser.execute_script("return document.querySelector('#renders video').loop") is True
    address = find(browser, "#renders [data-state=done] a[download]").get_attribute("href")
    video = studio.get(address.removeprefix(studio.address))
    with av.open(io.BytesIO(video)) as container:
        stream = container.streams.video[0]
        pictures = [f.to_ndarray(format="rgb24") for f in container.decode(video=0)]
        assert (len(pictures), stream.average_rate, pictures[0].shape) == (48, 24, (360, 640, 3))
    # The way from the last frame to the first is no larger a step than any other.
    steps = [
        np.abs(a.astype(int) - b).mean()
        for a, b in zip(pictures, [*pictures[1:], pictures[0]], strict=True)
    ]
    assert 0 < steps[-1] < 1.3 * max(steps[:-1])


def test_a_picture_larger_than_the_frame_is_fitted_and_says_so(browser, studio, files):
    scene = new_scene(browser, studio)
    upload(browser, files["whale.png"])
    said(browser, "3000 × 1500 px, larger than the frame; it was fitted to it at 21 %")
    assert studio.layer(scene, "whale")["transform"]["scale"][0] == pytest.approx(640 / 3000)


@pytest.mark.parametrize(
    ("name", "words"), [("broken.png", "broken or cut short"), ("evil.svg", "run something")]
)
def test_a_file_that_cannot_be_used_gets_one_sentence_and_leaves_nothing(
    browser, studio, files, name, words
):
    scene = new_scene(browser, studio)
    assets = list((studio.folder / "projects").rglob("*.*"))
    upload(browser, files[name])
    assert words in find(browser, ".toast.bad span").text
    assert studio.document(scene)["layers"] == []
    assert list((studio.folder / "projects").rglob("*.*")) == assets


def test_files_can_be_dropped_anywhere_on_the_editor(browser, studio):
    scene = new_scene(browser, studio)
    browser.execute_script(
        """const data = new DataTransfer()
        data.items.add(new File([arguments[0]], "swell.svg", {type: "image/svg+xml"}))
        const options = {bubbles: true, cancelable: true, dataTransfer: data}
        for (const kind of ["dragenter", "dragover", "drop"])
          document.querySelector("#card").dispatchEvent(new DragEvent(kind, options))""",
        SWELL,
    )
    find(browser, "#drawing[open] input[value=picture]").click()
    find(browser, "#drawing .button.strong").click()
    find(browser, "[data-layer=swell].chosen")
    assert studio.document(scene)["layers"][0]["content"]["type"] == "picture"


@pytest.mark.parametrize("dragged", ["layer", "path"])
def test_dropping_one_on_the_other_attaches_the_layer_whichever_is_dragged(
    browser, studio, files, dragged
):
    scene = new_scene(browser, studio)
    upload(browser, files["fish.png"])
    find(browser, "[data-layer=fish]")
    upload(browser, files["swell.svg"])
    choose_path(browser, "rise")
    kept(browser)
    layer, path = (
        centre(find(browser, "[data-layer=fish]")),
        centre(find(browser, "[data-path=rise]")),
    )
    drag(browser, *((layer, path) if dragged == "layer" else (path, layer)))
    find(browser, "[data-layer=fish].chosen")
    wait(browser, lambda d: "rides rise" in find(d, "[data-layer=fish]").text, "it does not ride")
    pegs = studio.layer(scene, "fish")["ride"]["pegs"]
    assert [p["time"] for p in pegs] == [
        0,
        47,
    ]  # 3 s would be longer than the scene: it ends on its last frame
    assert find(browser, "#seam").text == "Seam shows"


def tab_to(browser, selector: str) -> None:
    """Press Tab until the focus is there; fails if the keyboard cannot get to it."""
    for _ in range(120):
        if browser.execute_script("return document.activeElement.matches(arguments[0])", selector):
            return
        keys(browser, Keys.TAB)
    raise AssertionError(f"{selector} cannot be reached with the keyboard")


def test_the_ride_can_be_made_and_changed_with_the_keyboard_alone(browser, studio, files):
    scene = new_scene(browser, studio)
    upload(browser, files["fish.png"])  # the system's own file dialog is not ours to test
    find(browser, "[data-layer=fish].chosen")
    upload(browser, files["swell.svg"])
    find(browser, "#drawing[open]")
    tab_to(browser, "#drawing .button.strong")
    keys(browser, Keys.ENTER)
    find(browser, "[data-path=rise]")
    kept(browser)
    tab_to(browser, "[data-choose='layer:fish']")
    keys(browser, Keys.ENTER)
    find(browser, "#card [aria-label='Ride rise']")
    tab_to(browser, "#card [aria-label='Ride rise']")
    keys(browser, Keys.ENTER)
    find(browser, "#card input[name=mode]")
    tab_to(browser, "input[name=mode]:checked")
    keys(browser, Keys.ARROW_RIGHT)
    wait(browser, lambda d: studio.layer(scene, "fish")["ride"]["facing"]["mode"] == "reversed")
    kept(browser)
    tab_to(browser, "[data-tab]:checked")
    keys(browser, Keys.ARROW_RIGHT)
    tab_to(browser, "input[name=pace]:checked")
    keys(browser, Keys.ARROW_RIGHT)
    wait(browser, lambda d: studio.layer(scene, "fish")["ride"]["pegs"][0]["leave"]["time"] == 0.42)
    keys(browser, "p")
    wait(browser, lambda d: frame(d) > 3, "it does not play")
    keys(browser, "p")


def test_a_layer_that_stands_still_is_dragged_and_escape_puts_it_back(browser, studio, files):
    scene = new_scene(browser, studio)
    upload(browser, files["fish.png"])
    find(browser, "[data-layer=fish].chosen")
    kept(browser)
    x, y = centre(find(browser, ".frame"))
    drag(browser, (x, y), (x + 50, y + 30))
    wait(
        browser,
        lambda d: studio.layer(scene, "fish")["transform"]["position"][0] > 330,
        "it was not moved",
    )
    moved = studio.layer(scene, "fish")["transform"]["position"]
    keys(browser, Keys.CONTROL)
    find(browser, "#undo").click()
    wait(
        browser,
        lambda d: studio.layer(scene, "fish")["transform"]["position"] == [320, 180],
        "not undone",
    )
    assert moved[1] > 185


def test_a_text_is_placed_with_its_tool_and_typed_over(browser, studio):
    scene = new_scene(browser, studio)
    keys(browser, "4")
    assert "Click where the text is to stand" in find(browser, "[data-hint]").text
    x, y = centre(find(browser, ".frame"))
    drag(browser, (x - 40, y - 20), (x - 40, y - 20), steps=1)
    find(browser, "[data-layer=new-text].chosen")
    tab(browser, "look")
    find(browser, "#card textarea[name=text]").send_keys(
        Keys.CONTROL + "a" + Keys.NULL, "High tide", Keys.TAB
    )
    wait(browser, lambda d: studio.layer(scene, "new-text")["content"]["text"] == "High tide")


def test_a_colour_that_is_picked_for_a_new_scene_is_behind_it(browser, studio):
    browser.get(studio.address)
    find(browser, "[hx-get*='new-scene']").click()
    find(browser, "#dialog input[name=name]").send_keys("Minnow")
    find(browser, "#dialog input[name=transparent]").click()
    pick(find(browser, "#dialog input[name=background]"), "#14506e")
    assert studio.document(make_scene(browser))["background"] == "#14506e"


def test_what_is_chosen_of_a_render_goes_together(browser, studio):
    scene = studio.copy_of(1)
    open_editor(browser, studio.editor(scene))
    keys(browser, Keys.ARROW_RIGHT * 3)
    wait(browser, lambda d: frame(d) == 3)
    keys(browser, "r")

    def field(name: str):
        return find(browser, f"#renders[open] #wanted [name={name}]")

    def told(words: str) -> None:
        wait(browser, lambda d: words in find(d, "#render-told").text, f"{words} is not told")

    told("240 frames, 8 s, 1920 × 1080 px, about ")
    # A height chooses that it counts; another size lets go of it.
    field("high").send_keys("360", Keys.TAB)
    told("640 × 360 px")
    assert field("size").get_property("value") == "own"
    Select(field("size")).select_by_value("0.5")
    told("960 × 540 px")
    assert field("high").get_property("value") == ""
    Select(field("size")).select_by_value("own")
    told("1920 × 1080 px")
    assert field("high").get_property("value") == "1080"
    field("high").send_keys("270", Keys.TAB)
    told("480 × 270 px")
    pick(field("colour"), "#ff0000")
    assert field("behind").get_property("value") == "colour"
    # A still is of the playhead; other formats are of the whole scene again.
    Select(field("format")).select_by_value("still")
    told("1 frame, 480 × 270 px, about ")
    assert [field(name).get_property("value") for name in ("first", "last")] == ["3", "4"]
    Select(field("format")).select_by_value("gif")
    told("240 frames")
    Select(field("format")).select_by_value("still")
    told("1 frame")
    find(browser, "#renders[open] form .button.strong").click()
    find(browser, "#renders [data-state=done]")
    made = next((studio.folder / "renders" / str(scene)).glob("*.png"))
    document = codec.from_data(studio.document(scene))
    order = Choices("still", first=3, last=4, high=270, behind="#ff0000").order(document)
    assets = studio.folder / "projects" / "1" / "assets"
    drawn = painter_of(order.of(document), assets, order.scale).picture(3)
    assert np.array_equal(np.asarray(Image.open(made).convert("RGBA")), straight_rgba(drawn))
    # Opened again it is as last time; and again other formats are of the whole scene.
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: not d.find_elements(By.CSS_SELECTOR, "#renders[open]"))
    keys(browser, "r")
    told("1 frame")
    Select(field("format")).select_by_value("mp4")
    told("240 frames")


def test_a_killed_worker_leaves_the_scene_whole_and_the_render_can_start_again(browser, studio):
    scene = studio.copy_of(1)
    open_editor(browser, studio.editor(scene))
    keys(browser, "r")
    Select(find(browser, "#renders select[name=format]")).select_by_value("webm")
    find(browser, "#renders[open] form .button.strong").click()
    find(browser, "#renders [data-state=running]")
    wait(
        browser,
        lambda d: "Frame 0 " not in find(d, "#renders [data-state=running]").text,
        "no progress",
    )
    for pid in worker_pids(studio):
        os.kill(pid, signal.SIGKILL)
    words = find(browser, "#renders [data-state=interrupted]").text
    assert "Interrupted after" in words
    assert "The scene is safe" in words
    assert not list((studio.folder / "renders" / str(scene)).glob("*.webm"))
    find(browser, "#renders [data-state=interrupted] [hx-post*=again]").click()
    find(browser, "#renders [data-state=running]")
    find(browser, "#renders [data-state=running] [hx-post*=cancel]").click()
    find(browser, "#renders [data-state=cancelled]")
    assert os.listdir(studio.folder / "renders" / str(scene)) == []
    assert json.loads(studio.get(f"/scenes/{scene}/revision")) == {"revision": 0, "shown": 0}


def worker_pids(studio) -> list[int]:
    """The worker's process and the drawers it started, found by their parent."""
    parents = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdecimal():
            try:
                stat, command = (entry / "stat").read_text(), (entry / "cmdline").read_bytes()
            except OSError:
                continue
            parents[int(entry.name)] = (int(stat.rpartition(")")[2].split()[1]), command)
    workers = [
        p
        for p, (parent, c) in parents.items()
        if parent == studio.process.pid and b"\0worker\0" in c
    ]
    return workers + [p for p, (parent, _) in parents.items() if parent in workers]


def test_names_with_markup_stay_text(browser, studio, files):
    scene = new_scene(browser, studio)
    upload(browser, files["fish.png"])
    find(browser, "[data-layer=fish].chosen")
    name = '<b>O\'Neill</b> & "fish"'
    typed(find(browser, "#card input[name=title]"), name)
    wait(browser, lambda d: find(d, "[data-layer=fish] b").text == name)
    assert studio.layer(scene, "fish")["name"] == name
