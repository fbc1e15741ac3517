"""The price list as a table for people: what costs a hand, takes its time or is forbidden to it, and what scales it."""

from __future__ import annotations

from collections.abc import Iterator

from dromic.core.prices.facts import BOTH, FACT_SETS
from dromic.core.prices.row import UNITS, PriceList


def price_table(prices: PriceList) -> str:
    """Markdown: a heading for each set of facts, a line for each of its rows, and what the rows may read."""
    return "\n".join(_lines(prices)) + "\n"


def _lines(prices: PriceList) -> Iterator[str]:
    for about, facts in FACT_SETS.items():
        rows = [row for row in prices.rows if row.about == about]
        hands = "both hands" if facts.hand == BOTH else f"{facts.hand} hand"
        yield from ("", f"## {facts.what[:1].upper()}{facts.what[1:]}", "", f"{hands}, level: {facts.level}", "")
        yield from ("| row | kind | what it is | numbers and habits | facts |", "|---|---|---|---|---|")
        for row in rows:
            numbers, reads = (", ".join(f"`{name}`" for name in names) for names in (row.numbers, row.reads))
            unit = f", {UNITS[row.kind]}" if UNITS[row.kind] else ""
            yield f"| {row.name} | {row.kind}{unit} | {row.words} | {numbers} | {reads} |"
        yield ""
        yield from (
            f"- `{name}`: {what}" for name, what in facts.facts.items() if any(name in row.reads for row in rows)
        )
