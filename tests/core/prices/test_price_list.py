"""The price list: every row decides some plan, rows read nothing they do not name, and one row more is one entry."""

from dataclasses import replace

import numpy as np
import pytest

from dromic.core.findings import findings
from dromic.core.findings.evidence import FRETTING as BY_FRETTING
from dromic.core.findings.evidence import Rule, Seen
from dromic.core.plan.finding import Change
from dromic.core.prices.facts import FACT_SETS, PLACE, SHAPE
from dromic.core.prices.price_list import PRICES
from dromic.core.prices.row import PERMIT, PRICE, TIME, PriceList, Row
from dromic.core.questions import remedies
from dromic.core.questions.changes import Tried
from dromic.core.search.planner import judge, solve
from dromic.core.search.row_costs import row_costs
from dromic.core.values.errors import DromicError
from tests.build import EIGHTH, phrase, planned, request
from tests.price_examples import DECIDES, examples
from tools.prices import FILE, prices_text

LARGE, LONG = 1000.0, 30.0
"""times a price, and a time"""


def outcome(asked):
    """What a plan is: its notes and its ceiling; or that there is none."""
    try:
        plan = judge(solve(asked))
    except DromicError as error:
        return str(error)
    return plan.ceiling, [(n.string, n.fret, n.finger, n.position, n.attack, n.stroke, n.lean) for n in plan.notes]


@pytest.mark.parametrize("name", [row.name for row in PRICES.rows])
def test_every_row_decides_some_plan(name):
    """Made large, or taken away where what it prices is avoided anyhow; a permit is taken away."""
    asked, row = examples()[DECIDES[name]], PRICES.named(name)
    lists = [PRICES.without(name)]
    if row.kind != PERMIT:
        lists.insert(0, PRICES.weighed(name, LONG if row.kind == TIME else LARGE))
    before = outcome(asked)
    assert any(outcome(replace(asked, prices=prices)) != before for prices in lists)


def _open_strings(open_notes):
    return 20.0 * open_notes


def test_one_row_more_is_one_entry():
    """A habit with a price of its own: open strings, which lie still in the hand, are no longer used, and it says so."""
    line = phrase(["G3", "A3", "B3", "D4", "E4", "D4", "B3", "A3"], EIGHTH)
    asked = request(line, keep=frozenset({"attacks"}))
    assert any(n.fret == 0 for n in judge(solve(asked)).notes)
    row = Row("open strings", SHAPE, PRICE, _open_strings, "an open string is used")
    without = judge(solve(replace(asked, prices=PRICES.joined([row]))))
    assert all(n.fret for n in without.notes)
    stated = replace(request(phrase([(3, 0), (3, 2), (2, 0)])), prices=PRICES.joined([row]))
    dearest = row_costs(solve(stated).path, 0)[0]
    assert (dearest.name, dearest.cost) == ("open strings", 20.0)


def _on_accents(sign, accent):
    return 5.0 * (sign > 0) if accent else 0.0


def test_what_a_row_reads_is_part_of_what_is_kept():
    """Sixteen alike notes, one of them accented: a row that reads accents prices that one and no other."""
    line = phrase([(3, 5)] * 16)
    marked = [replace(e, notes=tuple(replace(n, marks=frozenset({"accent"})) for n in e.notes)) if i == 9 else e
              for i, e in enumerate(line.events)]  # fmt: skip
    asked = request(replace(line, events=tuple(marked)), "alternate", start="down")
    row = Row("downs on accents", PLACE, PRICE, _on_accents, "an accent is struck down")
    up, down = (solve(replace(asked, start=start)).route.cost for start in ("up", "down"))
    more = replace(asked, prices=PRICES.joined([row]))
    assert solve(more).route.cost == pytest.approx(down)  # its tenth note is an up-stroke
    assert solve(replace(more, start="up")).route.cost == pytest.approx(up + 5.0)


def test_a_row_that_reads_what_is_not_there_is_refused():
    def unheard_of(moonlight):
        return moonlight

    with pytest.raises(ValueError, match="moonlight"):
        PriceList((Row("new", SHAPE, PRICE, unheard_of, ""),))
    with pytest.raises(ValueError, match="share a name"):
        PRICES.joined([PRICES.rows[0]])


def test_numbers_scale_their_rows_and_each_fact_is_told():
    numbers = {number for row in PRICES.rows for number in row.numbers}
    assert {"stretch_price", "shift_ms", "lift_out_ms", "knot_price", "same_fret"} <= numbers
    for row in PRICES.rows:
        assert row.reads and row.words and set(row.reads) <= set(FACT_SETS[row.about].facts)


def test_the_table_of_the_docs_is_the_list():
    assert FILE.read_text("utf-8") == prices_text(), "run python -m tools.prices"


def test_a_rule_and_a_change_to_try_are_one_entry_each(monkeypatch):
    def high(seen):
        yield from (
            Seen((n.event,), 0.0, f"Note {n.index + 1} is high", cost=9.0) for n in seen.plan.notes if n.fret > 9
        )

    rule = Rule("high", "High", BY_FRETTING, "A note lies high.", high, own=True, advice="come down")
    monkeypatch.setattr(findings, "RULES", (*findings.RULES, rule))
    monkeypatch.setattr(findings, "_OWN", findings._OWN | {"high"})
    line = phrase([(3, 5), (3, 7), (3, 12)], EIGHTH)
    assert planned(line).findings[0].rule == "high"

    def an_octave_down(solved, event, note):
        lower = request(phrase([(3, 5), (3, 7), (3, 0)], EIGHTH))
        yield Tried(Change("play it an octave lower"), solve(lower))

    monkeypatch.setitem(remedies.KINDS, BY_FRETTING, (an_octave_down,))
    found = next(f for f in remedies.with_remedies(solve(request(line)), {}).findings if f.rule == "high")
    assert found.remedy is not None and found.remedy.text == "play it an octave lower"
    assert found.rows and found.rows[0].cost > 0


def test_prices_of_shapes_are_worked_out_side_by_side():
    """[K] for K shapes, the same as one by one."""
    solved = solve(request(phrase([[(5, 3), (4, 5), (3, 5)], [(5, 5), (4, 7), (3, 7)]], EIGHTH)))
    nodes, task = solved.layers.layers[1].fretting, solved.layers.wishes[1]
    fretting = solved.layers.frets.fretting
    shapes = list(nodes.shapes)
    together = PRICES.total(SHAPE, PRICE, fretting.facts(shapes, task))
    alone = [float(PRICES.total(SHAPE, PRICE, fretting.facts([shape], task))[0]) for shape in shapes]
    assert np.allclose(together, alone) and len(shapes) > 3
