"""What players count by hand, counted. Common practice, with no published source."""

from fractions import Fraction as F

import pytest

from dromic.core.reports.counts.count_rows import counts
from dromic.core.reports.counts.figures import FIGURE_WORDS, FIGURES, Figure, figures
from dromic.core.reports.counts.statistics import statistics_of
from tests.build import EIGHTH, QUARTER, SIXTEENTH, phrase, planned

LOW = (6, 0)


def figures_of(*lengths, **options):
    return figures(phrase([LOW] * len(lengths), list(lengths), **options))


def test_a_gallop_is_no_triplet():
    assert figures_of(*[EIGHTH, SIXTEENTH, SIXTEENTH] * 3) == (Figure("gallop", 0, 3),)
    assert figures_of(*[SIXTEENTH, SIXTEENTH, EIGHTH] * 2) == (Figure("reverse gallop", 0, 2),)
    assert figures_of(*[F(1, 3)] * 3) == (Figure("triplet", 0, 1),)


def test_couplets_threes_and_nines():
    assert figures_of(F(3, 4), SIXTEENTH) == (Figure("long-short couplet", 0, 1),)
    assert figures_of(F(2, 3), F(1, 3)) == (Figure("long-short couplet in three", 0, 1),)
    assert figures_of(*[F(1, 9)] * 9) == (Figure("nine to the beat", 0, 1),)
    assert figures_of(*[F(1, 6)] * 6, QUARTER)[0].name == "sixteenth triplet"


def test_figures_start_on_a_beat_and_other_lengths_are_none():
    assert figures_of(SIXTEENTH, EIGHTH, SIXTEENTH, QUARTER) == ()
    off = figures_of(SIXTEENTH, EIGHTH, SIXTEENTH, EIGHTH, SIXTEENTH, SIXTEENTH)
    assert off == (Figure("gallop", 3, 1),)


def test_figures_at_other_speeds_and_off_the_beat():
    assert figures_of(QUARTER, EIGHTH, EIGHTH, *[QUARTER] * 2) == (Figure("gallop", 0, 1, F(1, 2)),)
    assert figures_of(F(3, 2), EIGHTH, QUARTER, QUARTER)[0].words == "long-short couplet, half as fast"
    assert figures_of(SIXTEENTH, F(1, 8), F(1, 8), EIGHTH, *[QUARTER] * 3)[0].words == "gallop, twice as fast"
    assert figures_of(*[F(2, 9)] * 9, QUARTER, QUARTER) == (Figure("nine over two beats", 0, 1),)
    late = figures_of(EIGHTH, EIGHTH, SIXTEENTH, SIXTEENTH, QUARTER, QUARTER)
    assert [f.words for f in late if f.name == "gallop"] == ["gallop, off the beat"]


def test_every_figure_says_how_it_differs():
    assert all(FIGURE_WORDS[name] for name, _, _ in FIGURES) and "triplet is three alike" in FIGURE_WORDS["gallop"]


def test_notes_are_counted_per_stay_on_a_string():
    line = phrase([(6, 1), (6, 2), (6, 3), (5, 1), (5, 2), (4, 1)])
    assert statistics_of(planned(line, "alternate")).stays == (3, 2, 1)


def test_changes_jumps_and_span():
    counted = statistics_of(planned(phrase([(6, 5), (3, 5), (4, 5), (4, 7), (1, 5)]), "alternate"))
    assert (counted.largest_jump, counted.span) == (3, 5)
    assert counted.pairs == {(6, 3): 1, (3, 4): 1, (4, 1): 1}
    assert sum(counted.changes.values()) == 3 and set(counted.changes) <= {
        "outside", "inside", "skip-outside", "skip-inside",
    }  # fmt: skip


def test_transfers_between_fingers_and_those_never_met():
    line = phrase([(4, 12), (3, 14), (4, 12), (3, 14)])
    found = planned(line, "alternate")
    counted = statistics_of(found)
    a, b = found.notes[0].finger, found.notes[1].finger
    assert counted.transfers == {(a, b): 2, (b, a): 1}
    assert (a, b) not in counted.missing_transfers and len(counted.missing_transfers) == 14
    assert sum(counted.finger_notes.values()) == 4


@pytest.mark.parametrize(
    ("notes", "attacks", "most"),
    [
        ([(4, 5), (4, 5)], {}, 1),
        ([(4, 5), (3, 5)], {}, 2),
        ([(4, 2), (3, 14)], {}, 3),
        ([(4, 5), (4, 7)], {1: "hammer"}, 1),
    ],
)
def test_what_meets_in_one_gap(notes, attacks, most):
    """A new stroke; with a new string; with a shift; a slur by itself."""
    assert statistics_of(planned(phrase(notes, attacks=attacks), "alternate")).meetings == {most: 1}


def test_the_busiest_second_is_counted():
    """Eight sixteenths at 120 last a second; then two halves: ten strokes in under four seconds, eight of them in the first."""
    found = planned(phrase([(3, 5)] * 10, [SIXTEENTH] * 8 + [F(2), F(2)], tempo=120), "alternate")
    row = next(r for group in counts(found) for r in group.rows if r.label == "Strokes")
    assert row.words.startswith("10, ") and "8 in the busiest second" in row.words
