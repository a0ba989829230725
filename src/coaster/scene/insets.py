"""Scenes in scenes: which show which, and what a layer tells of the one it shows."""

from collections.abc import Iterable, Mapping, Sequence

DEEPEST = 8
"""Scenes in scenes, at most."""


def check(shown: Mapping[str, tuple[str, Sequence[str]]]) -> None:
    """Hold that no scene shows itself, by way of others or not.

    ``shown`` are names of scenes, and the ids of those they show, by their ids; what is not among
    them shows nothing.
    Errors: ValueError in words.
    """
    depths: dict[str, int] = {}

    def depth(scene_id: str, above: Sequence[str]) -> int:
        name, inside = shown.get(scene_id, ("", ()))
        if scene_id in above:
            raise ValueError(f"{name} would show itself; a scene cannot be in itself")
        if len(above) >= DEEPEST:
            raise ValueError(f"{name} lies more than {DEEPEST} scenes deep")
        if scene_id not in depths:
            below = (depth(each, [*above, scene_id]) for each in inside)
            depths[scene_id] = 1 + max(below, default=0)
        if len(above) + depths[scene_id] > DEEPEST:
            raise ValueError(f"What is in {name} lies more than {DEEPEST} scenes deep")
        return depths[scene_id]

    for each in shown:
        depth(each, ())


def inner_first(start: Iterable[str], shown: Mapping[str, Iterable[str]]) -> list[str]:
    """Return the ids of all scenes that are shown from some on, each once, and behind those that it
    shows itself. What is not among them is left out.
    """
    found: dict[str, None] = {}

    def visit(scene_id: str) -> None:
        if scene_id in found or scene_id not in shown:
            return
        for each in shown[scene_id]:
            visit(each)
        found[scene_id] = None

    for each in start:
        visit(each)
    return list(found)
