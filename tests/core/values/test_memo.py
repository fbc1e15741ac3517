"""What is kept is bounded, each for itself and all together."""

from __future__ import annotations

from dromic.core.values import memo
from dromic.core.values.memo import Memo


def made(kept, key, mb):
    """Whether an answer had to be made."""
    asked = []
    kept.get(key, lambda: asked.append(1) or key, lambda _: mb * 1e6)
    return bool(asked)


def test_an_answer_is_made_once():
    kept = Memo(10)
    assert [made(kept, "a", 1), made(kept, "a", 1), made(kept, "b", 1), made(kept, "a", 1)] == [
        True,
        False,
        True,
        False,
    ]


def test_too_much_in_one_lets_go_of_all_of_it():
    kept = Memo(10)
    assert made(kept, "a", 6) and made(kept, "b", 6)
    assert not made(kept, "b", 6) and made(kept, "a", 1)


def test_too_much_together_lets_go_of_all_but_the_small(monkeypatch):
    monkeypatch.setattr(memo, "_MOST_TOGETHER", 20e6)
    one, other, small = Memo(15), Memo(15), Memo(100, small=True)
    assert made(one, "a", 12) and made(small, "s", 90)
    assert made(other, "b", 12)
    assert made(one, "a", 1) and not made(other, "b", 12) and not made(small, "s", 90)
