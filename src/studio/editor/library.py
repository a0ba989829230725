"""The project's library of rides: kept from one scene, put to use in another."""

from dataclasses import replace

from coaster.errors import EditRefused
from coaster.ids import fresh_name
from coaster.scene import codec
from coaster.scene.contents import Shape
from coaster.scene.document import Layer
from studio.projects.models import SavedRide, Scene
from studio.projects.querysets import Person
from studio.projects.services import allow

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
    facing = layer.ride.facing
    if facing.target is not None:
        facing = replace(facing, target=None, spot=(x, y))
    rider = Layer("rider", "Rider", Shape(), ride=replace(layer.ride, facing=facing))
    # A group of this scene is nothing to another one.
    path = replace(value.path(layer.ride.path), parent=None, legs=())
    # A scene of its own, so that it opens, evaluates and is migrated as any other.
    kept = replace(value, layers=(rider,), paths=(path,))
    taken = set(scene.project.rides.values_list("name", flat=True))
    title = fresh_name((name.strip() or f"{layer.name} on {path.name}")[:72], taken)
    return SavedRide.objects.create(
        project=scene.project, name=title, document=codec.to_json(kept, indent=None)
    )
