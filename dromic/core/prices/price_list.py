"""The price list that plans are made by."""

from __future__ import annotations

from dromic.core.prices import fretting_rows, picking_rows
from dromic.core.prices.row import PriceList

PRICES = PriceList((*fretting_rows.ROWS, *picking_rows.ROWS))
