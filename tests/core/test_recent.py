"""What was worked out a moment ago."""

from concurrent.futures import ThreadPoolExecutor

from hypothesis import given
from hypothesis import strategies as st

from coaster.render.recent import Recent


@given(st.lists(st.lists(st.integers(0, 9), max_size=6), max_size=9), st.integers(1, 5))
def test_answers_are_right_and_only_so_many_are_kept(asked, most):
    recent, made = Recent(most), []

    def make(keys):
        made.extend(keys)
        return [key * key for key in keys]

    for keys in asked:
        before = len(made)
        assert recent.all(keys, make) == [key * key for key in keys]
        assert len(made) - before <= len(keys)
        assert len(recent._kept) <= most


def test_threads_may_ask_at_once():
    recent = Recent(3)
    with ThreadPoolExecutor(8) as threads:
        found = threads.map(
            lambda k: recent.all([k % 5, (k + 1) % 5], lambda keys: [-key for key in keys]),
            range(400),
        )
    assert all(pair == [-(k % 5), -((k + 1) % 5)] for k, pair in enumerate(found))
