"""The project's library of rides: kept from one scene, put to use in another."""

from dataclasses import replace

from coaster.commands import Command
from coaster.commands.paths import AddPath
from coaster.commands.rides import AttachRide
from coaster.errors import EditRefused
from coaster.ids import fresh_id, fresh_name
from coaster.motion.sections import retimed
from coaster.scene import codec
from coaster.scene.document import Layer, Line, Shape
from coaster.scene.document import Scene as Document
from studio.projects.models import SavedRide, Scene
from studio.projects.services import Person, allow

MOST_RIDES = 200


def keep(user: Person, scene: Scene, layer_id: str, name: str) -> SavedRide:
    """Keep a layer's ride, with its path, under a name that is made different where it is taken.

    Errors: EditRefused: the layer rides nothing, or the library is full.
    """
    allow(user, scene.project)
    value = scene.value()
    layer = value.layer(layer_id)
    if layer.ride is None:
        raise EditRefused(f"{layer.name} rides no path; there is nothing to keep.")
    if scene.project.rides.count() >= MOST_RIDES:
        raise EditRefused(f"The library holds {MOST_RIDES} rides; forget one first.")
    # What it looks at is of this scene alone.
    x, y = value.width / 2, value.height / 2
    facing = layer.ride.facing if layer.ride.facing.target is None else replace(
        layer.ride.facing, target=None, spot=(x, y))  # fmt: skip
    rider = Layer("rider", "Rider", Shape(), ride=replace(layer.ride, facing=facing))
    kept = replace(value, layers=(rider,), paths=(value.path(layer.ride.path),))
    taken = set(scene.project.rides.values_list("name", flat=True))
    path = value.path(layer.ride.path).name
    title = fresh_name((name.strip() or f"{layer.name} on {path}")[:72], taken)
    return SavedRide.objects.create(project=scene.project, name=title, document=codec.to_json(kept, indent=None))


def loaded(value: Document, layer_id: str, saved: SavedRide) -> list[Command]:
    """Return the commands that put a layer on a kept ride.

    A path of the scene that is the kept one is used as it is; else it is added. Seconds stay at another frame rate.

    Errors: EditRefused: the layer is a line.
    """
    layer, kept = value.layer(layer_id), saved.value()
    if isinstance(layer.content, Line):
        raise EditRefused(f"{layer.name} is a line and follows its own path; it cannot ride one.")
    ride, path = kept.ride_of("rider"), kept.paths[0]
    factor = value.fps / kept.fps
    if factor != 1:
        ride = replace(ride, pegs=retimed(ride.pegs, ride.start * factor, ride.end * factor))
    same = next((p for p in value.paths if p.subpaths == path.subpaths), None)
    if same is not None:
        return [AttachRide(layer.id, replace(ride, path=same.id))]
    name = fresh_name(path.name, {p.name for p in value.paths})
    fresh = replace(path, id=fresh_id(name, {p.id for p in value.paths}, "path"), name=name, locked=False)
    return [AddPath(fresh), AttachRide(layer.id, replace(ride, path=fresh.id))]
