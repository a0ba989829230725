"""The document: JSON both ways, its schema, what it refuses, and bundles."""

import json
import re
from pathlib import Path as File

import jsonschema
import pytest
from hypothesis import given

from coaster import __version__
from coaster.errors import SceneError
from coaster.formats import bundle
from coaster.ids import fresh_id, fresh_name
from coaster.scene import codec
from coaster.scene.contents import Footage, Picture
from coaster.scene.document import SCHEMA
from coaster.scene.footage import FrameTimes
from coaster.scene.properties import PROPERTIES
from studio.demo import scenes as demo
from tests.core.test_commands import SCENE, scenes

ROOT = File(__file__).parents[2]
DATA = ROOT / "tests" / "data"
PUBLISHED = jsonschema.Draft202012Validator(codec.json_schema())


@given(scenes())
def test_json_gives_the_same_scene_back_and_fits_the_published_schema(scene):
    text = codec.to_json(scene)
    assert codec.from_json(text) == scene
    PUBLISHED.validate(json.loads(text))


def test_the_published_schema_is_this_one():
    assert json.loads((ROOT / "docs" / "scene.schema.json").read_text()) == codec.json_schema()


def named_in(schema) -> tuple[set[str], set[str]]:
    """Return the names of all fields of a JSON Schema, and the words that may be their values."""
    fields, words = set(), set()
    for part in [schema, *schema["$defs"].values()]:
        fields |= set(part.get("properties", {}))
    for text in re.findall(r'"(?:enum|const)": (\[[^]]*\]|"[^"]*")', json.dumps(schema)):
        found = json.loads(text)
        words |= {found} if isinstance(found, str) else {w for w in found if isinstance(w, str)}
    return fields, words


def test_the_page_about_scene_files_knows_every_field_and_no_other():
    fields, words = named_in(codec.json_schema())
    told = set(re.findall(r"`([a-z_]+)`", (ROOT / "docs" / "scene-format.md").read_text()))
    assert fields - told == set()
    assert told - fields - words - {"shift"} - set(PROPERTIES) == set()


@pytest.mark.parametrize("schema", range(1, SCHEMA + 1))
def test_a_file_of_any_schema_reads_as_it_always_did(schema):
    scene = codec.from_json((DATA / f"scene-{schema}.json").read_text())
    frozen = json.loads((DATA / f"scene-{SCHEMA}.json").read_text())
    assert codec.to_data(scene) == frozen | {"made_by": __version__}


def kelp(name, scene):
    return Footage(f"{name}.mp4", 960.0, 540.0, FrameTimes(30, ((scene.length, 1),)))


def test_the_demo_is_made_of_valid_scenes():
    made = demo.all_scenes(lambda name, drawing, px: Picture(f"{name}.png", 10, 10), kelp)
    assert len(made) == 11
    for scene in made:
        assert codec.from_json(codec.to_json(scene.scene)) == scene.scene


def broken(**change) -> str:
    return json.dumps(codec.to_data(SCENE) | change)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "not JSON at line 1"),
        ("[]", "no schema number"),
        ("{" * 100_000, "not JSON"),
        (
            broken(schema=SCHEMA + 1, made_by="7.1.0"),
            f"made by Coaster 7.1.0 and has schema {SCHEMA + 1}; this is ",
        ),
        (broken(schema="1"), "not a whole number"),
        (broken(width=15), "width has .*multiple of 2"),
        (broken(length=0), "length"),
        (broken(extra=1), "extra"),
        (broken(background="red"), "background"),
        (broken(paths=[]), "rides a path 'r' that is not there"),
        (broken(layers=codec.to_data(SCENE)["layers"] * 2), "'m' is used twice"),
        (broken().replace("[9.0, 9.0]", "[NaN, 9.0]"), "finite"),
        (broken().replace("[9.0, 9.0]", "[9.0, 1e300]"), "at most 1,000,000"),
    ],
)
def test_a_document_against_the_rules_is_refused_in_one_sentence(text, words):
    with pytest.raises(SceneError, match=words) as refused:
        codec.from_json(text)
    assert "\n" not in str(refused.value)


def test_a_bundle_brings_its_pictures_and_a_plain_file_finds_them_beside_it(tmp_path):
    made = demo.all_scenes(lambda name, drawing, px: Picture(f"{name}.png", 10, 10), kelp)[4].scene
    (tmp_path / "assets").mkdir()
    (tmp_path / "assets" / "buoy.png").write_bytes(b"picture")
    (tmp_path / "scene.json").write_text(codec.to_json(made))
    with (tmp_path / "scene.zip").open("wb") as out:
        bundle.pack(made, tmp_path / "assets", out)
    for name in ("scene.json", "scene.zip"):
        with bundle.open_bundle(tmp_path / name) as (scene, folder):
            assert scene == made
            assert (folder / "buoy.png").read_bytes() == b"picture"
    (tmp_path / "assets" / "buoy.png").unlink()
    with pytest.raises(ValueError, match=r"buoy\.png"), bundle.open_bundle(tmp_path / "scene.json"):
        pass


@pytest.mark.parametrize(
    ("name", "taken", "wanted"),
    [("Reef run", [], "reef-run"), ("Café №1", [], "cafe-no1"), ("×", [], "thing"), ("a", ["a", "a-2"], "a-3"),
     ("x" * 90, [], "x" * 32)],
)  # fmt: skip
def test_ids_can_be_read_and_are_not_taken(name, taken, wanted):
    assert fresh_id(name, taken) == wanted


def test_names_count_on():
    assert fresh_name("Fish", {"Fish", "Fish 2"}) == "Fish 3"
    assert fresh_name("Fish 2", {"Fish", "Fish 2"}) == "Fish 3"
