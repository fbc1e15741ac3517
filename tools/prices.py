"""Writes docs/prices.md, the price list as a table: `python -m tools.prices`."""

from __future__ import annotations

from pathlib import Path

from dromic.core.prices.price_list import PRICES
from dromic.core.prices.table import price_table

FILE = Path(__file__).parents[1] / "docs" / "prices.md"
HEAD = """# The price list

Everything that costs a hand, takes its time or is forbidden to it is one row; the search adds them up, and what is told of a plan is
read off the same rows. What the numbers mean, and where they come from, stands in [model.md](model.md) and in `data/players.toml`; the
rows themselves are in `dromic/core/prices`. Made by `python -m tools.prices`; a test holds it to the rows.
"""


def prices_text() -> str:
    """The whole file."""
    return HEAD + price_table(PRICES)


if __name__ == "__main__":
    FILE.write_text(prices_text(), "utf-8")
