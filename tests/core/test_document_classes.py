"""Classes whose values are checked when they are made."""

import pickle
import threading
from collections.abc import Iterator
from dataclasses import FrozenInstanceError, fields, replace
from typing import Annotated, Literal, get_args, get_origin, get_type_hints

import pytest
from pydantic import TypeAdapter, ValidationError

from coaster import (
    commands,  # noqa: F401 - all classes there are
    documents,
)
from coaster.documents import Rule, document, swapped, trusted


@document
class Tide:
    """How high the water stands."""

    height: Annotated[float, Rule(ge=-20, le=20)] = 0.0
    name: Annotated[str, Rule(pattern="^[a-z]+$", max_length=8)] = "ebb"


@document
class Calm:
    kind: Literal["calm"] = "calm"


@document
class Swell:
    length: Annotated[float, Rule(gt=0)]
    kind: Literal["swell"] = "swell"


@document
class Day:
    """What a class holds may be told by name, and be made further down."""

    tides: Annotated[tuple[Tide, ...], Rule(min_length=1)]
    sea: Annotated[Calm | Swell, Rule(discriminator="kind")] = Calm()
    next: "Day | Eve | None" = None

    def __post_init__(self) -> None:
        if len({tide.name for tide in self.tides}) != len(self.tides):
            raise ValueError("two tides have one name")


@document
class Eve:
    day: Day


DAY = Day((Tide(1.0), Tide(2, "flood")), Swell(3.0))


def test_what_keeps_the_rules_is_a_frozen_value():
    assert Day((Tide(1.0), Tide(2, name="flood")), sea=Swell(3.0)) == DAY
    assert {DAY: 1}[replace(DAY)] == 1
    assert isinstance(DAY.tides[1].height, float)
    assert pickle.loads(pickle.dumps(DAY)) == DAY  # noqa: S301 - our own
    assert [field.name for field in fields(Day)] == ["tides", "sea", "next"]
    with pytest.raises(FrozenInstanceError):
        DAY.next = DAY
    assert Tide() == Tide(0.0, "ebb")


@pytest.mark.parametrize(
    "make",
    [
        lambda: Tide(20.5),
        lambda: Tide(height=float("nan")),
        lambda: Tide(name="Ebb"),
        lambda: Tide(name="toolongname"),
        lambda: Tide(0.0, "ebb", 3),
        lambda: Tide(depth=3),
        lambda: Swell(),
        lambda: Swell(0),
        lambda: Day(()),
        lambda: Day((Tide(), Tide(1.0))),
        lambda: Day((Tide(),), sea="rough"),
        lambda: Day((Tide(),), next=Tide()),
        lambda: replace(DAY, tides=()),
        lambda: replace(DAY.tides[0], height=-21),
    ],
)  # fmt: skip
def test_what_breaks_a_rule_is_not_made(make):
    with pytest.raises((ValidationError, TypeError)):
        make()


def test_what_is_read_keeps_the_same_rules():
    reader = TypeAdapter(Day)
    told = b'{"tides": [{"height": 1.0}, {"height": 2, "name": "flood"}], "sea": {"kind": "swell", "length": 3}}'
    assert reader.validate_json(told) == DAY
    assert reader.validate_json(reader.dump_json(Day((Tide(),), next=Eve(DAY)))).next.day == DAY
    for broken in (b'{"tides": []}', b'{"tides": [{"height": 99}]}', b'{"tides": [{}], "moon": 1}',
                   b'{"tides": [{}, {}]}', b'{"tides": [{}], "sea": {"kind": "swell", "length": 0}}'):  # fmt: skip
        with pytest.raises(ValidationError):
            reader.validate_json(broken)


def test_within_trust_nothing_is_checked_and_only_there():
    refused = []

    def meanwhile() -> None:
        try:
            Tide(99.0)
        except ValidationError as error:
            refused.append(error)

    def fails() -> None:
        with trusted():
            assert Tide(99.0).height == 99.0
            assert Day((Tide(),)).sea == Calm()
            other = threading.Thread(target=meanwhile)
            other.start()
            other.join()
            # What a class asks by itself is asked all the same.
            Day((Tide(), Tide()))

    with pytest.raises(ValueError, match="one name"):
        fails()
    assert len(refused) == 1
    with pytest.raises(ValidationError):
        Tide(99.0)


def rules_of(kind: object) -> Iterator[int]:
    """Yield how many rules each type within one has."""
    if get_origin(kind) is Annotated:
        yield sum(isinstance(each, Rule) for each in kind.__metadata__)
    for inner in get_args(kind):
        yield from rules_of(inner)


def test_no_type_has_two_rules_of_which_only_the_last_would_hold():
    kinds = [kind for kind in documents._KINDS if kind.__module__.startswith("coaster.")]
    told = [
        (kind.__name__, name, max(rules_of(hint), default=0))
        for kind in kinds
        for name, hint in get_type_hints(kind, include_extras=True).items()
    ]
    assert len(kinds) > 40
    assert sum(most for _, _, most in told) > 100
    assert [each for each in told if each[2] > 1] == []


def test_fields_are_swapped_without_checks():
    assert swapped(DAY, sea=Calm()) == replace(DAY, sea=Calm())
    assert swapped(DAY.tides[0], height=99.0).height == 99.0
