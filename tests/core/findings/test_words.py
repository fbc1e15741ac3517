"""What findings say: the tempo first, no milliseconds in the sentence, nothing that is no help."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from dromic import presets
from dromic.core.findings.findings import RULES
from dromic.core.questions.remedies import with_remedies
from dromic.core.reports.ceiling_words import stands_on
from dromic.core.search.planner import solve
from tests.build import phrase, request
from tests.demos import demo_requests

REQUESTS = demo_requests()
TIMED = {rule.name for rule in RULES if rule.timed}


@pytest.mark.parametrize("asked", REQUESTS, ids=lambda one: one.phrase.title)
def test_a_sentence_begins_with_the_tempo_and_keeps_its_milliseconds_for_those_who_ask(asked):
    tempo = asked.phrase.tempo
    found = with_remedies(solve(asked), presets.other_leans(), schools=presets.carrying_schools())
    for finding in found.findings:
        assert not re.search(r"\d ms\b|\bload\b|buried|around the strings|straight through", finding.text)
        if finding.load and finding.rule in TIMED:
            fits = re.match(r"(?:Fits up to|Goes to) about (\d+)", finding.text)
            assert fits and int(fits[1]) == round(tempo / finding.load)
        remedy = finding.remedy
        if remedy is not None and remedy.place_ceiling is not None and finding.load > 1:
            assert remedy.place_ceiling >= tempo - 0.01
        if remedy is not None and finding.load and finding.load <= 1:
            assert remedy.ceiling is None or remedy.ceiling > found.ceiling


def test_what_sets_the_ceiling_says_what_it_stands_on():
    asked = request(phrase([(3, 5), (3, 7), (3, 8), (4, 5), (4, 7)], tempo=140), "alternate")
    found = with_remedies(solve(asked), {})
    words = stands_on(found.limit, asked.player, presets.players().values())
    assert words.startswith("Set at note 4 by the time of ") and "lifting out" in words and "starting guesses" in words
    assert "this player's own" in stands_on(found.limit, asked.player, [])


def test_the_table_of_kinds_is_that_of_the_rules():
    lines = Path("docs/findings.md").read_text("utf-8").splitlines()
    rows = [[cell.strip() for cell in line.split("|")[1:-1]] for line in lines if line.startswith("| ")][1:]
    assert [row[:3] for row in rows] == [[rule.label, rule.hand, rule.meaning] for rule in RULES]
    assert all(row[3] for row in rows)
    assert Path("dromic/data/guide/findings.md").read_text("utf-8").splitlines() == lines
