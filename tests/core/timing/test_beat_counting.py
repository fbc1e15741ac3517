"""Counting words under the notes. Common practice, no published source."""

from fractions import Fraction

from dromic.core.timing import beat_counting
from dromic.core.timing.beat_counting import count
from dromic.core.values.metre import Metre
from tests.build import phrase


def words(pitches, lengths, **options):
    line = phrase(pitches, lengths, **options)
    return [count(line, e) for e in range(len(line.events))]


def test_a_beat_is_counted_by_what_it_is_divided_into():
    assert words([60] * 4, Fraction(1, 4)) == ["1", "e", "&", "a"]
    assert words([60] * 3, Fraction(1, 3)) == ["1", "trip", "let"]
    assert words([60] * 6, Fraction(1, 6)) == ["1", "", "trip", "", "let", ""]
    assert words([60] * 6, Fraction(1, 2), metre=Metre(6, 8)) == ["1", "2", "3", "4", "5", "6"]


def test_a_crowded_beat_is_looked_through_for_the_places_that_have_words_alone(monkeypatch):
    looks = []
    inside = beat_counting._in_three
    monkeypatch.setattr(beat_counting, "_in_three", lambda *asked: (looks.append(asked), inside(*asked))[1])
    found = words([60] * 256, Fraction(1, 256))
    assert [w for w in found if w] == ["1", "e", "&", "a"] and len(looks) == 3
