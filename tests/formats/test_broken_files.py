"""Some hundred broken files of every kind: each is a phrase or one clear sentence (the benchmark tries many more)."""

from __future__ import annotations

from collections import Counter

from dromic.core.values.errors import DromicError
from dromic.formats.table import FORMATS
from tests.broken import many


def test_broken_files_are_phrases_or_one_sentence():
    outcomes: Counter[tuple[str, bool]] = Counter()
    for ending, data in many(360, most=50_000):
        kind = next(f for f in FORMATS if ending in f.extensions)
        try:
            phrase = kind.read(data, 1, 1)
            outcomes[ending, True] += 1
            assert phrase.bars
        except DromicError as error:
            outcomes[ending, False] += 1
            assert "\n" not in str(error) and 10 < len(str(error)) < 400
    for ending in {e for e, _ in outcomes}:
        assert outcomes[ending, False] > 2, ending  # the test would not be one if nothing broke
