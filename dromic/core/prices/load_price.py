"""What a load costs: one sum for both hands."""

from __future__ import annotations

import numpy as np

from dromic.core.values.arrays import Floats


def load_price(load: Floats, dial: float, over_price: float) -> Floats:
    """Objective of loads [...]: a power of each, steep past 1."""
    powered = load * load if dial == 2.0 else load**dial
    past = np.asarray(load - 1.0)
    np.maximum(0.0, past, out=past)
    past *= over_price
    past += powered
    return past
