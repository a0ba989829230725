"""Layers pasted: into the scene they are from, an earlier state of it, and any other."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, event, given, settings
from hypothesis import strategies as st

from coaster.commands import applied
from coaster.edits.groups import group
from coaster.edits.layers import delete_layers, delete_path
from coaster.edits.masks import mask_with
from coaster.edits.pasting import Taken, paste
from coaster.errors import EditRefused
from coaster.geometry.path import Path
from coaster.motion.rate import Rate
from coaster.motion.ride import Facing
from coaster.render import places
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Line, Shape
from coaster.scene.document import Layer, Scene, Transform
from tests.core.test_commands import scenes
from tests.core.test_masks import block, square
from tests.core.test_render import RING, loop


@pytest.fixture
def source() -> Scene:
    """Two riders of a ring, one of which looks at the other, a line on it, and a masked box."""
    first = Layer("first", "First", Shape("rectangle", 20, 10), ride=loop(RING.id, 100))
    looking = replace(first.ride, facing=Facing("target", target=first.id), offset=30.0)
    second = replace(first, id="second", name="Second", ride=looking)
    line = Layer("line", "Line", Line(RING.id))
    made = Scene(length=100, layers=(line, first, second, block("box", "#ffffff", 10, 20, 90, 60)),
                 paths=(RING, square("w", 0, 0, 70, 70)))  # fmt: skip
    return applied(made, mask_with(made, "box", "w").commands)


def pasted(scene: Scene, taken: Taken, **more) -> tuple[Scene, tuple[str, ...]]:
    edit = paste(scene, taken, 0, **more)
    return applied(scene, edit.commands), edit.select.layers


def seen(scene: Scene, layer_id: str) -> np.ndarray:
    return np.array([places.spot_of(scene, layer_id, frame) for frame in (0, 25, 60)])


def test_into_another_scene_all_that_is_needed_comes_along(source):
    bare = Scene(length=100)
    taken = Taken(source, ("second", "box", "line", source.layers[1].id))
    scene, copies = pasted(bare, taken)
    assert [layer.name for layer in scene.layers] == [layer.name for layer in source.layers]
    assert {path.name for path in scene.paths} == {path.name for path in source.paths}
    for original, copy in zip(source.layers, scene.layers, strict=True):
        assert seen(scene, copy.id) == pytest.approx(seen(source, original.id))
    assert scene.layer(copies[2]).ride.facing.target == copies[1]
    assert scene.layers[-1].mask.parts[0].path in {path.id for path in scene.paths}


def test_in_the_same_scene_paths_are_shared_and_what_was_cut_comes_back(source):
    rider = source.layers[1].id
    scene, (copy,) = pasted(source, Taken(source, (rider,), same=True), aside=True)
    assert scene.layer(copy).ride == source.layer(rider).ride
    assert scene.paths == source.paths
    cut = applied(source, delete_layers(source, ["box", rider]).commands)
    assert cut.layer("second").ride.facing.target is None
    back, _ = pasted(cut, Taken(source, ("box", rider), same=True))
    assert back.layer("box") == source.layer("box")
    assert back.layer(rider) == source.layer(rider)


def test_a_path_that_is_gone_comes_along_and_one_that_was_reshaped_is_shared(source):
    rider = source.layers[1].id
    without = applied(source, delete_path(source, RING.id, 0).commands)
    back, (copy,) = pasted(without, Taken(source, (rider,), same=True))
    assert back.path(back.layer(copy).ride.path).subpaths == RING.subpaths
    nodes = RING.subpaths[0].nodes
    moved = replace(RING.subpaths[0], nodes=(replace(nodes[0], position=(1.0, 2.0)), *nodes[1:]))
    reshaped = source.with_path(replace(RING, subpaths=(moved,)))
    shared, (copy,) = pasted(reshaped, Taken(source, (rider,), same=True))
    assert shared.layer(copy).ride.path == RING.id
    # In another scene, a path of the same id is another path.
    other = Scene(length=100, paths=(replace(RING, subpaths=(moved,)),))
    apart, (copy,) = pasted(other, Taken(source, (rider,)))
    assert apart.layer(copy).ride.path != RING.id


def test_a_group_takes_its_paths_along_and_layers_leave_a_group_where_they_are_seen(source):
    grouped = applied(source, group(source, ["box"], 0).commands)
    pod = next(layer for layer in grouped.layers if layer.content.can.hold)
    moved = replace(pod, transform=replace(pod.transform, position=(50.0, 70.0), scale=(2.0, 2.0)))
    grouped = grouped.with_layer(moved)
    assert grouped.path("w").parent == pod.id
    scene, (copy,) = pasted(Scene(length=100), Taken(grouped, (pod.id,)))
    assert scene.path("w").parent == copy
    alone, (copy,) = pasted(Scene(length=100), Taken(grouped, ("box",)))
    assert seen(alone, copy) == pytest.approx(seen(grouped, "box"))
    corner = places.group_map(grouped, pod.id, 0) @ np.eye(6)
    wanted = [corner[0] * 70 + corner[4], corner[3] * 70 + corner[5]]
    assert alone.path("w").nodes()[2].position == pytest.approx(wanted)
    # Into a group of the scene, and where it is seen there, too.
    inside, (copy,) = pasted(grouped, Taken(source, ("second",)), inside=pod.id)
    assert inside.layer(copy).parent == pod.id
    assert seen(inside, copy) == pytest.approx(seen(source, "second"), abs=0.01)


def test_what_carries_or_is_looked_at_and_does_not_come_along_is_said(source):
    carried = replace(source.layer("box"), carrier=Carrier(source.layers[1].id))
    source = source.with_layer(carried)
    alone = Taken(source, ("second", "box"))
    notes = paste(Scene(length=100), alone, 0).notes
    assert [note.split(":")[0] for note in notes] == ["box", "Second"]
    assert "carried" in notes[0]
    assert "looked at" in notes[1]
    for whole in (replace(alone, same=True), Taken(source, ("second", "box", "first"))):
        scene = source if whole.same else Scene(length=100)
        assert not any("is not there" in note for note in paste(scene, whole, 0).notes)


def test_seconds_stay_at_another_rate(source):
    rider = source.layers[1].id
    scene, (copy,) = pasted(Scene(rate=Rate(60), length=200), Taken(source, (rider,)))
    assert scene.layer(copy).ride.end == pytest.approx(
        source.layer(rider).ride.end * 60 / source.fps
    )


@given(scenes(), scenes(), st.booleans(), st.data())
@settings(max_examples=120, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_any_layers_are_pasted_into_any_scene_or_refused_in_words(one, other, same, data):
    if not one.layers:
        return
    ids = st.sampled_from([layer.id for layer in one.layers])
    chosen = tuple(data.draw(st.lists(ids, min_size=1, max_size=3, unique=True)))
    target = one if same else other
    before = len(target.layers)
    aside = data.draw(st.booleans())
    try:
        scene, copies = pasted(target, Taken(one, chosen, same=same), aside=aside)
    except EditRefused as refused:
        event(f"refused: {refused}")
        return
    assert set(copies) <= {layer.id for layer in scene.layers}
    assert len(scene.layers) > before
    assert [layer for layer in scene.layers if layer.id in {x.id for x in target.layers}] == list(target.layers)  # fmt: skip


def test_a_path_of_its_own_name_and_look_comes_along():
    path: Path = replace(square("w", 0, 0, 50, 50), colour="#e4572e", strength=2.0, locked=True)
    one = Layer("a", "A", Line("w"), Transform())
    scene, _ = pasted(Scene(length=9), Taken(Scene(length=9, layers=(one,), paths=(path,)), ("a",)))
    assert scene.paths == (path,)
