"""A studio's database as 0.4.0 left it: it opens, and what was done then is undone and done again.

``tests/data/studio-0.4.0.sql.gz`` has one scene for each kind of command of that version, with one
edit of that kind.
"""

import gzip
import json
import os
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
DUMP = ROOT / "tests" / "data" / "studio-0.4.0.sql.gz"
STEPS = """
import json, django
django.setup()
from django.core.management import call_command
call_command("migrate", verbosity=0, interactive=False)
from coaster.scene import codec
from studio.editor import services
from studio.projects import replay
from studio.projects.models import Scene
from studio.projects.services import single_person

user, found = single_person(), {}
for scene in Scene.objects.all():
    seen = [codec.to_json(scene.value())]
    for step in (services.undo, services.redo, services.undo):
        seen.append(codec.to_json(step(user, scene.pk).after))
    first = replay.document_at(scene, 0)
    found[scene.name] = {"seen": seen, "first": codec.to_json(first)}
print(json.dumps(found))
"""


@pytest.fixture(scope="module")
def found(tmp_path_factory) -> dict:
    folder = tmp_path_factory.mktemp("old")
    database = sqlite3.connect(folder / "coaster.sqlite3")
    database.executescript(gzip.decompress(DUMP.read_bytes()).decode())
    database.close()
    environment = os.environ | {
        "COASTER_DATA": str(folder),
        "DJANGO_SETTINGS_MODULE": "studio.config.settings",
        "PYTHONPATH": str(ROOT / "src"),
    }
    done = subprocess.run(
        [sys.executable, "-c", STEPS], capture_output=True, text=True, env=environment, check=False
    )
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


def test_there_is_a_scene_for_every_kind_of_command(found):
    assert len(found) == 30


def test_every_edit_is_undone_to_what_was_before_and_done_again(found):
    for kind, scene in found.items():
        now, undone, redone, undone_again = scene["seen"]
        assert undone == undone_again == scene["first"], kind
        assert redone == now != undone, kind
