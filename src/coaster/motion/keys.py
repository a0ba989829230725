"""Keys of a layer's properties over time, and what is done to many of them at once."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from typing import Annotated

import numpy as np
from numpy.typing import ArrayLike

from coaster.documents import Rule, document, swapped
from coaster.errors import EditRefused
from coaster.geometry.bezier import Floats
from coaster.geometry.path import Colour, Id
from coaster.ids import Ids, fresh_id
from coaster.motion import colours as palette
from coaster.motion import easing
from coaster.motion.sections import Frames, Reach, changed, paced, shares

MOST_KEYS = 5000


@document
class Key:
    """At ``time`` (frames, may be fractional) a property is ``value``, a number or ``#rrggbb``.

    The section to the next key follows ``leave`` and that key's ``arrive``, or jumps at its
    ``step``.
    """

    id: Id
    time: Frames
    value: Annotated[float, Rule(ge=-1_000_000, le=1_000_000)] | Colour
    arrive: Reach = Reach()
    leave: Reach = Reach()
    step: easing.Step = "none"


Keys = tuple[Key, ...]


def number(key: Key) -> float:
    """Return the value of a key that is no colour."""
    assert not isinstance(key.value, str)  # noqa: S101 - a track's keys are all of a kind
    return key.value


def values(keys: Sequence[Key], times: ArrayLike) -> tuple[Floats, Floats]:
    """Return the property at ``times``, and its change a frame.

    Shapes:     ``times`` (n,) in frames, any order; two arrays (n,) out.
    Accuracy:   every key is met exactly.
    Degenerate: before the first key and after the last the property rests; a curve may lead it
                beyond its keys' values.
    """
    t = np.asarray(times, float)
    if len(keys) == 1:
        return np.full(t.shape, number(keys[0])), np.zeros(t.shape)
    k, share, rate = shares(tuple(keys), False, t.tobytes())
    known = np.array([number(key) for key in keys])
    gain = np.diff(known)[k]
    value = np.where(share == 1.0, known[k + 1], known[k] + share * gain)
    return np.where(t < keys[0].time, known[0], value), rate * gain


def later(keys: Keys, frames: float) -> Keys:
    """Return the same keys, so many frames later."""
    return tuple(swapped(key, time=key.time + frames) for key in keys) if frames else keys


def colours(keys: Sequence[Key], times: ArrayLike) -> Floats:
    """Return red, green, blue and alpha (n, 4), 0..1, at ``times``; what lies between keys is mixed
    in ``colours.lab``.

    Accuracy: every key is met within half a level of 8 bits.
    """
    t = np.asarray(times, float)
    known = np.array([palette.from_hex(str(key.value)) for key in keys])
    if len(keys) == 1:
        return np.repeat(known, len(t), axis=0)
    k, share, _ = shares(tuple(keys), False, t.tobytes())
    share = np.clip(np.where(t < keys[0].time, 0.0, share), 0.0, 1.0)[:, None]
    mixed = np.concatenate([palette.lab(known[:, :3]), known[:, 3:]], axis=1)
    between = mixed[k] + share * (mixed[k + 1] - mixed[k])
    return np.concatenate([palette.rgb(between[:, :3]), between[:, 3:]], axis=1)


def with_key(keys: Keys, time: float, value: float | str, pace: easing.Pace = easing.EVEN) -> Keys:
    """Return the keys with the property's value at a time set; both sections of a new key follow a
    pace.
    """
    found = next((key for key in keys if abs(key.time - time) < 1e-9), None)
    if found is not None:
        return tuple(replace(key, value=value) if key is found else key for key in keys)
    made = Key(fresh_id("key", {key.id for key in keys}), time, value)
    earlier = tuple(key for key in keys if key.time <= time)
    later = keys[len(earlier) :]
    joined = list(paced((*earlier[-1:], made, *later[:1]), pace))
    # Only the two sections of the new key follow the pace; what is beyond them stays.
    if earlier:
        joined[0] = changed(joined[0], arrive=earlier[-1].arrive)
    if later:
        joined[-1] = changed(joined[-1], leave=later[0].leave, step=later[0].step)
    return (*earlier[:-1], *joined, *later[1:])


def without(keys: Keys, gone: Collection[str]) -> Keys:
    return tuple(key for key in keys if key.id not in gone)


def scaled(keys: Keys, factor: float) -> Keys:
    """Return the keys with every time multiplied."""
    return tuple(replace(key, time=key.time * factor) for key in keys)


def backwards(keys: Keys) -> Keys:
    """Return the keys run the other way round within the same time."""
    start, end = keys[0].time, keys[-1].time
    turned: dict[easing.Step, easing.Step] = {"none": "none", "start": "end", "end": "start"}
    steps = [turned[key.step] for key in keys[:-1]][::-1]
    return tuple(
        replace(
            key,
            id=now.id,
            time=start + end - key.time,
            arrive=key.leave,
            leave=key.arrive,
            step=steps[i] if i < len(steps) else "none",
        )
        for i, (now, key) in enumerate(zip(keys, reversed(keys), strict=True))
    )


def on_run(keys: Keys, chosen: Collection[str], change: Callable[[Keys], Keys]) -> Keys:
    """Return the keys with a run of them changed as a whole; later ones come as much later as it
    gets longer.

    Errors: EditRefused: there is another key between the chosen ones, or none is chosen.
    """
    places = [i for i, key in enumerate(keys) if key.id in chosen]
    if not places or places[-1] - places[0] + 1 != len(places):
        raise EditRefused(
            "Choose keys of a property that follow each other, with none left out between."
        )
    run, rest = keys[places[0] : places[-1] + 1], keys[places[-1] + 1 :]
    first, last = run[0], run[-1]
    made = list(change(run))
    # Sections that lead to the run, and away from it, stay as they are.
    made[0] = replace(made[0], arrive=first.arrive)
    made[-1] = replace(made[-1], leave=last.leave, step=last.step)
    by = made[-1].time - last.time
    ids, known = Ids(key.id for key in keys), {key.id for key in run}
    fresh = [key if key.id in known else replace(key, id=ids.fresh("key")) for key in made]
    return (*keys[: places[0]], *fresh, *(replace(key, time=key.time + by) for key in rest))


def repeated(
    keys: Keys, times: int, *, stretch: float = 1.0, fade: float = 1.0, rest: float | None = None
) -> Keys:
    """Return the keys followed by themselves, over and over.

    Units:  ``times`` counts the first one; each repeat takes ``stretch`` times as long as the one
            before and its height over ``rest`` (the last value if not given) is ``fade`` times
            that of the one before.
    Errors: EditRefused: fewer than two keys, fewer than two times, or more keys than a property
    has.
    """
    _check_repeats(keys, times, stretch)
    floor = keys[-1].value if rest is None else rest
    made, ids = list(keys), Ids(key.id for key in keys)
    for lap in range(1, times):
        start, height = made[-1].time, fade**lap
        # A repeat goes on from where the one before ended; a jump there would be nobody's wish.
        made[-1] = replace(made[-1], leave=keys[0].leave, step=keys[0].step)
        for key in keys[1:]:
            time = start + (key.time - keys[0].time) * stretch**lap
            value = _faded(key.value, floor, height)
            made.append(replace(key, id=ids.fresh("key"), time=time, value=value))
    return tuple(made)


def _check_repeats(keys: Keys, times: int, stretch: float) -> None:
    if len(keys) < 2 or times < 2:
        raise EditRefused("To be repeated takes two keys or more, twice or more.")
    if times * len(keys) > MOST_KEYS:
        raise EditRefused(
            f"That would be more than {MOST_KEYS} keys; repeat fewer of them, or less often."
        )
    span = keys[-1].time - keys[0].time
    if span * min(stretch, stretch ** (times - 1)) / len(keys) < 1e-3:
        raise EditRefused("The repeats get shorter than a frame can tell; repeat less often.")


def _faded(value: float | str, floor: float | str, height: float) -> float | str:
    """Return a value whose height over a floor is a share of what it was; colours have none."""
    if isinstance(value, str) or isinstance(floor, str):
        return value
    return floor + (value - floor) * height
